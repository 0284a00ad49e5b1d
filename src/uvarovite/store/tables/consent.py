"""Topics, the ledger of consent, its fold, and the suppression list."""

from datetime import datetime

from sqlalchemy import BigInteger, CheckConstraint, Column, Index, text
from sqlmodel import Field, SQLModel

from uvarovite.core.consent import EVIDENCE_FORM, ConsentEventKind, ConsentEvidence, ConsentState, SuppressionReason
from uvarovite.core.consent.own_limit import AtMost
from uvarovite.core.messages import Tracked
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    one_of,
    plain_key_column,
    reference,
    text_column,
)


class Topic(SQLModel, table=True):
    """What a person subscribes to. `sender_id` is who its messages come from unless something else is chosen.

    With `double_opt_in` only those are cleared who confirmed from their own address. The caps say how many messages of
    the topic one person may get in any 7 and in any 30 days.
    """

    __tablename__ = "topic"
    id: int | None = Field(default=None, sa_column=id_column())
    key: str = Field(sa_column=text_column(unique=True))
    name: str = Field(sa_column=text_column())
    description: str = Field(default="", sa_column=text_column())
    sender_id: int | None = Field(default=None, sa_column=reference("sender.id", nullable=True))
    position: int
    revision: int = 1
    double_opt_in: bool = False
    week_cap: int | None = None
    month_cap: int | None = None


class ConsentEvent(SQLModel, table=True):
    """One entry of the ledger; a trigger refuses to change or remove it.

    That contact and topic are there is looked at by a trigger over all rows of a statement: a foreign key looks at each
    row by itself, which took five times as long as writing them.
    """

    __tablename__ = "consent_event"
    __table_args__ = (
        one_of("kind", ConsentEventKind, "consent_event_kind"),
        CheckConstraint("(kind = 'paused') = (until IS NOT NULL)", name="consent_event_until"),
        Index("consent_event_by_contact", "contact_id", "topic_id", "id"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    contact_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    topic_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    kind: str = Field(sa_column=text_column())
    at: datetime = Field(sa_column=instant_column())
    until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    channel: str = Field(sa_column=text_column())
    evidence: ConsentEvidence = Field(sa_column=form_column(EVIDENCE_FORM))
    recorded_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))


class Consent(SQLModel, table=True):
    """The current state: the fold of the ledger, written by the statement that appends and by nothing else.

    A confirmation counts for the address from which it came, `confirmed_address`, and for no other.
    """

    __tablename__ = "consent"
    __table_args__ = (one_of("state", ConsentState, "consent_state"),)
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    topic_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    state: str = Field(sa_column=text_column())
    since: datetime = Field(sa_column=instant_column())
    paused_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    last_kind: str = Field(sa_column=text_column())
    event_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    confirmed: bool = False
    confirmed_address: str | None = Field(default=None, sa_column=text_column(nullable=True, plain=True))


class AddressClosing(SQLModel, table=True):
    """What was closed for an address in one topic, whoever has it (core.consent.closing).

    `left_by` and `paused_by` are the contacts who said so, None once they are erased; `left_event` is the ledger's entry.
    A trigger on `contact` writes the rows of those who are gone from an address.
    """

    __tablename__ = "address_closing"
    __table_args__ = (
        CheckConstraint("num_nonnulls(left_at, paused_until) > 0", name="address_closing_of_something"),
        Index("address_closing_left_by", "left_by", postgresql_where=text("left_by IS NOT NULL")),
        Index("address_closing_paused_by", "paused_by", postgresql_where=text("paused_by IS NOT NULL")),
    )
    address_folded: str = Field(sa_column=plain_key_column())
    topic_id: int = Field(sa_column=reference("topic.id", primary_key=True))
    left_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    left_spares: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    left_by: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    left_event: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    paused_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    paused_spares: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    paused_by: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))


class OwnLimit(SQLModel, table=True):
    """How often somebody wants mail at most, by their own word."""

    __tablename__ = "own_limit"
    __table_args__ = (one_of("at_most", AtMost, "own_limit_at_most"),)
    contact_id: int = Field(sa_column=reference("contact.id", primary_key=True))
    at_most: str = Field(sa_column=text_column())
    since: datetime = Field(sa_column=instant_column())


class TrackingWish(SQLModel, table=True):
    """How much may be noted of what somebody opens and follows, by their own word."""

    __tablename__ = "tracking_wish"
    __table_args__ = (one_of("wish", Tracked, "tracking_wish_wish"),)
    contact_id: int = Field(sa_column=reference("contact.id", primary_key=True))
    wish: str = Field(sa_column=text_column())
    since: datetime = Field(sa_column=instant_column())


class Suppression(SQLModel, table=True):
    """An entry of the suppression list: an address, a whole domain, or the keyed hash of an erased address.

    With a topic it is for that topic alone. At most one entry of a kind is in force for each.
    """

    __tablename__ = "suppression"
    __table_args__ = (
        one_of("reason", SuppressionReason, "suppression_reason"),
        CheckConstraint("num_nonnulls(address_folded, domain, address_hash) = 1", name="suppression_of_one"),
        CheckConstraint("topic_id IS NULL OR address_folded IS NOT NULL", name="suppression_topic_of_address"),
        Index(
            "suppression_in_force",
            "address_folded",
            unique=True,
            postgresql_where=text("lifted_at IS NULL AND topic_id IS NULL"),
        ),
        Index(
            "suppression_topic_in_force",
            "address_folded",
            "topic_id",
            unique=True,
            postgresql_where=text("lifted_at IS NULL AND topic_id IS NOT NULL"),
        ),
        Index("suppression_domain_in_force", "domain", unique=True, postgresql_where=text("lifted_at IS NULL")),
        Index("suppression_hash_in_force", "address_hash", unique=True, postgresql_where=text("lifted_at IS NULL")),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    address_folded: str | None = Field(default=None, sa_column=text_column(nullable=True, plain=True))
    domain: str | None = Field(default=None, sa_column=text_column(nullable=True, plain=True))
    address_hash: str | None = Field(default=None, sa_column=text_column(nullable=True, plain=True))
    topic_id: int | None = Field(default=None, sa_column=reference("topic.id", nullable=True))
    reason: str = Field(sa_column=text_column())
    evidence: ConsentEvidence = Field(sa_column=form_column(EVIDENCE_FORM))
    at: datetime = Field(sa_column=instant_column())
    recorded_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    lifted_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    lifted_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    lifted_why: str | None = Field(default=None, sa_column=text_column(nullable=True))
