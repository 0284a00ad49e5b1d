"""Topics, the ledger of consent, its fold, and the suppression list."""

from datetime import datetime
from typing import Any

from sqlalchemy import Column, Index, Text, text
from sqlmodel import Field, SQLModel

from uvarovite.core.consent import ConsentEventKind, ConsentState, SuppressionReason
from uvarovite.store.tables.columns import (
    id_column,
    instant_column,
    json_column,
    one_of,
    reference,
    text_column,
)


class Topic(SQLModel, table=True):
    """What a person subscribes to."""

    __tablename__ = "topic"
    id: int | None = Field(default=None, sa_column=id_column())
    key: str = Field(sa_column=text_column(unique=True))
    name: str = Field(sa_column=text_column())
    description: str = Field(default="", sa_column=text_column())
    position: int


class ConsentEvent(SQLModel, table=True):
    """One entry of the ledger; a trigger refuses to change or remove it."""

    __tablename__ = "consent_event"
    __table_args__ = (
        one_of("kind", ConsentEventKind, "consent_event_kind"),
        Index("consent_event_by_contact", "contact_id", "topic_id", "id"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    contact_id: int = Field(sa_column=reference("contact.id"))
    topic_id: int = Field(sa_column=reference("topic.id"))
    kind: str = Field(sa_column=text_column())
    at: datetime = Field(sa_column=instant_column())
    way: str = Field(sa_column=text_column())
    evidence: dict[str, Any] = Field(sa_column=json_column())
    recorded_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))


class Consent(SQLModel, table=True):
    """The current state: the fold of the ledger, kept in step by the transaction that appends."""

    __tablename__ = "consent"
    __table_args__ = (one_of("state", ConsentState, "consent_state"),)
    contact_id: int = Field(sa_column=reference("contact.id", primary_key=True))
    topic_id: int = Field(sa_column=reference("topic.id", primary_key=True))
    state: str = Field(sa_column=text_column())
    since: datetime = Field(sa_column=instant_column())
    last_kind: str = Field(sa_column=text_column())
    event_id: int = Field(sa_column=reference("consent_event.id"))


class Suppression(SQLModel, table=True):
    """An address that gets nothing; at most one entry in force for each."""

    __tablename__ = "suppression"
    __table_args__ = (
        one_of("reason", SuppressionReason, "suppression_reason"),
        Index("suppression_in_force", "address_folded", unique=True, postgresql_where=text("lifted_at IS NULL")),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    address_folded: str = Field(sa_column=Column(Text, nullable=False))
    reason: str = Field(sa_column=text_column())
    evidence: dict[str, Any] = Field(sa_column=json_column())
    at: datetime = Field(sa_column=instant_column())
    lifted_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
