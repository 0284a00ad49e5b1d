"""Users, and the links that let them in."""

from datetime import datetime
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.accounts import Role
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import LinkPurpose, LoginLink, User


def user_by_email(tx: Transaction, email: str) -> User | None:
    """A user by e-mail address, caseless; also one who has left."""
    return tx.exec(select(User).where(col(User.email) == email.strip().lower())).first()


def users(tx: Transaction) -> list[User]:
    """Everybody who works here, by name."""
    return list(tx.exec(select(User).where(col(User.left_at).is_(None)).order_by(col(User.name))).all())


def lock_user(tx: Transaction, user_id: int) -> User | None:
    """A user whose account is about to change."""
    return tx.get(User, user_id, with_for_update=True, populate_existing=True)


def user_lines(tx: Transaction, now: datetime) -> list[Row[Any]]:
    """Everybody with an account: who they are, when they were last seen, sessions and tokens in force."""
    return list(
        run_sql(
            tx,
            """SELECT id, email, name, role, created_at, seen_at, left_at, password_hash IS NOT NULL AS has_password,
                (SELECT count(*) FROM user_session WHERE user_id = user_account.id AND expires_at > :now) AS sessions,
                (SELECT count(*) FROM api_token WHERE user_id = user_account.id AND revoked_at IS NULL
                    AND (expires_at IS NULL OR expires_at > :now)) AS tokens
                FROM user_account ORDER BY left_at IS NOT NULL, name, id""",
            {"now": now},
        )
    )


def other_administrators(tx: Transaction, user_id: int) -> int:
    """How many administrators with a password there are beside this one. They are locked: two who go wait for each other."""
    rows = run_sql(
        tx,
        """SELECT id FROM user_account WHERE role = :role AND left_at IS NULL AND password_hash IS NOT NULL
            ORDER BY id FOR UPDATE""",
        {"role": Role.ADMINISTRATOR},
    )
    return sum(row.id != user_id for row in rows)


def use_link(tx: Transaction, token_hash: str, purpose: LinkPurpose, now: datetime) -> User | None:
    """The user of a link that was never used and has not expired; it is used up by this."""
    rows = run_sql(
        tx,
        """UPDATE login_link SET used_at = :now
            WHERE token_hash = :token AND purpose = :purpose AND used_at IS NULL AND expires_at > :now RETURNING user_id""",
        {"token": token_hash, "purpose": purpose, "now": now},
    )
    user = lock_user(tx, rows[0].user_id) if rows else None
    return user if user and user.left_at is None else None


def user_of_link(tx: Transaction, token_hash: str, purpose: LinkPurpose, now: datetime) -> User | None:
    """Whose a link is that would work; it still does afterwards."""
    query = (
        select(User)
        .join(LoginLink, col(User.id) == col(LoginLink.user_id))
        .where(
            col(LoginLink.token_hash) == token_hash,
            col(LoginLink.purpose) == purpose,
            col(LoginLink.used_at).is_(None),
            col(LoginLink.expires_at) > now,
            col(User.left_at).is_(None),
        )
    )
    return tx.exec(query).first()


def add_link(tx: Transaction, token_hash: str, user_id: int, purpose: LinkPurpose, expires_at: datetime) -> None:
    """Store a link; an older one of this user for the same does not work any more."""
    forget_links(tx, user_id, purpose)
    tx.add(LoginLink(token_hash=token_hash, user_id=user_id, purpose=purpose, expires_at=expires_at))


def forget_links(tx: Transaction, user_id: int, purpose: LinkPurpose | None = None) -> None:
    """The links of a user do not work any more."""
    sql = "DELETE FROM login_link WHERE user_id = :user AND (CAST(:purpose AS text) IS NULL OR purpose = :purpose)"
    change_sql(tx, sql, {"user": user_id, "purpose": purpose})


def forget_drafts_of(tx: Transaction, user_id: int) -> int:
    """Throw away what somebody changed and did not save; how many things."""
    return change_sql(tx, "DELETE FROM draft WHERE user_id = :user", {"user": user_id})
