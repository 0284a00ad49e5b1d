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
# Keeps what is laid out at once within some megabytes.
_HOURS_AT_ONCE = 2_000


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
    points = np.unique(np.linspace(0, count - 1, min(count, CURVE_POINTS)).astype(np.int64))
    # The steps of the batches are the shape that matters; their edges are points of their own while they are few.
    batches = -(-count // pace.batch_size)
    if batches <= CURVE_POINTS:
        firsts = np.arange(0, count, pace.batch_size)
        points = np.unique(np.concatenate([points, firsts, np.minimum(firsts + pace.batch_size, count) - 1]))
    seconds = _send_seconds(points, pace, pace.limit_with(relay_limit), seconds_per_message)
    curve = [(start + timedelta(seconds=float(at)), int(point) + 1) for point, at in zip(points, seconds, strict=True)]
    return Forecast(start=start, end=curve[-1][0], curve=((start, 0), *curve))


def _send_seconds(messages: np.ndarray, pace: Pace, limit: int | None, each: float) -> np.ndarray:
    """Seconds after the start at which messages go out, by their places from 0; both of shape (n,).

    By pace alone message i goes at base(i): its batch begins so many gaps, or so much work, after the start. With a limit
    it goes an hour after message i - L at the earliest, which goes an hour after message i - 2 L, and so on: at the
    latest of base(i - j L) + j hours. Since base never falls, neither does that.
    """
    period = max(pace.gap_seconds, pace.batch_size * each)

    def base(index: np.ndarray) -> np.ndarray:
        batch, within = np.divmod(index, pace.batch_size)
        told: np.ndarray = batch * period + (within + 1) * each
        return told

    out = base(messages)
    if limit is None:
        return out
    hours = int(messages.max()) // limit
    for first in range(1, hours + 1, _HOURS_AT_ONCE):
        hour = np.arange(first, min(first + _HOURS_AT_ONCE, hours + 1))[:, np.newaxis]
        earlier = messages - hour * limit
        later = np.where(earlier >= 0, base(np.maximum(earlier, 0)) + hour * 3_600, 0.0)
        out = np.maximum(out, later.max(axis=0))
    return out
