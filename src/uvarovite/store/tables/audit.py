"""What was done, by whom."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Column, DateTime, text
from sqlmodel import Field, SQLModel

from uvarovite.core.accounts import ActorKind
from uvarovite.store.tables.columns import facts_column, id_column, one_of, reference, text_column


class AuditEntry(SQLModel, table=True):
    """One thing that was done: code and facts, no sentence. The database tells the instant and refuses any change."""

    __tablename__ = "audit_entry"
    __table_args__ = (one_of("actor_kind", ActorKind, "audit_entry_actor_kind"),)
    id: int | None = Field(default=None, sa_column=id_column())
    at: datetime | None = Field(
        default=None,
        sa_column=Column(DateTime(timezone=True), nullable=False, index=True, server_default=text("clock_timestamp()")),
    )
    actor_kind: str = Field(sa_column=text_column())
    actor_name: str = Field(sa_column=text_column())
    user_id: int | None = Field(
        default=None, sa_column=reference("user_account.id", nullable=True, index=True, on_delete="SET NULL")
    )
    token_id: int | None = Field(
        default=None, sa_column=reference("api_token.id", nullable=True, index=True, on_delete="SET NULL")
    )
    action: str = Field(sa_column=text_column())
    about_id: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    facts: dict[str, Any] = Field(sa_column=facts_column())
