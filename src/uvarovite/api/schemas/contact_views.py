"""Requests about saved views."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count
from uvarovite.core.contacts.table_columns import TableColumn


class ViewSave(BaseModel):
    """A view as edited; `revision` is the one that was on screen."""

    name: str = Field(max_length=200)
    criteria: str = Field(default="", max_length=20_000)
    columns: list[TableColumn] = Field(max_length=100)
    sort: str = Field(max_length=80)
    revision: Count | None = None
