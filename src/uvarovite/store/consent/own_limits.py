"""How often somebody wants mail at most: one message in a week, or in a month, by their own word."""

from datetime import UTC, datetime

from uvarovite.core.consent.own_limit import AtMost
from uvarovite.store.database import Transaction, change_sql, run_sql


def any_limits(tx: Transaction) -> bool:
    """Does anybody want less?"""
    return bool(run_sql(tx, "SELECT FROM own_limit LIMIT 1"))


def limit_of(tx: Transaction, contact_id: int) -> AtMost | None:
    """What somebody wants at most, if they said so."""
    return limit_since(tx, contact_id)[0]


def limit_since(tx: Transaction, contact_id: int) -> tuple[AtMost | None, datetime]:
    """What somebody wants at most, and when they said so; of no limit the instant says nothing."""
    rows = run_sql(tx, "SELECT at_most, since FROM own_limit WHERE contact_id = :contact", {"contact": contact_id})
    return (AtMost(rows[0].at_most), rows[0].since) if rows else (None, datetime.max.replace(tzinfo=UTC))


def set_limit(tx: Transaction, contact_id: int, at_most: AtMost | None, now: datetime) -> None:
    """Note what somebody wants at most; None: as it comes."""
    if at_most is None:
        change_sql(tx, "DELETE FROM own_limit WHERE contact_id = :contact", {"contact": contact_id})
        return
    change_sql(
        tx,
        """INSERT INTO own_limit (contact_id, at_most, since) VALUES (:contact, :at_most, :now)
            ON CONFLICT (contact_id) DO UPDATE SET at_most = excluded.at_most, since = excluded.since""",
        {"contact": contact_id, "at_most": at_most.value, "now": now},
    )
