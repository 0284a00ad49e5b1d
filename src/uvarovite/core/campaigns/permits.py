"""Permits: how limits hold in any sliding window of time, for all workers together.

A worker takes permits for messages before it marks them as being sent. They are open until the relay has answered, and
open ones count in full at every moment. A message that was answered is counted at that moment, which is no earlier than it
went out, and counts from then on for as long as the limit's window is. So whatever happens between taking and answering,
the messages that went out in any window are never more than those that counted in it.

Counts are kept by short stretches of time, a hundred and twentieth of the window; a stretch counts until its end has left
the window. That, and what is open, is what a limit loses: less than three in a hundred while there is work.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

# What a limit can be about: a minute, an hour, a day.
MINUTE_SECONDS, HOUR_SECONDS, DAY_SECONDS = WINDOWS = (60, 3_600, 86_400)
STRETCHES = 120

_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


@dataclass(frozen=True, slots=True)
class Limit:
    """At most `most` messages in any `seconds` (one of WINDOWS)."""

    seconds: int
    most: int


@dataclass(frozen=True, slots=True)
class Use:
    """How much of a limit is used: `open` messages, and those that were counted, by stretch."""

    limit: Limit
    open: int
    counted: Mapping[int, int]


def stretch_of(at: datetime, seconds: int) -> int:
    """The number of the stretch of a window of `seconds` that an instant lies in."""
    return (at - _EPOCH) // _width(seconds)


def first_stretch(now: datetime, seconds: int) -> int:
    """The earliest stretch that counts at `now`: the first whose end has not left the window."""
    return stretch_of(now - timedelta(seconds=seconds), seconds)


def stretch_end(stretch: int, seconds: int) -> datetime:
    """When a stretch of a window of `seconds` is over."""
    return _EPOCH + (stretch + 1) * _width(seconds)


def _width(seconds: int) -> timedelta:
    return timedelta(seconds=seconds) / STRETCHES


def _leaves(stretch: int, seconds: int) -> datetime:
    """When a stretch ceases to count."""
    return stretch_end(stretch, seconds) + timedelta(seconds=seconds)


def grant_permits(wanted: int, uses: Iterable[Use], now: datetime) -> tuple[int, datetime | None]:
    """(granted, next): how many of the wanted may go now, and when to ask again if it is none.

    `next` is None when something was granted, or when only an answer that is still to come can free anything.
    """
    granted, later = wanted, now
    for use in uses:
        seconds, first = use.limit.seconds, first_stretch(now, use.limit.seconds)
        counting = sorted((stretch, n) for stretch, n in use.counted.items() if stretch >= first)
        free = use.limit.most - use.open - sum(n for _, n in counting)
        granted = min(granted, max(free, 0))
        for stretch, n in counting:
            if free > 0:
                break
            free += n
            later = max(later, _leaves(stretch, seconds))
        if free <= 0:
            return 0, None
    return (granted, None) if granted else (0, later)
