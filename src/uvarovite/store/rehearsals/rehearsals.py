"""Rehearsals of campaigns, and how far they are."""

from collections.abc import Sequence
from datetime import datetime

from sqlmodel import col, select

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.rehearsals.schemas import copy_rows, drop_schema, make_schema, move_into, schema_of, schemas
from uvarovite.store.tables import Rehearsal

# A table is not waited for longer: somebody is at work in it, and it goes the next time.
_PATIENCE = "2s"


def of_campaign(tx: Transaction, campaign_id: int) -> list[Rehearsal]:
    """The rehearsals of a campaign, latest first."""
    query = select(Rehearsal).where(col(Rehearsal.campaign_id) == campaign_id).order_by(col(Rehearsal.id).desc())
    return list(tx.exec(query).all())


def next_asked(tx: Transaction) -> int | None:
    """The one that was asked for first and that nobody has begun."""
    query = select(Rehearsal.id).where(col(Rehearsal.begun_at).is_(None), col(Rehearsal.ended_at).is_(None))
    return tx.exec(query.order_by(col(Rehearsal.id)).limit(1)).first()


def begin(tx: Transaction, rehearsal_id: int, now: datetime) -> Rehearsal | None:
    """Begin one; None when it was begun or thrown away meanwhile."""
    sql = """UPDATE rehearsal SET begun_at = :now, heard_at = :now, its_time = starts_at
        WHERE id = :id AND begun_at IS NULL AND ended_at IS NULL"""
    begun = change_sql(tx, sql, {"id": rehearsal_id, "now": now})
    return tx.get(Rehearsal, rehearsal_id, populate_existing=True) if begun else None


def hear(tx: Transaction, rehearsal_id: int, *, its_time: datetime | None, now: datetime) -> bool:
    """Note how far it is; False when it is not wanted any more."""
    sql = """UPDATE rehearsal SET heard_at = :now, its_time = coalesce(:its_time, its_time)
        WHERE id = :id AND ended_at IS NULL"""
    return change_sql(tx, sql, {"id": rehearsal_id, "its_time": its_time, "now": now}) > 0


def end(
    tx: Transaction,
    rehearsal_id: int,
    *,
    trouble: str | None,
    planned: int | None,
    accepted: int | None,
    now: datetime,
) -> None:
    """It is over; `trouble` is why it did not come to an end, the numbers are those of its run, if it has one."""
    change_sql(
        tx,
        """UPDATE rehearsal SET ended_at = :now, heard_at = :now, trouble = :trouble, planned = :planned, accepted = :accepted
            WHERE id = :id AND ended_at IS NULL""",
        {"id": rehearsal_id, "trouble": trouble, "planned": planned, "accepted": accepted, "now": now},
    )


def open_schema(
    tx: Transaction, rehearsal_id: int, *, campaign_id: int, pool_id: int, scopes: Sequence[str], relay_port: int
) -> None:
    """Make a rehearsal's schema and move into it, with what a run of the campaign needs.

    The limits of the pool's relays know what has gone through them really. All of them lead to a port of this machine.
    """
    make_schema(tx, rehearsal_id)
    move_into(tx, rehearsal_id)
    copy_rows(tx, "campaign", "id = :id", {"id": campaign_id})
    copy_rows(tx, "relay", "pool_id = :pool AND removed_at IS NULL", {"pool": pool_id})
    change_sql(
        tx,
        """UPDATE relay SET host = '127.0.0.1', port = :port, security = 'none', username = NULL, sealed_password = NULL,
            authority = NULL, trouble = NULL, rests = 0, rests_until = NULL, full_until = NULL""",
        {"port": relay_port},
    )
    copy_rows(tx, "send_limit", "scope = ANY(:scopes)", {"scopes": list(scopes)})
    copy_rows(tx, "send_count", "scope = ANY(:scopes)", {"scopes": list(scopes)})
    copy_rows(tx, "suppression", "lifted_at IS NULL")


def note_run(tx: Transaction, rehearsal_id: int, run_id: int) -> None:
    """The number of a rehearsal's run. The transaction may have moved into its schema."""
    sql = "UPDATE public.rehearsal SET run_id = :run WHERE id = :id"
    change_sql(tx, sql, {"id": rehearsal_id, "run": run_id})


def remove(tx: Transaction, rehearsal_id: int) -> bool:
    """Nothing is known of it any more; was there something? Its schema goes by `drop_left`."""
    return change_sql(tx, "DELETE FROM rehearsal WHERE id = :id", {"id": rehearsal_id}) > 0


def remove_old(tx: Transaction, before: datetime) -> int:
    """Remove those that were asked for before an instant; how many."""
    return change_sql(tx, "DELETE FROM rehearsal WHERE asked_at < :before", {"before": before})


def left_schemas(tx: Transaction) -> list[int]:
    """Those that have a schema and are gone."""
    known = {row.id for row in run_sql(tx, "SELECT id FROM rehearsal")}
    return [one for one in schemas(tx) if one not in known]


def drop_left(tx: Transaction, rehearsal_id: int) -> None:
    """Drop the schema of one that is gone. Raises DatabaseLost while somebody is at work in it."""
    change_sql(tx, f"SET LOCAL lock_timeout = '{_PATIENCE}'")
    drop_schema(tx, rehearsal_id)


def forget_rehearsed(tx: Transaction, addresses: Sequence[str]) -> None:
    """Throw away the rehearsals in which somebody is who stands in `chosen`, and take their addresses off the others' lists."""
    for one in schemas(tx):
        here = f"SELECT FROM {schema_of(one)}.delivery JOIN chosen USING (contact_id) LIMIT 1"
        if run_sql(tx, here):
            remove(tx, one)
            drop_schema(tx, one)
            continue
        listed = f"DELETE FROM {schema_of(one)}.suppression WHERE address_folded = ANY(:addresses)"
        change_sql(tx, listed, {"addresses": list(addresses)})


def blank_erased(tx: Transaction, rehearsal_id: int) -> None:
    """Take out of a rehearsal whoever was erased while it was planned."""
    change_sql(
        tx,
        f"""UPDATE {schema_of(rehearsal_id)}.delivery SET address = 'erased', address_folded = 'erased ' || delivery.id,
                record = '{{}}'
            FROM contact WHERE contact.id = contact_id AND erased_at IS NOT NULL""",
    )
