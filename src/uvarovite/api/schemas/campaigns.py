"""Requests about campaigns."""

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.core.audiences import Again
from uvarovite.core.campaigns import Pace
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.messages import Tracked
from uvarovite.core.messages.paper import Paper


class CampaignSave(BaseModel):
    """A campaign as edited, at the usual pace where none is given; `revision` is the one that was on screen."""

    name: str = Field(max_length=200)
    topic_id: Id | None = None
    audience_id: Id | None = None
    message_id: Id | None = None
    sender_id: Id | None = None
    pool_id: Id | None = None
    pace: Pace | None = None
    again: Again = Again.NEW_TO_MESSAGE
    lifted: list[str] = Field(default_factory=list, max_length=20)
    track_opens: Tracked | None = None
    track_clicks: Tracked | None = None
    revision: Count | None = None


Criteria = Annotated[str, Field(max_length=2_000)]


class BranchesAsk(BaseModel):
    """The criteria of blocks for some people only, in their order, and in which of the message's languages they stand."""

    branches: list[Annotated[list[Criteria], Field(max_length=12)]] = Field(max_length=40)
    language: str = Field(default="", max_length=20)
    others: list[Annotated[str, Field(max_length=20)]] = Field(default_factory=list, max_length=12)


class ProofTick(BaseModel):
    """The letter that was read, by its digest, and whether it is right."""

    digest: str = Field(max_length=64, pattern=r"^[0-9a-f]*$")
    right: bool = True


class PrintingAsk(BaseModel):
    """What letters are laid out on, and how many people were cleared for one when the button was pressed."""

    paper: Paper
    seen_cleared: Count


class PrintingEnd(BaseModel):
    """Letters were printed, or are thrown away."""

    printed: bool


class AdviceAcceptance(BaseModel):
    """Why something that is advised against is right as it is."""

    reason: str = Field(max_length=1_000)


class ReleaseAsk(BaseModel):
    """What was on screen when the button was pressed."""

    revision: Count
    seen_cleared: Count
    seen_message_number: Count


class Released(BaseModel):
    """The run that a release made."""

    run_id: int


class Those(BaseModel):
    """Those of a run who stand in a state, or only some of them."""

    state: DeliveryState
    delivery_ids: list[Id] | None = Field(default=None, max_length=1_000)


class AgainBody(Those):
    """Whom to send to again, and how many that were on screen."""

    seen_cleared: Count


class PlanBody(ReleaseAsk):
    """What was on screen when a release was planned, and for when; without a zone the organisation's clock is meant."""

    at: datetime
