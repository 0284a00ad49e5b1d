"""The people of a frozen audience: those who were in it at one moment."""

from typing import Any

from sqlalchemy import Row

from uvarovite.core.expressions import SqlFragment
from uvarovite.store.database import Transaction, change_sql, run_sql


def take_snapshot(tx: Transaction, audience_id: int, people: SqlFragment) -> int:
    """Keep everybody who matches as the audience's people, in the place of an earlier snapshot; how many."""
    drop_snapshot(tx, audience_id)
    sql = f"""INSERT INTO audience_snapshot (audience_id, contact_id)
        SELECT :snapshot_of, contact.id FROM contact WHERE contact.deleted_at IS NULL AND {people.text}"""
    return change_sql(tx, sql, {**people.parameters, "snapshot_of": audience_id})


def drop_snapshot(tx: Transaction, audience_id: int) -> None:
    """Let a snapshot go."""
    change_sql(tx, "DELETE FROM audience_snapshot WHERE audience_id = :id", {"id": audience_id})


def come_since(tx: Transaction, audience_id: int, people: SqlFragment, limit: int) -> list[Row[Any]]:
    """Who matches now and is not in the snapshot: (id, name, address, n), n being how many there are."""
    sql = f"""SELECT contact.id, concat_ws(' ', first_name, last_name) AS name, address, count(*) OVER () AS n
        FROM contact WHERE contact.deleted_at IS NULL AND {people.text} AND NOT EXISTS (
            SELECT FROM audience_snapshot WHERE audience_id = :snapshot_of AND contact_id = contact.id)
        ORDER BY contact.id LIMIT :limit"""
    return list(run_sql(tx, sql, {**people.parameters, "snapshot_of": audience_id, "limit": limit}))


def gone_since(tx: Transaction, audience_id: int, people: SqlFragment, limit: int) -> list[Row[Any]]:
    """Who is in the snapshot and matches no more, deleted people left out: (id, name, address, n)."""
    sql = f"""SELECT contact.id, concat_ws(' ', first_name, last_name) AS name, address, count(*) OVER () AS n
        FROM audience_snapshot JOIN contact ON contact.id = contact_id AND contact.deleted_at IS NULL
        WHERE audience_id = :snapshot_of AND NOT {people.text} ORDER BY contact.id LIMIT :limit"""
    return list(run_sql(tx, sql, {**people.parameters, "snapshot_of": audience_id, "limit": limit}))
