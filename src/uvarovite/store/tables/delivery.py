"""The queue: batches and deliveries, what the relay said, and what the limits count."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import BigInteger, Column, Date, ForeignKeyConstraint, Index, Integer, Text
from sqlmodel import Field, SQLModel

from uvarovite.core.delivery import BATCH, DELIVERY, BatchState, DeliveryState
from uvarovite.core.delivery.decisions import Decision
from uvarovite.store.tables.columns import (
    by_field_column,
    id_column,
    instant_column,
    one_of,
    reference,
    text_column,
)


class Batch(SQLModel, table=True):
    """What a worker claims, for a relay that carries it then. `retry_of`: it holds those who were told to come back."""

    __tablename__ = "batch"
    __table_args__ = (one_of("state", BatchState, "batch_state"), Index("batch_due", "state", "due_at"))
    run_id: int = Field(sa_column=reference("run.id", primary_key=True))
    number: int = Field(primary_key=True)
    size: int
    state: str = Field(default=BATCH.start, sa_column=text_column())
    due_at: datetime = Field(sa_column=instant_column())
    retry_of: int | None = None
    lease_token: str | None = Field(default=None, sa_column=text_column(nullable=True))
    lease_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    worker: str | None = Field(default=None, sa_column=text_column(nullable=True))
    relay_id: int | None = Field(default=None, sa_column=reference("relay.id", nullable=True))
    started_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class Delivery(SQLModel, table=True):
    """One message to one person, of a run by its batch. The state stands in no index, so that its updates stay within their
    page.
    """

    __tablename__ = "delivery"
    __table_args__ = (
        one_of("state", DeliveryState, "delivery_state"),
        one_of("decided", Decision, "delivery_decided"),
        ForeignKeyConstraint(["run_id", "batch_number"], ["batch.run_id", "batch.number"]),
        Index("delivery_one_per_address", "run_id", "address_folded", unique=True),
        Index("delivery_by_batch", "run_id", "batch_number"),
        Index("delivery_by_contact", "contact_id"),
        {"postgresql_with": {"fillfactor": "70"}},
    )
    id: int | None = Field(default=None, sa_column=id_column())
    run_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    batch_number: int = Field(sa_column=Column(Integer, nullable=False))
    first_batch: int = Field(sa_column=Column(Integer, nullable=False))
    contact_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    address: str = Field(sa_column=text_column())
    address_folded: str = Field(sa_column=text_column(plain=True))
    record: dict[str, Any] = Field(sa_column=by_field_column())
    consent_since: date | None = Field(default=None, sa_column=Column(Date, nullable=True))
    state: str = Field(default=DELIVERY.start, sa_column=text_column())
    lease_token: str | None = Field(default=None, sa_column=text_column(nullable=True))
    attempts: int = 0
    held_gate: str | None = Field(default=None, sa_column=text_column(nullable=True))
    held_reason: str | None = Field(default=None, sa_column=text_column(nullable=True))
    marked_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    settled_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    next_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    digest: str | None = Field(default=None, sa_column=text_column(nullable=True))
    trouble: str | None = Field(default=None, sa_column=text_column(nullable=True))
    decided: str | None = Field(default=None, sa_column=text_column(nullable=True))
    decided_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    wish: str | None = Field(default=None, sa_column=text_column(nullable=True))


class RunCount(SQLModel, table=True):
    """A part of a sum: so many more, or fewer, deliveries of a run and a batch of its plan stand in a state.

    A trigger adds them for each statement that moves deliveries. `tried`: they can still move and were tried before;
    `at`: when they were accepted; `about`: what keeps them, a gate and a reason, or a domain and what the relay's answer means.
    """

    __tablename__ = "run_count"
    __table_args__ = (Index("run_count_by_run", "run_id"),)
    id: int | None = Field(default=None, sa_column=id_column())
    run_id: int = Field(sa_column=reference("run.id"))
    batch: int
    state: str = Field(sa_column=text_column())
    tried: bool
    at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    about: str | None = Field(default=None, sa_column=text_column(nullable=True))
    n: int
    folded: bool


class RunLink(SQLModel, table=True):
    """A link of a run's message by its number, and the block that it stands in; its address is NULL where each delivery
    has its own.
    """

    __tablename__ = "run_link"
    run_id: int = Field(sa_column=reference("run.id", primary_key=True))
    number: int = Field(primary_key=True)
    block: str = Field(sa_column=text_column())
    address: str | None = Field(default=None, sa_column=text_column(nullable=True))


class DeliveryLink(SQLModel, table=True):
    """Where a link leads that holds something of a person's own, as it was sent to them."""

    __tablename__ = "delivery_link"
    delivery_id: int = Field(sa_column=reference("delivery.id", primary_key=True))
    number: int = Field(primary_key=True)
    address: str = Field(sa_column=text_column())


class Attempt(SQLModel, table=True):
    """What a relay answered to one attempt, in its own words, and what that means (core.delivery.answers).

    `code` 0 means that it said nothing. Attempts from before relays were named have none.
    """

    __tablename__ = "attempt"
    __table_args__ = (Index("attempt_by_run", "run_id", "id"),)
    id: int | None = Field(default=None, sa_column=id_column())
    delivery_id: int = Field(sa_column=reference("delivery.id", index=True))
    run_id: int = Field(sa_column=reference("run.id"))
    relay_id: int | None = Field(default=None, sa_column=reference("relay.id", nullable=True))
    number: int
    at: datetime = Field(sa_column=instant_column())
    code: int
    enhanced: str | None = Field(default=None, sa_column=text_column(nullable=True))
    text: str = Field(sa_column=text_column())
    kind: str = Field(sa_column=text_column())
    meaning: str = Field(sa_column=text_column())


class SentMail(SQLModel, table=True):
    """A message that went to a person, in one narrow row: what caps and criteria ask about, apart from the queue.

    It is appended when a delivery is settled. Not `accepted`: the relay's answer is unknown, the person may have it.
    The address is the one that it went to; it is NULL for whoever was erased since.
    """

    __tablename__ = "sent_mail"
    __table_args__ = (Index("sent_mail_lately", "at", postgresql_include=["contact_id", "run_id", "accepted"]),)
    run_id: int = Field(sa_column=reference("run.id", primary_key=True))
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    at: datetime = Field(sa_column=instant_column())
    accepted: bool
    address_folded: str | None = Field(default=None, sa_column=text_column(nullable=True, plain=True))


class SendLimit(SQLModel, table=True):
    """At most `most` messages in any `seconds`. `scope` says of what: "relay 3", "run 17", "run 17 quartzmail.example".

    Those who found no room have been put off: so many are `booked`, `most` of them for each window from `booked_from` on.
    """

    __tablename__ = "send_limit"
    scope: str = Field(sa_column=Column(Text, primary_key=True))
    seconds: int = Field(primary_key=True)
    most: int
    booked_from: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    booked: int = 0


class SendOpen(SQLModel, table=True):
    """How many messages a worker has marked under a lease that no relay has answered for; they count in full."""

    __tablename__ = "send_open"
    __table_args__ = (Index("send_open_by_scope", "scope"),)
    lease_token: str = Field(sa_column=Column(Text, primary_key=True))
    scope: str = Field(sa_column=Column(Text, primary_key=True))
    n: int


class SlowDomain(SQLModel, table=True):
    """A domain that told a relay to slow down, so many `times` one after another: nothing goes there before `until`."""

    __tablename__ = "slow_domain"
    relay_id: int = Field(sa_column=reference("relay.id", primary_key=True))
    domain: str = Field(sa_column=Column(Text, primary_key=True))
    times: int
    until: datetime = Field(sa_column=instant_column())


class SendCount(SQLModel, table=True):
    """How many messages were answered for in a stretch of a window (core.campaigns.permits).

    Each is counted for every window, so that a limit that is set today knows of yesterday. `part` keeps workers from
    waiting for each other's rows.
    """

    __tablename__ = "send_count"
    scope: str = Field(sa_column=Column(Text, primary_key=True))
    seconds: int = Field(primary_key=True)
    stretch: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    part: int = Field(primary_key=True)
    n: int
