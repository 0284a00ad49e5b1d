"""How much may be noted of what somebody opens and follows, by their own word."""

from datetime import datetime

from uvarovite.core.messages import Tracked
from uvarovite.store.database import Transaction, change_sql, run_sql


def wish_of(tx: Transaction, contact_id: int) -> Tracked | None:
    """What somebody wishes, if they said so."""
    rows = run_sql(tx, "SELECT wish FROM tracking_wish WHERE contact_id = :contact", {"contact": contact_id})
    return Tracked(rows[0].wish) if rows else None


def set_wish(tx: Transaction, contact_id: int, wish: Tracked | None, now: datetime) -> None:
    """Note what somebody wishes; None: whatever is usual."""
    if wish is None:
        change_sql(tx, "DELETE FROM tracking_wish WHERE contact_id = :contact", {"contact": contact_id})
        return
    change_sql(
        tx,
        """INSERT INTO tracking_wish (contact_id, wish, since) VALUES (:contact, :wish, :now)
            ON CONFLICT (contact_id) DO UPDATE SET wish = excluded.wish, since = excluded.since""",
        {"contact": contact_id, "wish": wish.value, "now": now},
    )
