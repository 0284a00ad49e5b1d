"""Requests about drafts."""

from typing import Any

from pydantic import BaseModel

from uvarovite.api.schemas.values import Count


class DraftSave(BaseModel):
    """What was changed, what it was made from, and the draft's own revision that was on screen."""

    base: dict[str, Any]
    base_revision: Count
    body: dict[str, Any]
    seen: Count = 0
