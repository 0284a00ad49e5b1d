"""Audiences."""

from datetime import datetime
from typing import Any

from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import id_column, instant_column, json_column, reference, text_column


class Audience(SQLModel, table=True):
    """Criteria with a name. `criteria` is the stored tree; `edition` counts up with every change."""

    __tablename__ = "audience"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    criteria: dict[str, Any] = Field(sa_column=json_column())
    edition: int = 1
    updated_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    updated_at: datetime = Field(sa_column=instant_column())
