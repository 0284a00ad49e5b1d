"""The organisation, who its mail comes from, and what carries it."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import ARRAY, BigInteger, CheckConstraint, Column, Index, text
from sqlmodel import Field, SQLModel

from uvarovite.core.audiences import KeptRecord
from uvarovite.core.delivery.troubles import TROUBLE_FORM, RelayTrouble
from uvarovite.core.messages import Tracked
from uvarovite.core.messages.look import LOOK_FORM, Look
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    numbers_column,
    one_of,
    reference,
    text_column,
    texts_column,
)


class Security(StrEnum):
    """How a connection to a relay is protected."""

    NONE = "none"
    STARTTLS = "starttls"
    TLS = "tls"


class Organisation(SQLModel, table=True):
    """Whose installation this is: one row. The caps are on all mail to one person, in any 7 and in any 30 days.

    `track_opens` and `track_clicks` say what is noted of readers where a campaign says nothing else. On their preference page people
    may correct `page_fields` themselves; `inner_topics` are offered to nobody who does not get them.
    """

    __tablename__ = "organisation"
    __table_args__ = (
        CheckConstraint("id = 1", name="organisation_is_one"),
        one_of("kept_record", KeptRecord, "organisation_kept_record"),
        one_of("track_opens", Tracked, "organisation_track_opens"),
        one_of("track_clicks", Tracked, "organisation_track_clicks"),
    )
    id: int = Field(default=1, primary_key=True)
    name: str = Field(sa_column=text_column())
    postal_address: str = Field(sa_column=text_column())
    locale: str = Field(sa_column=text_column())
    time_zone: str = Field(sa_column=text_column())
    list_domain: str = Field(sa_column=text_column())
    look: Look | None = Field(default=None, sa_column=form_column(LOOK_FORM, nullable=True))
    look_revision: int = 1
    week_cap: int | None = None
    month_cap: int | None = None
    kept_record: str = Field(default=KeptRecord.FIRST_ADDED, sa_column=text_column())
    track_opens: str = Field(default=Tracked.BY_PERSON, sa_column=text_column())
    track_clicks: str = Field(default=Tracked.BY_PERSON, sa_column=text_column())
    page_fields: list[str] = Field(default_factory=list, sa_column=texts_column())
    inner_topics: list[int] = Field(default_factory=list, sa_column=Column(ARRAY(BigInteger), nullable=False))
    revision: int = 1


class Sender(SQLModel, table=True):
    """Who a message comes from, as the reader sees it; `signature` are the lines that letters are signed with.

    Only its `users` release what comes from it; everybody who may release, where there are none.
    """

    __tablename__ = "sender"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column())
    address: str = Field(sa_column=text_column(unique=True))
    reply_to: str | None = Field(default=None, sa_column=text_column(nullable=True))
    signature: str = Field(default="", sa_column=text_column())
    users: list[int] = Field(default_factory=list, sa_column=Column(ARRAY(BigInteger), nullable=False))
    revision: int = 1


class RelayPool(SQLModel, table=True):
    """Relays that carry the same campaigns. Runs of the past still name one that was removed."""

    __tablename__ = "relay_pool"
    __table_args__ = (Index("relay_pool_name", "name", unique=True, postgresql_where=text("removed_at IS NULL")),)
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column())
    removed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class Relay(SQLModel, table=True):
    """A relay and what it allows. `sealed_password` is encrypted with the installation's secret.

    Relays of a pool at the same `place` share what goes out; those at the next carry it while all before are in trouble.
    `hello_name` is what we are called in EHLO, None for the machine's own name; undeliverable mail comes back to addresses at
    `envelope_domain`, None: to the sender's own. In trouble it rests, each time for longer, until it is tried again; until
    `full_until` its limits are used up. `largest_bytes` is how large it said that messages may be (SIZE, RFC 1870), when it
    was tried last; None: it did not. Its certificate may be signed by `authority` (PEM), besides those that the machine
    trusts. Attempts of the past still name one that was removed.
    """

    __tablename__ = "relay"
    __table_args__ = (
        one_of("security", Security, "relay_security"),
        CheckConstraint("place BETWEEN 1 AND 9", name="relay_place"),
        Index("relay_name", "name", unique=True, postgresql_where=text("removed_at IS NULL")),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    pool_id: int = Field(sa_column=reference("relay_pool.id"))
    place: int = 1
    name: str = Field(sa_column=text_column())
    host: str = Field(sa_column=text_column())
    port: int
    security: str = Field(default=Security.STARTTLS, sa_column=text_column())
    username: str | None = Field(default=None, sa_column=text_column(nullable=True))
    sealed_password: str | None = Field(default=None, sa_column=text_column(nullable=True))
    largest_bytes: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    hello_name: str | None = Field(default=None, sa_column=text_column(nullable=True))
    envelope_domain: str | None = Field(default=None, sa_column=text_column(nullable=True))
    authority: str | None = Field(default=None, sa_column=text_column(nullable=True))
    connections: int = 4
    messages_per_connection: int = 500
    timeout_seconds: int = 120
    retry_delays_seconds: list[int] = Field(sa_column=numbers_column())
    trouble: RelayTrouble | None = Field(default=None, sa_column=form_column(TROUBLE_FORM, nullable=True))
    rests: int = 0
    rests_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    full_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    removed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    revision: int = 1
