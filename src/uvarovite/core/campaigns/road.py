"""The road of a run's messages: when each may go at the earliest, one after the other, and what it waits for."""

import math
from bisect import bisect_left
from collections.abc import Mapping, Sequence
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Road:
    """What holds for the messages of a run; see forecast_run."""

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
    _days: dict[date, tuple[float, int]] = field(default_factory=dict)

    def travel(self, points: Sequence[int]) -> Curve:
        """When the messages at some places go, in order from 1; it stops at the horizon."""
        pace, start = self.pace, self.start.timestamp()
        open_ = _Open(self.hours, self.pauses, start + self.horizon)
        own, before = _counted(self.sent, start)
        relay, relay_before = _counted(self.went, start)
        curve = Curve([start], [0.0])
        waited: dict[tuple[Cause, int], float] = {}
        # Where each batch can be seen its gap is kept to; elsewhere it is a rate.
        is_exact = len(points) == points[-1] or -(-points[-1] // pace.batch_size) <= len(points) // 2
        at, n, begun, batch = start, 0, start, 1
        for point in points:
            step = point - n
            seconds, cause, limit = step * self.each, Cause.RELAY_SPEED, 0
            earliest = at
            if is_exact:
                if pace.batch_of(point) != batch:
                    batch = pace.batch_of(point)
                    earliest = max(at, begun + pace.gap_seconds)
                    cause = Cause.GAP if earliest > at else cause
                    begun, _ = open_.following(earliest)
            elif step * pace.gap_seconds / pace.batch_size > seconds:
                seconds, cause = step * pace.gap_seconds / pace.batch_size, Cause.GAP
            if pace.first_slice and n == pace.first_slice.people:
                slice_over = at + pace.first_slice.wait_minutes * 60
                if slice_over > earliest:
                    earliest, cause = slice_over, Cause.FIRST_SLICE
                    begun, _ = open_.following(earliest)
            reached, counts = before + point, relay_before + self._in_turn(point)
            for tracks, limits, kind, reached_there in (
                (own, self.pace.limits, Cause.OWN_LIMIT, reached),
                (relay, self.limits, Cause.RELAY_LIMIT, counts),
            ):
                for window, most in limits.items():
                    step_there = reached_there - tracks.counts[-1]
                    if step_there > most and step_there * window / most > seconds:
                        seconds, cause, limit = step_there * window / most, kind, window
                    elif reached_there > most:
                        free = tracks.when(reached_there - most) + window
                        if free > earliest + seconds:
                            earliest, seconds, cause, limit = free, 0.0, kind, window
            came = open_.after(earliest, seconds) if step > 1 else earliest + seconds
            if pace.ramp_up and came - start <= self.horizon:
                ramped = self._ramped(own, reached, came)
                if ramped > came:
                    came, cause, limit = ramped, Cause.RAMP_UP, DAY_SECONDS
            went, closed = open_.following(came)
            if not math.isfinite(went):
                break
            key = (cause, limit if cause in (Cause.OWN_LIMIT, Cause.RELAY_LIMIT) else 0)
            waited[key] = waited.get(key, 0.0) + came - at
            if closed:
                waited[closed, 0] = waited.get((closed, 0), 0.0) + went - came
            at, n = went, point
            for track, reached_there in ((curve, float(point)), (own, reached), (relay, counts)):
                track.add(at, reached_there)
        curve.waited = tuple(Waited(cause, limit, seconds) for (cause, limit), seconds in waited.items() if seconds)
        return curve

    def follow(self, whole: Curve, count: int, n: int, hourly: int, went: Sequence[tuple[datetime, int]] = ()) -> Curve:
        """When `n` of the `count` messages of a curve go, evenly among them, that have a limit of their own.

        `went` is what counts against that limit already.
        """
        start = self.start.timestamp()
        open_ = _Open(self.hours, self.pauses, start + self.horizon)
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
