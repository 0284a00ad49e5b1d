"""Requests about topics."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id


class TopicSave(BaseModel):
    """A topic as edited; the key counts for a new one only."""

    key: str = Field(default="", max_length=80)
    name: str = Field(max_length=200)
    description: str = Field(default="", max_length=2_000)
    sender_id: Id | None = None
    revision: Count | None = None
    double_opt_in: bool = False
    week_cap: int | None = None
    month_cap: int | None = None


class TopicOrder(BaseModel):
    """Topics by id."""

    ids: list[Id] = Field(max_length=500)
