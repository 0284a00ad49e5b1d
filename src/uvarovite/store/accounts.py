"""Users, sessions, one-time links and failed log-ins."""

from datetime import datetime

from sqlmodel import col, select

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import LoginLink, User, UserSession


def user_by_email(tx: Transaction, email: str) -> User | None:
    """A user by e-mail address, caseless."""
    return tx.exec(select(User).where(col(User.email) == email.strip().lower())).first()


def users(tx: Transaction) -> list[User]:
    """Everybody with an account, by name."""
    return list(tx.exec(select(User).order_by(col(User.name))).all())


def session_with_user(tx: Transaction, token_hash: str, now: datetime) -> tuple[UserSession, User] | None:
    """A session that has not expired, with its user."""
    query = (
        select(UserSession, User)
        .join(User, col(User.id) == col(UserSession.user_id))
        .where(col(UserSession.token_hash) == token_hash, col(UserSession.expires_at) > now)
    )
    found = tx.exec(query).first()
    return (found[0], found[1]) if found else None


def use_link(tx: Transaction, token_hash: str, now: datetime) -> int | None:
    """The user of a link that was never used and has not expired; it is used up by this."""
    rows = run_sql(
        tx,
        """UPDATE login_link SET used_at = :now
            WHERE token_hash = :token AND used_at IS NULL AND expires_at > :now RETURNING user_id""",
        {"token": token_hash, "now": now},
    )
    return rows[0].user_id if rows else None


def add_link(tx: Transaction, token_hash: str, user_id: int, expires_at: datetime) -> None:
    """Store a one-time link."""
    tx.add(LoginLink(token_hash=token_hash, user_id=user_id, expires_at=expires_at))


def failures_since(tx: Transaction, key: str, since: datetime) -> int:
    """How often a log-in failed under a key."""
    sql = "SELECT count(*) FROM login_attempt WHERE key = :key AND at > :since"
    return int(run_sql(tx, sql, {"key": key, "since": since})[0][0])


def note_failure(tx: Transaction, keys: list[str], at: datetime) -> None:
    """Note a failed log-in under each key; notes of yesterday go."""
    change_sql(
        tx,
        "INSERT INTO login_attempt (key, at) SELECT key, :at FROM unnest(CAST(:keys AS text[])) AS key",
        {"keys": keys, "at": at},
    )
    change_sql(tx, "DELETE FROM login_attempt WHERE at < :at - interval '1 day'", {"at": at})


def end_session(tx: Transaction, token_hash: str) -> None:
    """Sign out."""
    change_sql(tx, "DELETE FROM user_session WHERE token_hash = :token", {"token": token_hash})
