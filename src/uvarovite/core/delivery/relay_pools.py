"""Which relays of a pool carry its mail at a moment.

Relays at the same place share what goes out. Those at the next stand by, and carry it while all before them rest; having
used up its limits is no trouble, so that a relay that is kept for emergencies is not used up by every busy hour.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum


class Doing(StrEnum):
    """What a relay does in its pool now.

    TRIED: it has rested, and one batch finds out whether it is well; others go where they would go while it rests.
    """

    CARRIES = "carries"
    FULL = "full"
    STANDS_BY = "stands_by"
    TRIED = "tried"
    RESTS = "rests"


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayStanding:
    """A relay in its pool. `rests` counts its rests one after another; `has_batch`: some worker sends through it now."""

    id: int
    revision: int
    pool_id: int
    place: int
    rests: int
    rests_until: datetime | None
    full_until: datetime | None
    has_batch: bool

    def is_free(self, now: datetime) -> bool:
        """Has it rested enough?"""
        return self.rests_until is None or self.rests_until <= now

    def is_well(self, now: datetime) -> bool:
        """Can whoever comes next go through it?"""
        return self.is_free(now) and not (self.rests and self.has_batch)


def doings(relays: Iterable[RelayStanding], now: datetime) -> dict[int, Doing]:
    """What each relay does, by id."""
    told = list(relays)
    first: dict[int, int] = {}
    for relay in told:
        if relay.is_well(now):
            first[relay.pool_id] = min(relay.place, first.get(relay.pool_id, relay.place))
    return {relay.id: _doing(relay, first, now) for relay in told}


def _doing(relay: RelayStanding, first: Mapping[int, int], now: datetime) -> Doing:
    if not relay.is_free(now):
        return Doing.RESTS
    if not relay.is_well(now):
        return Doing.TRIED
    if relay.place > first[relay.pool_id]:
        return Doing.STANDS_BY
    return Doing.FULL if relay.full_until is not None and relay.full_until > now else Doing.CARRIES


def carry_at(relays: Sequence[RelayStanding], now: datetime) -> dict[int, datetime]:
    """When each pool can carry something, as far as that is known: now, or when a relay has room or is tried again."""
    told = doings(relays, now)
    soonest: dict[int, datetime] = {}
    for relay in relays:
        at = {Doing.CARRIES: now, Doing.FULL: relay.full_until, Doing.RESTS: relay.rests_until}.get(told[relay.id])
        if at is not None:
            soonest[relay.pool_id] = min(at, soonest.get(relay.pool_id, at))
    return soonest


def shared_limits(limits: Sequence[Mapping[int, int]]) -> dict[int, int]:
    """The limits, by seconds, of several relays that share: what all of them let through in each window.

    A relay without a limit for a window lets through what its others do; one without any leaves no limit at all.
    """
    if not all(limits):
        return {}
    windows = sorted({seconds for one in limits for seconds in one})
    return {seconds: sum(_let_through(one, seconds) for one in limits) for seconds in windows}


def _let_through(limits: Mapping[int, int], seconds: int) -> int:
    """At most so many go in a window. A shorter limit holds in each part of it; a longer one may be used up at once."""
    return min(most * max(1, seconds // window) for window, most in limits.items())
