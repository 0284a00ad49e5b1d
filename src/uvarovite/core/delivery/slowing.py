"""A domain that tells us to slow down is left alone for a while, each time for longer, until it accepts something again."""

from datetime import timedelta

from uvarovite.core.delivery.answers import Meaning

# Answers that say so; others that say later are about one person or one moment.
SLOWED_BY = frozenset({Meaning.SLOW_DOWN, Meaning.TOO_MANY})

_WAITS = tuple(timedelta(minutes=minutes) for minutes in (1, 2, 5, 10, 30))


def slow_for(times: int) -> timedelta:
    """How long a domain is left alone that has told us so for so many times, one after another; from 1."""
    return _WAITS[min(times, len(_WAITS)) - 1]
