"""Advice that was accepted."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql


def accepted_of(tx: Transaction, campaign_id: int) -> Sequence[Row[Any]]:
    """What was accepted for a campaign: (digest, reason, by, at)."""
    return run_sql(
        tx,
        """SELECT digest, reason, coalesce(user_account.name, '') AS by, at FROM accepted_advice
            LEFT JOIN user_account ON user_account.id = accepted_advice.user_id WHERE campaign_id = :id""",
        {"id": campaign_id},
    )


def accept(
    tx: Transaction, campaign_id: int, digest: str, *, message: str, reason: str, user_id: int | None, now: datetime
) -> None:
    """Keep that advice was accepted; whoever says so last is kept."""
    change_sql(
        tx,
        """INSERT INTO accepted_advice (campaign_id, digest, message, reason, user_id, at)
            VALUES (:campaign, :digest, :message, :reason, :user, :now)
            ON CONFLICT (campaign_id, digest) DO UPDATE SET reason = :reason, user_id = :user, at = :now""",
        {
            "campaign": campaign_id, "digest": digest, "message": message, "reason": reason, "user": user_id, "now": now,
        },
    )  # fmt: skip


def take_back(tx: Transaction, campaign_id: int, digest: str) -> bool:
    """It is not accepted any more; False where it was not."""
    sql = "DELETE FROM accepted_advice WHERE campaign_id = :campaign AND digest = :digest"
    return change_sql(tx, sql, {"campaign": campaign_id, "digest": digest}) > 0
