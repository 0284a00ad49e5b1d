"""Audiences."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import BigInteger, Column
from sqlmodel import Field, SQLModel

from uvarovite.core.audiences import PART_FORM, Part
from uvarovite.core.expressions import CRITERIA_FORM, Node
from uvarovite.store.tables.columns import form_column, id_column, instant_column, one_of, reference, text_column


class Audience(SQLModel, table=True):
    """Criteria with a name. `revision` counts up with every change.

    While it is frozen, its people are those of the snapshot that was taken at `frozen_at`. `part` says which of those who
    match it consists of; None: all.
    """

    __tablename__ = "audience"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    criteria: Node = Field(sa_column=form_column(CRITERIA_FORM))
    revision: int = 1
    updated_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    updated_at: datetime = Field(sa_column=instant_column())
    frozen_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    part: Part | None = Field(default=None, sa_column=form_column(PART_FORM, nullable=True))


class AudienceSnapshot(SQLModel, table=True):
    """One of the people of a frozen audience."""

    __tablename__ = "audience_snapshot"
    audience_id: int = Field(sa_column=reference("audience.id", primary_key=True, cascade=True))
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False, index=True))


class MemberKind(StrEnum):
    """What a hand did to a person: ADDED whatever the criteria say, or LEFT_OUT whatever they say."""

    ADDED = "added"
    LEFT_OUT = "left_out"


class AudienceMember(SQLModel, table=True):
    """Somebody who is in an audience, or out of it, by hand. `change_set_id` is the act that is undone as a whole."""

    __tablename__ = "audience_member"
    __table_args__ = (one_of("kind", MemberKind, "audience_member_kind"),)
    audience_id: int = Field(sa_column=reference("audience.id", primary_key=True, cascade=True))
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False, index=True))
    kind: str = Field(sa_column=text_column())
    change_set_id: int | None = Field(default=None, sa_column=reference("change_set.id", nullable=True))
    added_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    at: datetime = Field(sa_column=instant_column())
