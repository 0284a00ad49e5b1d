"""The time, which everything else is told."""

from collections.abc import Callable
from datetime import UTC, datetime

Clock = Callable[[], datetime]


def system_clock() -> datetime:
    """The time now, in UTC."""
    return datetime.now(UTC)


def recorded_at(clock: Clock) -> datetime | None:
    """What a clock other than the system's tells; of instants that are recorded, the database's own counts else."""
    return None if clock is system_clock else clock()
