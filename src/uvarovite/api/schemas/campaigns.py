"""Requests about campaigns."""

from typing import Any

from pydantic import BaseModel, Field

from uvarovite.core.audiences import Again


class CampaignSave(BaseModel):
    """A campaign as edited; `edition` is the one that was on screen."""

    name: str = Field(max_length=200)
    topic_id: int | None = None
    audience_id: int | None = None
    message_id: int | None = None
    identity_id: int | None = None
    sender_id: int | None = None
    pace: dict[str, Any] = Field(default_factory=dict)
    again: Again = Again.NEW_TO_MESSAGE
    lifted: list[str] = Field(default_factory=list, max_length=20)
    edition: int | None = None


class ReleaseAsk(BaseModel):
    """What was on screen when the button was pressed."""

    edition: int
    seen_cleared: int
    seen_message_number: int
