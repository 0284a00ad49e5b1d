"""Relays that rest, because no conversation with them comes about."""

import json
from datetime import datetime

from uvarovite.core.delivery.troubles import TROUBLE_FORM, RelayTrouble, rest_after
from uvarovite.store.database import Transaction, change_sql, run_sql


def rest_relay(tx: Transaction, relay_id: int, trouble: RelayTrouble, now: datetime) -> datetime | None:
    """Leave a relay alone for a while, each time for longer; until when. None when it is gone.

    Several workers find out at about the same time: one that rests already goes on to rest.
    """
    rows = run_sql(tx, "SELECT rests, rests_until FROM relay WHERE id = :id FOR UPDATE", {"id": relay_id})
    if not rows:
        return None
    until: datetime | None = rows[0].rests_until
    if until is None or until <= now:
        until = now + rest_after(rows[0].rests)
        change_sql(
            tx,
            "UPDATE relay SET rests = rests + 1, rests_until = :until, trouble = CAST(:trouble AS jsonb) WHERE id = :id",
            {"id": relay_id, "until": until, "trouble": json.dumps(TROUBLE_FORM.write(trouble))},
        )
    return until


def relay_is_well(tx: Transaction, relay_id: int) -> None:
    """A relay has answered: it rests no more, and nothing is said against it."""
    change_sql(
        tx,
        "UPDATE relay SET rests = 0, rests_until = NULL, trouble = NULL WHERE id = :id AND (rests > 0 OR trouble IS NOT NULL)",
        {"id": relay_id},
    )
