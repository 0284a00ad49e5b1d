"""When each message of a run will go out, from its pace: the curve before release and beside the actual one.

The model is the one that the workers follow: batch k begins no earlier than k gaps after the start and not before the
one before it is through; with a limit of L an hour, message i goes no earlier than an hour after message i - L; between
them the relay takes its time for each message.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from uvarovite.core.campaigns.pace import Pace

# What a message is taken to cost a worker besides gaps and limits. An assumption, unmeasured: those two decide the
# finishing time of any careful pace.
SECONDS_PER_MESSAGE = 0.005
# Enough for a curve as wide as a screen.
CURVE_POINTS = 120


@dataclass(frozen=True, slots=True, kw_only=True)
class Forecast:
    """`curve` holds (instant, how many are out by then), first point (start, 0), last point (end, count)."""

    start: datetime
    end: datetime
    curve: tuple[tuple[datetime, int], ...]


def forecast_run(
    count: int,
    pace: Pace,
    relay_limit: int | None,
    start: datetime,
    *,
    seconds_per_message: float = SECONDS_PER_MESSAGE,
) -> Forecast:
    """The forecast for `count` messages from `start` on, an aware instant; an empty run ends where it starts."""
    if count <= 0:
        return Forecast(start=start, end=start, curve=((start, 0),))
    seconds = _send_seconds(count, pace, pace.limit_with(relay_limit), seconds_per_message)
    points = np.unique(np.linspace(0, count - 1, min(count, CURVE_POINTS)).astype(np.int64))
    # The steps of the batches are the shape that matters; their edges are points of their own while they are few.
    batches = -(-count // pace.batch_size)
    if batches <= CURVE_POINTS:
        firsts = np.arange(0, count, pace.batch_size)
        points = np.unique(np.concatenate([points, firsts, np.minimum(firsts + pace.batch_size, count) - 1]))
    curve = [(start + timedelta(seconds=float(seconds[at])), int(at) + 1) for at in points]
    return Forecast(start=start, end=curve[-1][0], curve=((start, 0), *curve))


def _send_seconds(count: int, pace: Pace, limit: int | None, each: float) -> np.ndarray:
    """Seconds after the start at which each message goes out; shape (count,), never falling."""
    index = np.arange(count, dtype=np.float64)
    batch = np.floor_divide(index, pace.batch_size)
    out: np.ndarray = batch * pace.gap_seconds + (index - batch * pace.batch_size + 1) * each
    # No message before the one in front of it has gone: a running maximum of (time - own work) plus own work.
    out = np.maximum.accumulate(out - index * each) + index * each
    if limit is None or limit >= count:
        return out
    for first in range(limit, count, limit):
        block = slice(first, min(first + limit, count))
        before = out[first - limit : first - limit + (block.stop - first)] + 3_600
        out[block] = np.maximum(out[block], before)
        out[block] = np.maximum.accumulate(out[block])
    return out
