"""Work that is not saved yet, and what was tried out with it."""

from datetime import datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import BigInteger, Column, Text
from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import (
    as_typed_column,
    id_column,
    instant_column,
    one_of,
    reference,
    text_column,
    texts_column,
)


class DraftKind(StrEnum):
    """What can be edited without being saved at each keystroke."""

    AUDIENCE = "audience"
    MESSAGE = "message"


class Draft(SQLModel, table=True):
    """What somebody changed and has not saved: `body`, begun from `base` at `base_revision`. `object_id` 0 is a new one."""

    __tablename__ = "draft"
    __table_args__ = (one_of("kind", DraftKind, "draft_kind"),)
    kind: str = Field(sa_column=Column(Text, primary_key=True))
    object_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    user_id: int = Field(sa_column=reference("user_account.id", primary_key=True, cascade=True))
    base: dict[str, Any] = Field(sa_column=as_typed_column())
    base_revision: int
    body: dict[str, Any] = Field(sa_column=as_typed_column())
    revision: int
    at: datetime = Field(sa_column=instant_column())


class TestList(SQLModel, table=True):
    """Addresses that tests go to together, by name."""

    __tablename__ = "test_list"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    addresses: list[str] = Field(sa_column=texts_column())
    updated_at: datetime = Field(sa_column=instant_column())


class TestMail(SQLModel, table=True):
    """A test of a message, as one contact would get it. `digest` is that of the words, saved or not.

    `message_id` is None for words that were no message yet.
    """

    __test__ = False
    __tablename__ = "test_mail"
    id: int | None = Field(default=None, sa_column=id_column())
    message_id: int | None = Field(sa_column=reference("message.id", nullable=True, index=True))
    digest: str = Field(sa_column=text_column())
    contact_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    to_address: str = Field(sa_column=text_column())
    user_id: int = Field(sa_column=reference("user_account.id", cascade=True))
    at: datetime = Field(sa_column=instant_column())
    accepted: bool
