"""Requests about audiences."""

from typing import Any

from pydantic import BaseModel, Field


class CriteriaRead(BaseModel):
    """Criteria in one of their two forms."""

    text: str | None = Field(default=None, max_length=20_000)
    tree: dict[str, Any] | None = None


class ClearanceAsk(BaseModel):
    """Criteria as text, for a topic."""

    text: str = Field(max_length=20_000)
    topic_id: int | None = None


class HeldAsk(ClearanceAsk):
    """Who stands behind a gate; None: who is cleared."""

    gate: str | None = None
    after_id: int = 0


class AudienceSave(BaseModel):
    """An audience as edited; `edition` is the one that was on screen."""

    name: str = Field(max_length=200)
    text: str = Field(max_length=20_000)
    edition: int | None = None
