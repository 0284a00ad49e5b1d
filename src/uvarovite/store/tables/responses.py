"""What came back for a delivery."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import BigInteger, Column, Index, text
from sqlmodel import Field, SQLModel

from uvarovite.core.responses import DETAIL_FORM, ResponseDetail
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    key_column,
    one_of,
    reference,
    text_column,
)


class ResponseKind(StrEnum):
    """What happened."""

    OPENED = "opened"
    CLICKED = "clicked"
    LEFT = "left"
    BOUNCED = "bounced"
    COMPLAINED = "complained"
    REPLIED = "replied"


class ResponseEvent(SQLModel, table=True):
    """One response. `machine_rule` names the rule by which a machine was believed to be at work."""

    __tablename__ = "response_event"
    __table_args__ = (
        one_of("kind", ResponseKind, "response_event_kind"),
        Index("response_event_by_delivery", "delivery_id", "id"),
        Index("response_event_by_run", "run_id", "kind"),
        # What criteria ask: whom it happened to, lately.
        Index("response_event_by_person", "kind", "at", "contact_id", postgresql_where=text("machine_rule IS NULL")),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    delivery_id: int = Field(sa_column=reference("delivery.id"))
    run_id: int = Field(sa_column=reference("run.id"))
    contact_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    kind: str = Field(sa_column=text_column())
    at: datetime = Field(sa_column=instant_column())
    machine_rule: str | None = Field(default=None, sa_column=text_column(nullable=True))
    detail: ResponseDetail = Field(sa_column=form_column(DETAIL_FORM))


class ResponseFirst(SQLModel, table=True):
    """That a person has done something with a delivery, however often."""

    __tablename__ = "response_first"
    delivery_id: int = Field(sa_column=reference("delivery.id", primary_key=True))
    kind: str = Field(sa_column=key_column())


class CountedResponse(SQLModel, table=True):
    """How often something was done by people whom nobody noted; `number` is the link's for clicks, else 0."""

    __tablename__ = "counted_response"
    run_id: int = Field(sa_column=reference("run.id", primary_key=True))
    kind: str = Field(sa_column=key_column())
    number: int = Field(primary_key=True)
    n: int


class ResponseCount(SQLModel, table=True):
    """A part of a sum: so many people more of a run did something, or so many more fetches were a machine's."""

    __tablename__ = "response_count"
    __table_args__ = (Index("response_count_by_run", "run_id"),)
    id: int | None = Field(default=None, sa_column=id_column())
    run_id: int = Field(sa_column=reference("run.id"))
    kind: str = Field(sa_column=text_column())
    n: int
