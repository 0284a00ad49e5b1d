"""Relays: how they stand in their pools, and that they rest when no conversation with them comes about."""

import json
from collections.abc import Sequence
from datetime import datetime

from uvarovite.core.delivery import BatchState
from uvarovite.core.delivery.relay_pools import RelayStanding
from uvarovite.core.delivery.troubles import TROUBLE_FORM, RelayTrouble, rest_after
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.delivery import permits


def standings(tx: Transaction, pool_id: int | None = None) -> list[RelayStanding]:
    """How the relays of a pool stand, of all pools where none is asked for; as they are ordered there."""
    rows = run_sql(
        tx,
        f"""SELECT id, revision, pool_id, place, rests, rests_until, full_until,
                rests > 0 AND EXISTS (SELECT FROM batch WHERE state = '{BatchState.CLAIMED}' AND relay_id = relay.id)
                    AS has_batch
            FROM relay WHERE removed_at IS NULL AND pool_id = coalesce(:pool, pool_id) ORDER BY pool_id, place, name""",
        {"pool": pool_id},
    )
    return [RelayStanding(**row._mapping) for row in rows]


def with_most_left(tx: Transaction, relays: Sequence[RelayStanding], now: datetime) -> RelayStanding:
    """The one of some relays that has most of its limits left; of those without any, the one with the least in hand."""
    if len(relays) == 1:
        return relays[0]
    scopes = {relay.id: permits.relay_scope(relay.id) for relay in relays}
    left = permits.left_in(tx, list(scopes.values()), now)
    return max(relays, key=lambda relay: (*left[scopes[relay.id]], -relay.id))


def rest_relay(tx: Transaction, relay_id: int, trouble: RelayTrouble, now: datetime) -> datetime | None:
    """Leave a relay alone for a while, each time for longer; until when. None when it is gone.

    Several workers find out at about the same time: one that rests already goes on to rest.
    """
    rows = run_sql(
        tx,
        "SELECT rests, rests_until FROM relay WHERE id = :id AND removed_at IS NULL FOR NO KEY UPDATE",
        {"id": relay_id},
    )
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


def relay_is_full(tx: Transaction, relay_id: int, until: datetime) -> None:
    """The limits of a relay are used up until an instant: no batch is claimed for it before."""
    change_sql(tx, "UPDATE relay SET full_until = :until WHERE id = :id", {"id": relay_id, "until": until})


def relay_is_well(tx: Transaction, relay_id: int) -> None:
    """A relay has answered: it rests no more, and nothing is said against it."""
    change_sql(
        tx,
        "UPDATE relay SET rests = 0, rests_until = NULL, trouble = NULL WHERE id = :id AND (rests > 0 OR trouble IS NOT NULL)",
        {"id": relay_id},
    )
