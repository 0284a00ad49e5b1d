"""Doing a request once, however often it is sent: its key is written in the transaction that does it.

The first transaction of a request claims the key. A second request with the same key waits for that transaction, and then
finds that it is done; where the transaction fails, the key is free again.
"""

from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import text
from sqlmodel import Session


class AlreadyDone(Exception):
    """A request with this key has been done, or is being done. Whose doing: the sender's; the answer is kept."""


@dataclass(slots=True, kw_only=True)
class Once:
    """A request that is to be done once. `fingerprint` is asked for when its whole body has come in."""

    user_id: int
    key: str
    fingerprint: Callable[[], str]
    at: datetime
    claimed: bool = field(default=False)


# The request that this thread or task is working for.
current: ContextVar[Once | None] = ContextVar("once", default=None)


def claim(session: Session, once: Once) -> None:
    """Claim the key within this transaction. Raises AlreadyDone."""
    once.claimed = True
    claimed = session.connection().execute(
        text(
            """INSERT INTO idempotency_key (user_id, key, fingerprint, at) VALUES (:user, :key, :fingerprint, :at)
                ON CONFLICT DO NOTHING RETURNING key"""
        ),
        {"user": once.user_id, "key": once.key, "fingerprint": once.fingerprint(), "at": once.at},
    )
    if claimed.first() is None:
        raise AlreadyDone
