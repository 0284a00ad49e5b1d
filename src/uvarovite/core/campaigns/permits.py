"""Permits: how a limit holds in any sliding hour, for all workers together.

A worker takes a permit for a group of messages before it marks them as being sent, and closes it once the relay has
answered for the last of them. An open permit counts in full at every moment. A closed one counts for an hour from
when it was closed, which is no earlier than any of its messages went out. So whatever happens between taking and
closing, the messages that went out in any hour are never more than the permits that counted in it.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

HOUR = timedelta(hours=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Permit:
    """`count` messages; `closed_at` is None while the group is under way."""

    count: int
    closed_at: datetime | None


def grant_permits(
    wanted: int, limit: int | None, taken: Iterable[Permit], now: datetime
) -> tuple[int, datetime | None]:
    """(granted, next): how many of the wanted may go now, and when to ask again if it is none.

    `next` is None when something was granted, or when only the closing of an open permit can free anything.
    """
    if limit is None:
        return wanted, None
    counting = [permit for permit in taken if permit.closed_at is None or permit.closed_at > now - HOUR]
    free = limit - sum(permit.count for permit in counting)
    if free > 0:
        return min(wanted, free), None
    closing = [permit.closed_at for permit in counting if permit.closed_at is not None]
    return 0, min(closing) + HOUR if closing else None
