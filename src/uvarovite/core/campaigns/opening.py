"""When a campaign may send: a window of weekdays and hours by one zone's wall clock, and dates that are quiet.

An instant is open when the wall clock shows an open time at it. So a time that a change of clocks leaves out opens when
the clock has jumped past it, and one that comes twice is open both times.
"""

import math
from collections.abc import Collection, Iterator
from datetime import UTC, date, datetime, time, timedelta
from functools import cache
from typing import Self
from zoneinfo import ZoneInfo, available_timezones

from pydantic import BaseModel, ConfigDict, Field, model_validator

from uvarovite.core.values import StoredForm, form_of

DAY_MINUTES = 24 * 60
# Whatever the window and the quiet dates, one that does not open within these is said never to.
_DAYS_AHEAD = 800


class SendingWindow(BaseModel):
    """On which `days` (0 is Monday) and between which minutes of the day messages may go out.

    By the organisation's clock; with a `zone_field`, by the clock of each reader who has a time zone in that field.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    days: tuple[int, ...] = Field(default=(0, 1, 2, 3, 4), min_length=1, max_length=7)
    opens: int = Field(default=9 * 60, ge=0, lt=DAY_MINUTES)
    closes: int = Field(default=17 * 60, gt=0, le=DAY_MINUTES)
    zone_field: str | None = Field(default=None, max_length=100)

    @model_validator(mode="after")
    def _is_one(self) -> Self:
        if any(not 0 <= day <= 6 for day in self.days) or list(self.days) != sorted(set(self.days)):
            raise ValueError("choose each day once, from Monday to Sunday")
        if self.opens >= self.closes:
            raise ValueError("the window must close later than it opens")
        return self


def reader_zone(name: str | None, home: ZoneInfo) -> ZoneInfo:
    """The zone that a reader's record names (IANA time zone database), the organisation's where it names none."""
    return ZoneInfo(name) if name is not None and name in zone_names() else home


# How many people name which time zone.
ZONES_FORM: StoredForm[dict[str, int]] = form_of(dict[str, int], under="zones")


@cache
def zone_names() -> frozenset[str]:
    """All that there are."""
    return frozenset(available_timezones())


class OpeningHours:
    """A window and quiet dates in a zone; without a window every hour of a date that is not quiet is open."""

    def __init__(self, window: SendingWindow | None, quiet: Collection[date], zone: ZoneInfo) -> None:
        self._window = window
        self._quiet = frozenset(quiet)
        self.zone = zone

    @property
    def is_always_open(self) -> bool:
        """Is there neither a window nor a quiet date?"""
        return self._window is None and not self._quiet

    def is_open(self, at: datetime) -> bool:
        """May something go out at an aware instant?"""
        wall = at.astimezone(self.zone)
        if wall.date() in self._quiet:
            return False
        if self._window is None:
            return True
        minute = wall.hour * 60 + wall.minute
        return wall.weekday() in self._window.days and self._window.opens <= minute < self._window.closes

    def next_open(self, at: datetime) -> datetime | None:
        """The first open instant that is no earlier, itself perhaps; None if there is none within some years."""
        if self.is_open(at):
            return at
        opens = next((opens for opens, _ in self.spans(at.timestamp())), None)
        return None if opens is None else datetime.fromtimestamp(opens, UTC)

    def sending_day(self, since: datetime, at: datetime) -> int:
        """Which of the dates on which it opens that of an instant is, from the first open one at `since` or after: 0 on it."""
        first = self.next_open(since)
        if first is None:
            return 0
        begins, day = first.astimezone(self.zone).date(), at.astimezone(self.zone).date()
        return max(self._open_dates(day) - self._open_dates(begins), 0)

    def _open_dates(self, day: date) -> int:
        """How many dates on which it opens there are up to a date."""
        days = range(7) if self._window is None else self._window.days
        # The first day of the calendar is a Monday.
        weeks, rest = divmod(day.toordinal(), 7)
        quiet = sum(one <= day and one.weekday() in days for one in self._quiet)
        return weeks * len(days) + sum(one < rest for one in days) - quiet

    def spans(self, since: float) -> Iterator[tuple[float, float]]:
        """The open spans from an instant on as (opens, closes), in seconds since 1970, in order and never touching.

        The first begins at `since` where that is open. It ends after some years in which nothing opens.
        """
        if self.is_always_open:
            yield since, math.inf
            return
        day = datetime.fromtimestamp(since, self.zone).date()
        begins = _begin_of(day, self.zone)
        held: tuple[float, float] | None = None
        last = day
        while (day - last).days <= _DAYS_AHEAD:
            ends = _begin_of(day + timedelta(days=1), self.zone)
            for opens, closes in self._spans_of(day, begins, ends):
                if closes <= since:
                    continue
                last = day
                opens = max(opens, since)
                if held is not None and held[1] == opens:
                    held = held[0], closes
                    # Without a window it stays open from the last quiet date on.
                    if self._window is None and day > max(self._quiet):
                        held = held[0], math.inf
                        break
                    continue
                if held is not None:
                    yield held
                held = opens, closes
            if held is not None and held[1] == math.inf:
                break
            day, begins = day + timedelta(days=1), ends
        if held is not None:
            yield held

    def _spans_of(self, day: date, begins: float, ends: float) -> list[tuple[float, float]]:
        """When a date that begins and ends at two instants is open, by what the wall clock shows."""
        if day in self._quiet:
            return []
        if self._window is None:
            return [(begins, ends)]
        if day.weekday() not in self._window.days:
            return []
        midnight = datetime.combine(day, time(), UTC).timestamp()
        parts = [(begins, ends)]
        if ends - begins != DAY_MINUTES * 60:
            change = _change(int(begins), int(ends), self.zone)
            parts = [(begins, change), (change, ends)]
        spans = []
        for part_begins, part_ends in parts:
            shown_at = midnight - _offset(part_begins, self.zone)
            opens = max(shown_at + self._window.opens * 60, part_begins)
            closes = min(shown_at + self._window.closes * 60, part_ends)
            if opens < closes:
                spans.append((opens, closes))
        return spans


def _offset(at: float, zone: ZoneInfo) -> float:
    offset = datetime.fromtimestamp(at, zone).utcoffset()
    assert offset is not None
    return offset.total_seconds()


def _change(before: int, after: int, zone: ZoneInfo) -> float:
    """When the clocks change between two instants."""
    old = _offset(before, zone)
    while after - before > 1:
        middle = (before + after) // 2
        before, after = (middle, after) if _offset(middle, zone) == old else (before, middle)
    return after


def _begin_of(day: date, zone: ZoneInfo) -> float:
    """When a date begins; where midnight is left out, when the clock has jumped past it."""
    begins = datetime.combine(day, time(), zone).timestamp()
    wall = datetime.fromtimestamp(begins, zone)
    if wall.date() == day and wall.time() == time():
        return begins
    return _change(int(begins) - 3 * 3_600, int(begins) + 3 * 3_600, zone)


def begin_of_day(day: date, zone: ZoneInfo) -> datetime:
    """When a date of a zone begins."""
    return datetime.fromtimestamp(_begin_of(day, zone), UTC)
