"""Tokens that programs come in with."""

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import ApiToken, User

_USED_EVERY = timedelta(minutes=1)


def token_with_user(tx: Transaction, token_hash: str, now: datetime) -> tuple[ApiToken, User] | None:
    """A token in force, with the user who made it and still works here."""
    query = (
        select(ApiToken, User)
        .join(User, col(User.id) == col(ApiToken.user_id))
        .where(
            col(ApiToken.token_hash) == token_hash,
            col(ApiToken.revoked_at).is_(None),
            col(ApiToken.expires_at).is_(None) | (col(ApiToken.expires_at) > now),
            col(User.left_at).is_(None),
        )
    )
    found = tx.exec(query).first()
    if found is None:
        return None
    if found[0].used_at is None or now - found[0].used_at > _USED_EVERY:
        change_sql(tx, "UPDATE api_token SET used_at = :now WHERE id = :id", {"now": now, "id": found[0].id})
    return found[0], found[1]


def token_lines(tx: Transaction, user_id: int | None) -> list[Row[Any]]:
    """A user's tokens, or everybody's (None), those in force first, the latest first."""
    return list(
        run_sql(
            tx,
            """SELECT api_token.id, api_token.user_id, user_account.name AS owner, api_token.name, beginning, scopes,
                    api_token.created_at, expires_at, used_at, revoked_at
                FROM api_token JOIN user_account ON user_account.id = api_token.user_id
                WHERE CAST(:user AS bigint) IS NULL OR api_token.user_id = :user
                ORDER BY revoked_at IS NOT NULL, api_token.id DESC""",
            {"user": user_id},
        )
    )


def revoke_tokens_of(tx: Transaction, user_id: int, now: datetime) -> int:
    """No token of a user works any more; how many did."""
    sql = "UPDATE api_token SET revoked_at = :now WHERE user_id = :user AND revoked_at IS NULL"
    return change_sql(tx, sql, {"user": user_id, "now": now})
