"""Who wants no letters on paper."""

from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql


def refuse_post(tx: Transaction, contact_id: int, *, wording: str, recorded_by: int | None, at: datetime) -> bool:
    """Somebody wants no post; False where they had said so already."""
    return (
        change_sql(
            tx,
            """INSERT INTO post_refusal (contact_id, at, wording, recorded_by) VALUES (:contact, :at, :wording, :by)
                ON CONFLICT DO NOTHING""",
            {"contact": contact_id, "at": at, "wording": wording, "by": recorded_by},
        )
        > 0
    )


def allow_post(tx: Transaction, contact_id: int) -> bool:
    """Somebody wants post after all; False where nothing was said against it."""
    return change_sql(tx, "DELETE FROM post_refusal WHERE contact_id = :contact", {"contact": contact_id}) > 0


def post_refusal(tx: Transaction, contact_id: int) -> Row[Any] | None:
    """(at, wording, recorded_by): what somebody said against post; None where nothing."""
    rows = run_sql(
        tx,
        """SELECT post_refusal.at, wording, user_account.name AS recorded_by FROM post_refusal
            LEFT JOIN user_account ON user_account.id = post_refusal.recorded_by WHERE contact_id = :contact""",
        {"contact": contact_id},
    )
    return rows[0] if rows else None
