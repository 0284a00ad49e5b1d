"""How fast a campaign may go, and how carefully it begins."""

import math
from datetime import date
from typing import Self
from zoneinfo import ZoneInfo

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from uvarovite.core.campaigns.opening import OpeningHours, SendingWindow
from uvarovite.core.campaigns.permits import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS
from uvarovite.core.values import Json, StoredForm, form_of

MOST_MESSAGES = 10_000_000
MOST_QUIET_DATES = 100
MOST_DOMAIN_LIMITS = 50


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class RampUp(_Part):
    """At most `first_day` messages in 24 hours on the first sending day, and `factor` times as many each one after.

    A day on which the window does not open is none.
    """

    first_day: int = Field(ge=1, le=MOST_MESSAGES)
    factor: float = Field(default=2.0, ge=1.0, le=10.0)

    def allowance(self, day: int) -> int:
        """How many may go in 24 hours on a sending day; the first is day 0."""
        rounds = max(day, 0)
        # Beyond what anybody could send the power is not worth working out.
        if rounds * math.log(self.factor) + math.log(self.first_day) > math.log(MOST_MESSAGES):
            return MOST_MESSAGES
        return int(self.first_day * self.factor**rounds + 1e-9)


class DomainLimit(_Part):
    """At most `hourly` messages an hour to the addresses of a domain."""

    domain: str = Field(min_length=1, max_length=253, pattern=r"^[^\s@]+\.[^\s@]+$")
    hourly: int = Field(ge=1, le=MOST_MESSAGES)

    @field_validator("domain", mode="before")
    @classmethod
    def _folded(cls, value: object) -> object:
        return value.strip().removeprefix("@").lower() if isinstance(value, str) else value


class FirstSlice(_Part):
    """Send to `people`, wait, and go on only if less than a share of them bounced."""

    people: int = Field(default=50, ge=1, le=100_000)
    wait_minutes: int = Field(default=30, ge=1, le=14 * 24 * 60)
    bounce_percent: float = Field(default=3.0, gt=0, le=100)


class Brake(_Part):
    """Pause by itself when of the `last` answers a share says that an address is no good, or that we are not wanted, or when a
    share of those people complain. What comes back later counts for the answer that it belongs to.
    """

    last: int = Field(default=200, ge=10, le=10_000)
    bounce_percent: float | None = Field(default=5.0, gt=0, le=100)
    refused_percent: float | None = Field(default=10.0, gt=0, le=100)
    complaint_percent: float | None = Field(default=1.0, gt=0, le=100)


class Pace(_Part):
    """Batches of `batch_size` people begin at least `gap_seconds` apart, within the limits and the window.

    A relay's own limits hold besides; the slowest decides.
    """

    batch_size: int = Field(default=50, ge=1, le=5_000)
    gap_seconds: int = Field(default=60, ge=0, le=86_400)
    minute_limit: int | None = Field(default=None, ge=1, le=1_000_000)
    hourly_limit: int | None = Field(default=None, ge=1, le=1_000_000)
    daily_limit: int | None = Field(default=None, ge=1, le=MOST_MESSAGES)
    window: SendingWindow | None = None
    quiet_dates: tuple[date, ...] = Field(default=(), max_length=MOST_QUIET_DATES)
    ramp_up: RampUp | None = None
    domain_limits: tuple[DomainLimit, ...] = Field(default=(), max_length=MOST_DOMAIN_LIMITS)
    first_slice: FirstSlice | None = None
    brake: Brake | None = None

    @model_validator(mode="after")
    def _is_one(self) -> Self:
        domains = [one.domain for one in self.domain_limits]
        if len(domains) != len(set(domains)):
            raise ValueError("there are two limits for one domain")
        return self

    def batch_of(self, place: int) -> int:
        """The number of the batch of the message at a place, both from 1: a first slice ends a batch."""
        head = self.first_slice.people if self.first_slice else 0
        if place <= head:
            return (place - 1) // self.batch_size + 1
        return -(-head // self.batch_size) + (place - 1 - head) // self.batch_size + 1

    @property
    def zone_field(self) -> str | None:
        """The field with the reader's time zone, where that decides when something may go to them."""
        return self.window.zone_field if self.window else None

    def hours(self, zone: ZoneInfo) -> OpeningHours:
        """When messages may go to whoever lives by a zone's clock."""
        return OpeningHours(self.window, self.quiet_dates, zone)

    def batch_hours(self, zone: ZoneInfo) -> OpeningHours:
        """When a batch may begin, by the organisation's zone: at any time where each reader's own clock decides."""
        return OpeningHours(None, (), zone) if self.zone_field else self.hours(zone)

    @property
    def limits(self) -> dict[int, int]:
        """How many may go, by the seconds of the window that it is about."""
        told = {MINUTE_SECONDS: self.minute_limit, HOUR_SECONDS: self.hourly_limit, DAY_SECONDS: self.daily_limit}
        return {seconds: most for seconds, most in told.items() if most is not None}

    def limits_on(self, day: int) -> dict[int, int]:
        """The limits on a sending day, the first being day 0, with the ramp-up counted in."""
        if self.ramp_up is None:
            return self.limits
        most = min(self.ramp_up.allowance(day), self.daily_limit or MOST_MESSAGES)
        return {**self.limits, DAY_SECONDS: most}


def slower(pace: Pace) -> Pace:
    """Half as fast: twice the gap, half of each limit; without either a batch begins each half minute."""
    limits = {name: max(most // 2, 1) for name, most in _named_limits(pace).items()}
    gap = pace.gap_seconds * 2 or (0 if limits else 30)
    return pace.model_copy(update={**limits, "gap_seconds": min(gap, 86_400)})


def faster(pace: Pace) -> Pace:
    """Twice as fast: half the gap, twice each limit. A relay's own limits hold all the same."""
    limits = {name: min(most * 2, _MOST[name]) for name, most in _named_limits(pace).items()}
    return pace.model_copy(update={**limits, "gap_seconds": pace.gap_seconds // 2})


_MOST = {"minute_limit": 1_000_000, "hourly_limit": 1_000_000, "daily_limit": MOST_MESSAGES}


def _named_limits(pace: Pace) -> dict[str, int]:
    return {name: most for name in _MOST if (most := getattr(pace, name)) is not None}


def _without_complaints(form: Json) -> Json:
    brake = form.get("brake")
    return {**form, "brake": {**brake, "complaint_percent": None}} if brake else form


# The queue reads the batch's size and the gap by SQL, so that all of it is written, defaults and all.
PACE_FORM: StoredForm[Pace] = form_of(
    Pace, version=4, older={1: lambda form: form, 2: lambda form: form, 3: _without_complaints}
)
