"""Users, sessions, one-time links, and where people sign in from."""

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


def end_session(tx: Transaction, token_hash: str) -> None:
    """Sign out."""
    change_sql(tx, "DELETE FROM user_session WHERE token_hash = :token", {"token": token_hash})
