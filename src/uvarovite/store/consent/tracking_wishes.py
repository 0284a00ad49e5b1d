"""How much may be noted of what somebody opens and follows, by their own word."""

from datetime import UTC, datetime

from uvarovite.core.messages import Tracked
from uvarovite.store.database import Transaction, change_sql, run_sql


def wish_of(tx: Transaction, contact_id: int) -> Tracked | None:
    """What somebody wishes, if they said so."""
    return wish_since(tx, contact_id)[0]


def wish_since(tx: Transaction, contact_id: int) -> tuple[Tracked | None, datetime]:
    """What somebody wishes, and when they said so; of no wish the instant says nothing."""
    rows = run_sql(tx, "SELECT wish, since FROM tracking_wish WHERE contact_id = :contact", {"contact": contact_id})
    return (Tracked(rows[0].wish), rows[0].since) if rows else (None, datetime.max.replace(tzinfo=UTC))


def set_wish(tx: Transaction, contact_id: int, wish: Tracked | None, now: datetime) -> None:
    """Note what somebody wishes; None, or by person: whatever is usual."""
    if wish is None or wish is Tracked.BY_PERSON:
        change_sql(tx, "DELETE FROM tracking_wish WHERE contact_id = :contact", {"contact": contact_id})
        return
    change_sql(
        tx,
        """INSERT INTO tracking_wish (contact_id, wish, since) VALUES (:contact, :wish, :now)
            ON CONFLICT (contact_id) DO UPDATE SET wish = excluded.wish, since = excluded.since""",
        {"contact": contact_id, "wish": wish.value, "now": now},
    )
