"""The people of a frozen audience: those who were in it at one moment."""

from uvarovite.core.expressions import SqlFragment
from uvarovite.store.audiences.differences import Difference, difference
from uvarovite.store.database import Transaction, change_sql


def take_snapshot(tx: Transaction, audience_id: int, people: SqlFragment) -> int:
    """Keep everybody who matches as the audience's people, in the place of an earlier snapshot; how many."""
    drop_snapshot(tx, audience_id)
    sql = f"""INSERT INTO audience_snapshot (audience_id, contact_id)
        SELECT :snapshot_of, contact.id FROM contact WHERE contact.deleted_at IS NULL AND {people.text}"""
    return change_sql(tx, sql, {**people.parameters, "snapshot_of": audience_id})


def drop_snapshot(tx: Transaction, audience_id: int) -> None:
    """Let a snapshot go."""
    change_sql(tx, "DELETE FROM audience_snapshot WHERE audience_id = :id", {"id": audience_id})


def difference_to_snapshot(tx: Transaction, audience_id: int, people: SqlFragment, limit: int) -> Difference:
    """Who matches now beside the snapshot; people who are deleted now are left out of both."""
    there = "FROM contact WHERE contact.deleted_at IS NULL AND"
    now = f"SELECT contact.id AS contact_id {there} {people.text}"
    then = f"""SELECT contact.id AS contact_id {there} contact.id IN (
        SELECT contact_id FROM audience_snapshot WHERE audience_id = :snapshot_of)"""
    return difference(tx, now, then, {**people.parameters, "snapshot_of": audience_id}, limit)
