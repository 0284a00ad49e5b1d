"""Requests that are done once: the key of one that is being done, and what was answered."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import Token
from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.services.errors import BadInput, Conflict
from uvarovite.store.database import Database, Transaction, change_sql
from uvarovite.store.once import AlreadyDone as AlreadyDone
from uvarovite.store.once import Once, current
from uvarovite.store.tables import IdempotencyKey

ANSWERS_KEPT_FOR = timedelta(days=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """What was answered when it was done; `body` is None where it was too long to be kept, or is not kept any more."""

    status: int
    kind: str | None
    body: str | None


@contextmanager
def _apart(database: Database) -> Iterator[Transaction]:
    """A transaction that is about the key, and claims none."""
    token = current.set(None)
    try:
        with database.transaction() as tx:
            yield tx
    finally:
        current.reset(token)


def begin(user_id: int, key: str, fingerprint: Callable[[], str], now: datetime) -> tuple[Once, Token[Once | None]]:
    """From here on, the first transaction claims the key. Give the token to `end`."""
    once = Once(user_id=user_id, key=key, fingerprint=fingerprint, at=now)
    return once, current.set(once)


def end(token: Token[Once | None]) -> None:
    """The request is over."""
    current.reset(token)


def is_known(database: Database, once: Once) -> bool:
    """Was this key sent before? What works in the background claims no key, and is known by its answer alone."""
    with _apart(database) as tx:
        return tx.get(IdempotencyKey, (once.user_id, once.key)) is not None


def answered(database: Database, once: Once) -> Answered | None:
    """What was answered under this key, or None while it is being done.

    Raises BadInput where something else was asked for, Conflict where it failed meanwhile.
    """
    with _apart(database) as tx:
        row = tx.get(IdempotencyKey, (once.user_id, once.key))
        if row is None:
            raise Conflict("failed", "The same was tried a moment ago and failed. Try again.")
        if row.fingerprint != once.fingerprint():
            raise BadInput("key_used", "Another request was sent under this key; load the page again.")
        return Answered(status=row.status, kind=row.kind, body=row.answer) if row.status is not None else None


def keep_answer(database: Database, once: Once, told: Answered) -> None:
    """Keep what was answered, for whoever asks again. Of two that claimed no key and end at once, either may be kept."""
    with _apart(database) as tx:
        change_sql(
            tx,
            """INSERT INTO idempotency_key (user_id, key, fingerprint, at, status, kind, answer)
                VALUES (:user, :key, :fingerprint, :at, :status, :kind, :answer)
                ON CONFLICT (user_id, key) DO UPDATE
                    SET status = excluded.status, kind = excluded.kind, answer = excluded.answer""",
            {
                "user": once.user_id,
                "key": once.key,
                "fingerprint": once.fingerprint(),
                "at": once.at,
                "status": told.status,
                "kind": told.kind,
                "answer": told.body,
            },
        )


def forget_key(database: Database, once: Once) -> None:
    """It was not done after all: it may be tried again."""
    with _apart(database) as tx:
        sql = "DELETE FROM idempotency_key WHERE user_id = :user AND key = :key"
        change_sql(tx, sql, {"user": once.user_id, "key": once.key})


def purge_keys(database: Database, now: datetime) -> int:
    """Delete what is too old to be asked for again; how many."""
    with _apart(database) as tx:
        return change_sql(tx, "DELETE FROM idempotency_key WHERE at < :before", {"before": now - ANSWERS_KEPT_FOR})
