"""When to try again after an answer that says so."""

from collections.abc import Sequence
from datetime import datetime, timedelta

# Long enough for greylisting at first, short enough that a letter about tomorrow still arrives today.
RETRY_DELAYS_SECONDS = (300, 900, 3_600, 14_400, 43_200)


MOST_ATTEMPTS = 10


def delays_for(attempts: int, delays_seconds: Sequence[int]) -> list[int]:
    """The delays between so many attempts, 1 to MOST_ATTEMPTS: those of now as far as they go, then the usual ones."""
    usual = RETRY_DELAYS_SECONDS[len(delays_seconds) :]
    return [*delays_seconds, *usual, *[RETRY_DELAYS_SECONDS[-1]] * MOST_ATTEMPTS][: attempts - 1]


def next_attempt(
    attempts: int, now: datetime, jitter: float, delays_seconds: Sequence[int] = RETRY_DELAYS_SECONDS
) -> datetime | None:
    """When to try again after `attempts` attempts (at least 1), or None when there were enough.

    `jitter` in [0, 1) spreads people who were told to come back at once over the fifth behind the delay.
    """
    if attempts > len(delays_seconds):
        return None
    return now + timedelta(seconds=delays_seconds[attempts - 1] * (1 + 0.2 * jitter))
