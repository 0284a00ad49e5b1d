"""The road of a run's messages: when each may go at the earliest, one after the other, and what it waits for."""

import math
from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from enum import StrEnum

from uvarovite.core.campaigns.opening import OpeningHours, begin_of_day
from uvarovite.core.campaigns.pace import Pace
from uvarovite.core.campaigns.permits import DAY_SECONDS, HOUR_SECONDS


class Cause(StrEnum):
    """What a run waits for."""

    RELAY_SPEED = "relay_speed"
    GAP = "gap"
    WINDOW = "window"
    PAUSE = "pause"
    FIRST_SLICE = "first_slice"
    OWN_LIMIT = "own_limit"
    RELAY_LIMIT = "relay_limit"
    RAMP_UP = "ramp_up"


@dataclass(frozen=True, slots=True)
class Waited:
    """So many seconds went by for a cause; a limit names the seconds of its window."""

    cause: Cause
    limit_seconds: int
    seconds: float


@dataclass(slots=True)
class Curve:
    """`counts[i]` messages are out by `times[i]`, in seconds since 1970; straight lines between."""

    times: list[float]
    counts: list[float]
    waited: tuple[Waited, ...] = ()

    def when(self, count: float) -> float:
        """When so many are out, the last point's time for what is beyond it."""
        place = bisect_left(self.counts, count)
        if place >= len(self.counts):
            return self.times[-1]
        if place == 0 or self.counts[place] == count:
            return self.times[place]
        fewer, more = self.counts[place - 1], self.counts[place]
        share = (count - fewer) / (more - fewer)
        return self.times[place - 1] + share * (self.times[place] - self.times[place - 1])

    def add(self, time: float, count: float) -> None:
        """One more point, no earlier and no fewer than the last."""
        self.times.append(time)
        self.counts.append(count)


class _Open:
    """The instants at which something may go, from the window and the pauses, asked for in any order that mostly rises."""

    def __init__(self, hours: OpeningHours, pauses: Sequence[tuple[datetime, datetime]], until: float) -> None:
        self._hours = hours
        self._until = until
        self._pauses = [(begin.timestamp(), end.timestamp()) for begin, end in pauses]
        self._opens, self._closes = math.inf, -math.inf

    def following(self, at: float) -> tuple[float, Cause | None]:
        """The first open instant that is no earlier, and what closed the way there."""
        cause: Cause | None = None
        while True:
            if at > self._until:
                return math.inf, cause
            begin = at
            if not self._opens <= at < self._closes:
                self._opens, self._closes = next(self._hours.spans(at), (math.inf, math.inf))
                if self._opens > at:
                    at, cause = self._opens, Cause.WINDOW
            for begins, ends in self._pauses:
                if begins <= at < ends:
                    at, cause = ends, Cause.PAUSE
            if at == begin:
                return at, cause

    def after(self, at: float, seconds: float) -> float:
        """When so many open seconds have gone by."""
        while True:
            at, _ = self.following(at)
            if not math.isfinite(at):
                return at
            closes = min([self._closes, *(begins for begins, _ in self._pauses if begins > at)])
            if at + seconds < closes:
                return at + seconds
            seconds -= closes - at
            at = closes


class _OpenToReaders:
    """The same where each reader's own clock decides: open while it is for some who are left; see Road."""

    def __init__(
        self,
        readers: Sequence[tuple[OpeningHours, int]],
        pauses: Sequence[tuple[datetime, datetime]],
        until: float,
    ) -> None:
        self._zones = [_Open(hours, pauses, until) for hours, _ in readers]
        self._left = [float(n) for _, n in readers]

    def following(self, at: float) -> tuple[float, Cause | None]:
        """The first instant that is no earlier at which somebody left may get it, and what closed the way there."""
        return min((zone.following(at) for zone, _ in self._waiting()), default=(at, None), key=lambda one: one[0])

    def after(self, at: float, seconds: float) -> float:
        """When so many open seconds have gone by, of those who may get it first."""
        zones = [zone for zone, _ in self._waiting()]
        first = min(zones, default=None, key=lambda zone: zone.following(at)[0])
        return at + seconds if first is None else first.after(at, seconds)

    def room(self, at: float) -> float:
        """How many are left who may get it when the next may."""
        at, _ = self.following(at)
        return sum(left for zone, left in self._waiting() if zone.following(at)[0] == at)

    def take(self, at: float, n: float) -> None:
        """So many of those got it who may at an instant, as many of each zone as it has a share in them."""
        able = [place for place, zone in enumerate(self._zones) if self._left[place] and zone.following(at)[0] == at]
        there = sum(self._left[place] for place in able)
        for place in able:
            self._left[place] -= min(n, there) * self._left[place] / there
            # What is left of a person is nobody.
            self._left[place] *= self._left[place] > _NOBODY

    def _waiting(self) -> Iterator[tuple[_Open, float]]:
        return ((zone, left) for zone, left in zip(self._zones, self._left, strict=True) if left)


# Sums of shares are no whole numbers.
_NOBODY = 1e-6


@dataclass(slots=True)
class _Wait:
    """The next message goes `seconds` of open time after `earliest`, and what that is because of."""

    earliest: float
    seconds: float
    cause: Cause = Cause.RELAY_SPEED
    limit: int = 0

    def until(self, at: float, cause: Cause) -> bool:
        """It begins no earlier; did that put it off?"""
        if at <= self.earliest:
            return False
        self.earliest, self.cause = at, cause
        return True

    def at_a_rate(self, seconds: float, cause: Cause, limit: int = 0) -> None:
        """It takes so long at least."""
        if seconds > self.seconds:
            self.seconds, self.cause, self.limit = seconds, cause, limit

    def not_before(self, at: float, cause: Cause, limit: int) -> None:
        """It goes no earlier, however long it takes."""
        if at > self.earliest + self.seconds:
            self.earliest, self.seconds, self.cause, self.limit = at, 0.0, cause, limit

    @property
    def key(self) -> tuple[Cause, int]:
        """What is waited for: of limits each by itself."""
        return self.cause, self.limit if self.cause in (Cause.OWN_LIMIT, Cause.RELAY_LIMIT) else 0


class _Batches:
    """The gaps between batches, and the wait after a first slice.

    Where each batch can be seen its gap is kept to; elsewhere, not `is_exact`, gaps are a rate.
    """

    def __init__(self, pace: Pace, open_: _Open | _OpenToReaders, start: float, *, is_exact: bool) -> None:
        self._pace = pace
        self._open = open_
        self._is_exact = is_exact
        self._begun, self._batch = start, 1

    def hold(self, wait: _Wait, at: float, n: int, point: int) -> None:
        """Put off the messages after the first `n`, which went by `at`, up to a place."""
        pace = self._pace
        if not self._is_exact:
            wait.at_a_rate((point - n) * pace.gap_seconds / pace.batch_size, Cause.GAP)
        elif pace.batch_of(point) != self._batch:
            self._batch = pace.batch_of(point)
            wait.until(self._begun + pace.gap_seconds, Cause.GAP)
            self._begun, _ = self._open.following(wait.earliest)
        first = pace.first_slice
        if first and n == first.people and wait.until(at + first.wait_minutes * 60, Cause.FIRST_SLICE):
            self._begun, _ = self._open.following(wait.earliest)


def _hold_to(wait: _Wait, limits: Mapping[int, int], track: Curve, reached: float, cause: Cause) -> None:
    """Put off messages up to `reached` by limits that count what is on a track; many at once go at the limit's rate."""
    step = reached - track.counts[-1]
    for window, most in limits.items():
        if step > most:
            wait.at_a_rate(step * window / most, cause, window)
        elif reached > most:
            wait.not_before(track.when(reached - most) + window, cause, window)


@dataclass(frozen=True, slots=True, kw_only=True)
class Road:
    """What holds for the messages of a run; see forecast_run.

    `readers` are how many live by which hours, where each one's own clock decides. Whoever may not get it yet is passed
    over and keeps nobody waiting.
    """

    pace: Pace
    hours: OpeningHours
    limits: Mapping[int, int]
    went: Sequence[tuple[datetime, int]]
    others: Sequence[int]
    sent: Sequence[tuple[datetime, int]]
    start: datetime
    released_at: datetime
    pauses: Sequence[tuple[datetime, datetime]]
    each: float
    horizon: float
    readers: Sequence[tuple[OpeningHours, int]] = ()
    _days: dict[date, tuple[float, int]] = field(default_factory=dict)

    def travel(self, points: Sequence[int]) -> Curve:
        """When the messages at some places go, in order from 1; it stops at the horizon."""
        pace, start = self.pace, self.start.timestamp()
        open_ = self._open(start)
        own, before = _counted(self.sent, start)
        relay, relay_before = _counted(self.went, start)
        curve = Curve([start], [0.0])
        waited: dict[tuple[Cause, int], float] = {}
        is_exact = len(points) == points[-1] or -(-points[-1] // pace.batch_size) <= len(points) // 2
        batches = _Batches(pace, open_, start, is_exact=is_exact)
        at, n = start, 0
        ahead = list(reversed(points))
        while ahead:
            point = ahead.pop()
            if isinstance(open_, _OpenToReaders) and point - n > (room := max(math.floor(open_.room(at)), 1)):
                ahead.append(point)
                point = n + room
            wait = _Wait(at, (point - n) * self.each)
            batches.hold(wait, at, n, point)
            reached, counts = before + point, relay_before + self._in_turn(point)
            _hold_to(wait, pace.limits, own, reached, Cause.OWN_LIMIT)
            _hold_to(wait, self.limits, relay, counts, Cause.RELAY_LIMIT)
            came = open_.after(wait.earliest, wait.seconds) if point > n + 1 else wait.earliest + wait.seconds
            if pace.ramp_up and came - start <= self.horizon:
                ramped = self._ramped(own, reached, came)
                if ramped > came:
                    came, wait.cause = ramped, Cause.RAMP_UP
            went, closed = open_.following(came)
            if not math.isfinite(went):
                break
            waited[wait.key] = waited.get(wait.key, 0.0) + came - at
            if closed:
                waited[closed, 0] = waited.get((closed, 0), 0.0) + went - came
            if isinstance(open_, _OpenToReaders):
                open_.take(went, point - n)
            at, n = went, point
            for track, there in ((curve, float(point)), (own, reached), (relay, counts)):
                track.add(at, there)
        curve.waited = tuple(Waited(cause, limit, seconds) for (cause, limit), seconds in waited.items() if seconds)
        return curve

    def _open(self, start: float) -> "_Open | _OpenToReaders":
        if self.readers:
            return _OpenToReaders(self.readers, self.pauses, start + self.horizon)
        return _Open(self.hours, self.pauses, start + self.horizon)

    def follow(self, whole: Curve, count: int, n: int, hourly: int, went: Sequence[tuple[datetime, int]] = ()) -> Curve:
        """When `n` of the `count` messages of a curve go, evenly among them, that have a limit of their own.

        `went` is what counts against that limit already.
        """
        start = self.start.timestamp()
        hours = OpeningHours(None, (), self.hours.zone) if self.readers else self.hours
        open_ = _Open(hours, self.pauses, start + self.horizon)
        track, before = _counted(went, start)
        own = Curve([start], [0.0])
        steps = min(n, 300)
        for step in range(1, steps + 1):
            reached = n * step / steps
            at = max(own.times[-1], whole.when(reached * count / n))
            if n / steps > hourly:
                at = max(at, open_.after(own.times[-1], (n / steps) * HOUR_SECONDS / hourly))
            elif before + reached > hourly:
                at = max(at, track.when(before + reached - hourly) + HOUR_SECONDS)
            at, _ = open_.following(at)
            if not math.isfinite(at):
                break
            own.add(at, reached)
            track.add(at, before + reached)
        return own

    def _in_turn(self, n: int) -> float:
        """How many have gone through the relay when `n` of ours have: the others take turns with us."""
        return float(n + sum(min(n, other) for other in self.others))

    def _ramped(self, own: Curve, reached: float, at: float) -> float:
        """When the ramp-up lets one go: a day after the one so many before it, or on a later day that has more room."""
        while True:
            ends, day = self._day_of(at)
            most = self.pace.limits_on(day)[DAY_SECONDS]
            free = own.when(reached - most) + DAY_SECONDS if reached > most else at
            if free <= at or free < ends or not math.isfinite(free):
                return max(at, free)
            at = ends

    def _day_of(self, at: float) -> tuple[float, int]:
        """(when the day of an instant ends, which sending day of the run it is)."""
        moment = datetime.fromtimestamp(at, UTC)
        day = moment.astimezone(self.hours.zone).date()
        if day not in self._days:
            ends = begin_of_day(day + timedelta(days=1), self.hours.zone).timestamp()
            self._days[day] = ends, self.hours.sending_day(self.released_at, moment)
        return self._days[day]


def _counted(went: Sequence[tuple[datetime, int]], start: float) -> tuple[Curve, float]:
    """What went before the start as a curve up to it, and how many that is."""
    curve, total = Curve([-math.inf], [0.0]), 0.0
    for at, n in went:
        total += n
        # All of a stretch at once, at its end, as the permits count it.
        curve.add(min(at.timestamp(), start), total - n)
        curve.add(min(at.timestamp(), start), total)
    curve.add(start, total)
    return curve, total
