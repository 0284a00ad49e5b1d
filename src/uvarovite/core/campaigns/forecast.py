"""When each message of a run will go out: the curve before release, beside the actual one, and over the past.

The model is the one that the workers follow. A batch begins no earlier than a gap after the one before it and not before
that one is through; nothing goes while the window is closed; with a limit of L in W seconds, message i goes no earlier
than W after message i - L, and a relay's limits count what other runs send through it as well. Other runs of the relay
take turns with this one until they are through. Between all that the relay takes its time for each message.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from uvarovite.core.campaigns.opening import OpeningHours, reader_zone
from uvarovite.core.campaigns.pace import Pace
from uvarovite.core.campaigns.road import Cause, Curve, Road, Waited

# What a message is taken to cost a worker besides gaps and limits. An assumption, unmeasured: those two decide the
# finishing time of any careful pace.
SECONDS_PER_MESSAGE = 0.005
# Enough for a curve as wide as a screen.
CURVE_POINTS = 120
# So many messages are looked at one by one; of more, so many among them.
POINTS = 500
# What takes longer than this is not worked out.
HORIZON = timedelta(days=20 * 366)


@dataclass(frozen=True, slots=True, kw_only=True)
class Capacity:
    """A relay as a run finds it.

    `limits` are how many messages may go, by seconds; `went` is what counts against them: (instant, how many), oldest first;
    `others` is how many messages each other run has still to send through it.
    """

    limits: Mapping[int, int] = field(default_factory=dict)
    went: Sequence[tuple[datetime, int]] = ()
    others: Sequence[int] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Lateness:
    """What to expect of those who are told to come back later: their `share`, and after how long each of them is tried."""

    share: float
    delays_seconds: Sequence[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Forecast:
    """`curve` holds (instant, how many are out by then), first point (start, 0), last point (end, count).

    `late` is the same when as many as lately are told to come back later; `closed` are the spans in which nothing may go
    out; `waited` says what the time goes by, longest first; `domains` when those of a limited domain are through. What
    would take longer than HORIZON has no end, and its curve stops there.
    """

    start: datetime
    end: datetime | None
    curve: tuple[tuple[datetime, int], ...]
    late: tuple[tuple[datetime, int], ...] = ()
    closed: tuple[tuple[datetime, datetime], ...] = ()
    waited: tuple[Waited, ...] = ()
    domains: Mapping[str, datetime | None] = field(default_factory=dict)

    @property
    def late_end(self) -> datetime | None:
        """When the last is through who was told to come back later."""
        return None if self.end is None else max(self.end, self.late[-1][0]) if self.late else self.end


def forecast_run(
    count: int,
    pace: Pace,
    capacity: Capacity,
    start: datetime,
    zone: ZoneInfo,
    *,
    released_at: datetime | None = None,
    domains: Mapping[str, int] | None = None,
    readers: Mapping[str, int] | None = None,
    lateness: Lateness | None = None,
    pauses: Sequence[tuple[datetime, datetime]] = (),
    sent: Sequence[tuple[datetime, int]] = (),
    sent_there: Mapping[str, Sequence[tuple[datetime, int]]] | None = None,
    seconds_per_message: float = SECONDS_PER_MESSAGE,
) -> Forecast:
    """The forecast for `count` messages from `start` on, an aware instant; an empty run ends where it starts.

    `released_at` is when the ramp-up began, `sent` what of this run counts against its own limits already, and `domains`
    how many of the messages go to each domain; only those with a limit are asked for, and so is what was `sent_there`.
    `readers` says how many name which zone, where each one's own clock decides; all others go by `zone`.
    """
    if count <= 0:
        return Forecast(start=start, end=start, curve=((start, 0),))
    hours = pace.hours(zone)
    lives = _readers(count, pace, zone, readers or {})
    road = Road(
        pace=pace,
        hours=hours,
        limits=capacity.limits,
        went=capacity.went,
        others=capacity.others,
        sent=sent,
        start=start,
        released_at=released_at or start,
        pauses=pauses,
        each=seconds_per_message,
        readers=lives,
        horizon=HORIZON.total_seconds(),
    )
    whole = road.travel(_points(count, pace))
    ends = {}
    times, out = np.array(whole.times), np.array(whole.counts)
    for limit in pace.domain_limits:
        n = (domains or {}).get(limit.domain, 0)
        if n:
            own = road.follow(whole, count, n, limit.hourly, (sent_there or {}).get(limit.domain, ()))
            ends[limit.domain] = None if own.counts[-1] < n else _at(own.times[-1])
            times, out = _with_slower(times, out, count, own, n)
    is_through = out[-1] >= count - 0.5 and all(end is not None for end in ends.values())
    curve = _thinned(times, out, count, start)
    return Forecast(
        start=start,
        end=curve[-1][0] if is_through else None,
        curve=curve,
        late=_late(times, out, count, lateness) if lateness and lateness.share > 0 and is_through else (),
        closed=() if lives else tuple(_closed(hours, start, curve[-1][0])),
        waited=tuple(sorted(whole.waited, key=lambda one: -one.seconds)),
        domains=ends,
    )


def _readers(count: int, pace: Pace, home: ZoneInfo, readers: Mapping[str, int]) -> list[tuple[OpeningHours, int]]:
    """How many of the messages go by which hours; none where the organisation's clock decides for all of them."""
    if pace.zone_field is None:
        return []
    told: dict[ZoneInfo, int] = {}
    for name, n in readers.items():
        told[reader_zone(name, home)] = told.get(reader_zone(name, home), 0) + n
    # Of a run that is on its way as many are left of each as there were of them at the beginning.
    share = min(1.0, count / max(sum(told.values()), 1))
    left = {zone: round(n * share) for zone, n in told.items() if zone is not home}
    left[home] = max(count - sum(left.values()), 0)
    return [(pace.hours(zone), n) for zone, n in left.items() if n]


def ceiling(count: int, capacity: Capacity, start: datetime, zone: ZoneInfo) -> Forecast:
    """What the relay would allow for `count` messages, with no pace of one's own."""
    unhurried = Pace(batch_size=5_000, gap_seconds=0)
    return forecast_run(count, unhurried, replace(capacity, others=()), start, zone)


def latest_start(
    count: int,
    pace: Pace,
    capacity: Capacity,
    now: datetime,
    zone: ZoneInfo,
    *,
    done_by: datetime,
    domains: Mapping[str, int],
    readers: Mapping[str, int] | None = None,
) -> datetime | None:
    """The latest minute at which a release is through by `done_by`; None where it is too late for that already."""

    def is_in_time(start: datetime) -> bool:
        end = forecast_run(count, pace, capacity, start, zone, domains=domains, readers=readers).end
        return end is not None and end <= done_by

    if done_by < now or not is_in_time(now):
        return None
    early, late = 0, int((done_by - now) / timedelta(minutes=1)) + 1
    while late - early > 1:
        middle = (early + late) // 2
        early, late = (middle, late) if is_in_time(now + timedelta(minutes=middle)) else (early, middle)
    return now + timedelta(minutes=early)


def _at(seconds: float) -> datetime:
    return datetime.fromtimestamp(seconds, UTC)


def _points(count: int, pace: Pace) -> list[int]:
    """Which messages are looked at, by their places from 1: all, or the edges of batches and as many as are enough."""
    if count <= POINTS:
        return list(range(1, count + 1))
    points = {round(one) for one in np.linspace(1, count, POINTS)}
    if -(-count // pace.batch_size) <= POINTS:
        head = min(pace.first_slice.people, count) if pace.first_slice else 0
        firsts = [*range(1, head + 1, pace.batch_size), *range(head + 1, count + 1, pace.batch_size)]
        points |= {*firsts, *(one - 1 for one in firsts[1:])}
    elif pace.first_slice and pace.first_slice.people < count:
        points |= {pace.first_slice.people, pace.first_slice.people + 1}
    if pace.ramp_up:
        total = 0
        for day in range(POINTS):
            total += pace.limits_on(day)[86_400]
            if total >= count:
                break
            points.add(total)
    return sorted(points)


def _with_slower(times: np.ndarray, out: np.ndarray, count: int, own: Curve, n: int) -> tuple[np.ndarray, np.ndarray]:
    """A curve of `count` in which `n` go by a slower curve of their own."""
    both = np.union1d(times, np.array(own.times))
    rest = np.interp(both, times, out) - np.interp(both, times, out) * (n / count)
    return both, rest + np.interp(both, np.array(own.times), np.array(own.counts))


def _thinned(times: np.ndarray, out: np.ndarray, count: int, start: datetime) -> tuple[tuple[datetime, int], ...]:
    """As many points as can be seen: where the curve bends, the first and the last."""
    whole = np.floor(out + 1e-6).astype(np.int64)
    keep = _bends(times, whole.astype(float), count)
    return (
        (start, 0),
        *((_at(float(times[one])), int(whole[one])) for one in keep if times[one] > 0 and whole[one] > 0),
    )


def _bends(times: np.ndarray, out: np.ndarray, count: int) -> list[int]:
    """The points of a curve that a drawing needs, within half a pixel where so many are enough."""
    if len(times) <= CURVE_POINTS:
        return list(range(len(times)))
    x = (times - times[0]) / max(times[-1] - times[0], 1e-9)
    y = out / max(count, 1)
    near = 0.001
    while len(kept := _simplified(x, y, near)) > CURVE_POINTS:
        near *= 2
    return sorted(kept)


def _simplified(x: np.ndarray, y: np.ndarray, near: float) -> set[int]:
    """Those points from which straight lines pass all others as near as told (Douglas and Peucker, 1973)."""
    kept = {0, len(x) - 1}
    spans = [(0, len(x) - 1)]
    while spans:
        first, last = spans.pop()
        if last - first < 2:
            continue
        between = slice(first + 1, last)
        run, rise = x[last] - x[first], y[last] - y[first]
        away = np.abs(rise * (x[between] - x[first]) - run * (y[between] - y[first])) / max(
            math.hypot(run, rise), 1e-12
        )
        far = int(away.argmax())
        if away[far] > near:
            middle = first + 1 + far
            kept.add(middle)
            spans += [(first, middle), (middle, last)]
    return kept


def _late(times: np.ndarray, out: np.ndarray, count: int, lateness: Lateness) -> tuple[tuple[datetime, int], ...]:
    """The curve when a share is told to come back later, and the same share of those again."""
    share, after, left, total = lateness.share, 0.0, 1.0, np.zeros(0)
    steps = [0.0, *np.cumsum(np.array(lateness.delays_seconds, dtype=float)).tolist()]
    all_times = np.unique(np.concatenate([times + step for step in steps]))
    total = np.zeros(len(all_times))
    last = times[-1]
    for number, after in enumerate(steps):
        part = left if number == len(steps) - 1 else left * (1 - share)
        total += part * np.interp(all_times - after, times, out, left=0.0)
        last = times[-1] + after
        left *= share
        if left * count < 0.5:
            break
    total += left * count if left * count < 0.5 else 0.0
    shown = all_times <= last
    all_times, whole = all_times[shown], np.floor(np.minimum(total[shown], count) + 1e-6)
    return tuple((_at(float(all_times[one])), int(whole[one])) for one in _bends(all_times, whole, count))


def _closed(hours: OpeningHours, start: datetime, end: datetime) -> Iterator[tuple[datetime, datetime]]:
    """The spans between two instants in which nothing may go out; a great many are not worth drawing."""
    at, found = start.timestamp(), 0
    for opens, closes in hours.spans(at):
        if opens > at:
            yield _at(at), _at(min(opens, end.timestamp()))
            found += 1
        at = closes
        if at >= end.timestamp() or found >= CURVE_POINTS:
            return


__all__ = ["Capacity", "Cause", "Forecast", "Lateness", "Waited", "ceiling", "forecast_run", "latest_start"]
