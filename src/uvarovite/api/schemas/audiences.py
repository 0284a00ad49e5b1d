"""Requests about audiences."""

from typing import Any

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.core.audiences import Part
from uvarovite.core.expressions import Node


class CriteriaRead(BaseModel):
    """Criteria in one of their two forms; with `estimate` a sample may be counted instead of all."""

    text: str | None = Field(default=None, max_length=20_000)
    tree: Node | None = None
    audience_id: Id | None = None
    estimate: bool = False


class SamplesAsk(BaseModel):
    """Criteria as text, and the audience whose they are."""

    text: str = Field(max_length=20_000)
    audience_id: Id | None = None


class CompleteAsk(SamplesAsk):
    """Criteria that are being written, and where the caret stands."""

    at: Count


class ClearanceAsk(BaseModel):
    """Criteria as text, and the audience whose hand-picked people belong to them, for a topic or a campaign."""

    text: str = Field(max_length=20_000)
    audience_id: Id | None = None
    topic_id: Id | None = None
    campaign_id: Id | None = None

    def asked(self) -> dict[str, Any]:
        """What every question about the clearance has in common, by the services' names."""
        return self.model_dump(include={"text", "audience_id", "topic_id", "campaign_id"})


class LookAsk(ClearanceAsk):
    """The same for a look; `on_paper` at the clearance of letters on paper."""

    on_paper: bool = False

    def asked(self) -> dict[str, Any]:
        """What every question about the clearance has in common, and whether it is of letters on paper."""
        return {**super().asked(), "on_paper": self.on_paper}


class HeldAsk(LookAsk):
    """Who stands behind a gate; None: who is cleared."""

    gate: str | None = None
    after_id: Id = 0


class WithoutAsk(ClearanceAsk):
    """Which gate is thought away."""

    gate: str = Field(max_length=40)


class ExplainAsk(ClearanceAsk):
    """Whose way is asked for."""

    address: str = Field(max_length=320)


class AudienceSave(BaseModel):
    """An audience as edited, with the part of those who match or None for all; `revision` is the one that was on screen."""

    name: str = Field(max_length=200)
    text: str = Field(max_length=20_000)
    part: Part | None = None
    revision: Count | None = None


class MemberSave(BaseModel):
    """Added, or left_out."""

    kind: str = Field(max_length=20)
