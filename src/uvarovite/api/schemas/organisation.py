"""Requests about the organisation, senders, relays and limits."""

from typing import Annotated

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.core.audiences import KeptRecord
from uvarovite.core.delivery.retry import MOST_ATTEMPTS
from uvarovite.core.messages import Tracked
from uvarovite.core.messages.look import Look


class PoolSave(BaseModel):
    """What a pool of relays is called."""

    name: str = Field(max_length=400)


class RelaySave(BaseModel):
    """A relay's settings; a `password` of None leaves the stored one, no pool and no place leave it where it is."""

    name: str = Field(max_length=100)
    host: str = Field(max_length=253)
    port: int = Field(ge=1, le=65_535)
    security: str = Field(max_length=20)
    username: str | None = Field(default=None, max_length=320)
    password: str | None = Field(default=None, max_length=1_000)
    minute_limit: int | None = Field(default=None, ge=1, le=1_000_000)
    hourly_limit: int | None = Field(default=None, ge=1, le=1_000_000)
    daily_limit: int | None = Field(default=None, ge=1, le=100_000_000)
    connections: int = Field(default=4, ge=1, le=100)
    messages_per_connection: int = Field(default=500, ge=1, le=100_000)
    timeout_seconds: int = Field(default=120, ge=5, le=900)
    attempts: int | None = Field(default=None, ge=1, le=MOST_ATTEMPTS)
    pool_id: Id | None = None
    place: int | None = Field(default=None, ge=1, le=9)
    hello_name: str | None = Field(default=None, max_length=253)
    envelope_domain: str | None = Field(default=None, max_length=253)
    authority: str | None = Field(default=None, max_length=20_000)
    revision: Count | None = None


class FrequencyLimitsSave(BaseModel):
    """The organisation's caps and the record that is kept, as edited."""

    week_cap: int | None = None
    month_cap: int | None = None
    kept_record: KeptRecord = KeptRecord.FIRST_ADDED


class ReadersSave(BaseModel):
    """What is noted of opens and of clicks, and what the preference page offers, as edited."""

    opens: Tracked
    clicks: Tracked
    fields: list[Annotated[str, Field(max_length=100)]] = Field(default_factory=list, max_length=100)
    inner_topics: list[Id] = Field(default_factory=list, max_length=1_000)


class OrganisationSave(BaseModel):
    """The organisation as edited, from `revision` on."""

    name: str = Field(max_length=400)
    postal_address: str = Field(max_length=2_000)
    locale: str = Field(max_length=40)
    time_zone: str = Field(max_length=64)
    list_domain: str = Field(max_length=253)
    revision: Count


class SenderSave(BaseModel):
    """A sender as edited; the revision counts for one that is there."""

    name: str = Field(max_length=400)
    address: str = Field(max_length=400)
    reply_to: str = Field(default="", max_length=400)
    signature: str = Field(default="", max_length=1_000)
    users: list[Id] = Field(default=[], max_length=1_000)
    revision: Count | None = None


class LookSave(BaseModel):
    """How letters are to look; `revision` is the one that was on screen."""

    look: Look
    revision: Count
