"""Browsers that are signed in, and where people sign in from."""

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import User, UserSession

# A row is written once in so long, not at each request.
_SEEN_EVERY = timedelta(minutes=1)


def session_with_user(tx: Transaction, token_hash: str, now: datetime) -> tuple[UserSession, User] | None:
    """A session that has not expired, with its user."""
    query = (
        select(UserSession, User)
        .join(User, col(User.id) == col(UserSession.user_id))
        .where(
            col(UserSession.token_hash) == token_hash, col(UserSession.expires_at) > now, col(User.left_at).is_(None)
        )
    )
    found = tx.exec(query).first()
    if found and now - found[0].seen_at > _SEEN_EVERY:
        change_sql(tx, "UPDATE user_session SET seen_at = :now WHERE id = :id", {"now": now, "id": found[0].id})
        change_sql(tx, "UPDATE user_account SET seen_at = :now WHERE id = :id", {"now": now, "id": found[1].id})
    return (found[0], found[1]) if found else None


def session_lines(tx: Transaction, user_id: int, now: datetime) -> list[Row[Any]]:
    """A user's sessions, the one that was used last first: (id, origin, agent, created_at, seen_at, expires_at)."""
    return list(
        run_sql(
            tx,
            """SELECT id, origin, agent, created_at, seen_at, expires_at FROM user_session
                WHERE user_id = :user AND expires_at > :now ORDER BY seen_at DESC, id DESC""",
            {"user": user_id, "now": now},
        )
    )


def end_session(tx: Transaction, user_id: int, session_id: int) -> int:
    """Sign one browser of a user out."""
    sql = "DELETE FROM user_session WHERE id = :id AND user_id = :user"
    return change_sql(tx, sql, {"id": session_id, "user": user_id})


def end_sessions(tx: Transaction, user_id: int, *, but: int | None = None) -> int:
    """Sign all browsers of a user out, or all but one; how many."""
    sql = "DELETE FROM user_session WHERE user_id = :user AND (CAST(:but AS bigint) IS NULL OR id <> :but)"
    return change_sql(tx, sql, {"user": user_id, "but": but})


def is_known_origin(tx: Transaction, email: str, origin: str) -> bool:
    """Has this person signed in from there before?"""
    sql = """SELECT EXISTS (SELECT FROM known_origin JOIN user_account ON user_account.id = user_id
        WHERE email = :email AND origin = :origin)"""
    return bool(run_sql(tx, sql, {"email": email, "origin": origin})[0][0])


def remember_origin(tx: Transaction, user_id: int, origin: str, at: datetime) -> None:
    """Remember where somebody signed in from."""
    change_sql(
        tx,
        """INSERT INTO known_origin (user_id, origin, at) VALUES (:user, :origin, :at)
            ON CONFLICT (user_id, origin) DO UPDATE SET at = excluded.at""",
        {"user": user_id, "origin": origin, "at": at},
    )


def purge(tx: Transaction, now: datetime, origins_before: datetime) -> int:
    """Delete sessions and links that have ended, and origins that nobody came from since; how many."""
    return (
        change_sql(tx, "DELETE FROM user_session WHERE expires_at <= :now", {"now": now})
        + change_sql(tx, "DELETE FROM login_link WHERE expires_at <= :now", {"now": now})
        + change_sql(tx, "DELETE FROM known_origin WHERE at < :before", {"before": origins_before})
    )
