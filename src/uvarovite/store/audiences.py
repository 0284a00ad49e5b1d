"""Audiences, counts and the clearance."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.audiences import clearance_sql
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Audience


def audiences(tx: Transaction) -> list[Audience]:
    """All audiences by name."""
    return list(tx.exec(select(Audience).order_by(col(Audience.name))).all())


def count_matched(tx: Transaction, criteria: SqlFragment) -> int:
    """How many contacts match."""
    sql = f"SELECT count(*) FROM contact WHERE deleted_at IS NULL AND {criteria.text}"
    return int(run_sql(tx, sql, criteria.parameters)[0][0])


def clearance_counts(tx: Transaction, criteria: SqlFragment, topic_id: int | None) -> list[Row[Any]]:
    """(gate, reason, n); gate is NULL for those who are cleared."""
    sql = f"WITH {clearance_sql(criteria.text)} SELECT gate, reason, count(*) AS n FROM judged GROUP BY 1, 2"
    return list(run_sql(tx, sql, {**criteria.parameters, "topic_id": topic_id}))


def judged_people(
    tx: Transaction,
    criteria: SqlFragment,
    topic_id: int | None,
    *,
    gate: str | None,
    reason: str | None = None,
    after_id: int = 0,
    limit: int,
) -> list[Row[Any]]:
    """People whom a gate holds (None: who are cleared), by id behind `after_id`: (id, name, address, reason)."""
    which = "gate IS NULL" if gate is None else "gate = :gate"
    if reason is not None:
        which += " AND reason = :reason"
    sql = f"""WITH {clearance_sql(criteria.text)}
        SELECT contact.id, concat_ws(' ', contact.first_name, contact.last_name) AS name, contact.address, reason
        FROM judged JOIN contact ON contact.id = judged.contact_id
        WHERE {which} AND contact.id > :after_id ORDER BY contact.id LIMIT :limit"""
    parameters = {"topic_id": topic_id, "gate": gate, "reason": reason, "after_id": after_id, "limit": limit}
    return list(run_sql(tx, sql, {**criteria.parameters, **parameters}))


def cleared_without(tx: Transaction, criteria: SqlFragment, topic_id: int | None, gate: str) -> int:
    """How many were cleared if a gate held nobody."""
    sql = f"WITH {clearance_sql(criteria.text, lifted=gate)} SELECT count(*) AS n FROM judged WHERE gate IS NULL"
    return int(run_sql(tx, sql, {**criteria.parameters, "topic_id": topic_id})[0].n)


def judged_one(tx: Transaction, criteria: SqlFragment, topic_id: int | None, contact_id: int) -> Row[Any] | None:
    """(gate, reason) of one contact, judged among all others as ever; None when it does not match."""
    sql = f"WITH {clearance_sql(criteria.text)} SELECT gate, reason FROM judged WHERE contact_id = :contact_id"
    rows = run_sql(tx, sql, {**criteria.parameters, "topic_id": topic_id, "contact_id": contact_id})
    return rows[0] if rows else None


def cleared_neighbour(
    tx: Transaction, criteria: SqlFragment, topic_id: int | None, *, from_id: int, step: int
) -> Row[Any] | None:
    """(id, place, total) of a cleared person: the one at `from_id` (step 0), behind or before it; wraps around."""
    sql = f"""WITH {clearance_sql(criteria.text)},
        placed AS (SELECT contact_id AS id, row_number() OVER (ORDER BY contact_id) AS place, count(*) OVER () AS total
            FROM judged WHERE gate IS NULL)
        SELECT id, place, total FROM placed ORDER BY
            {_NEIGHBOUR[step]} LIMIT 1"""
    rows = run_sql(tx, sql, {**criteria.parameters, "topic_id": topic_id, "from_id": from_id})
    return rows[0] if rows else None


# Which comes first: those on the wanted side of from_id, nearest first; then, around the end, the farthest other.
_NEIGHBOUR = {
    0: "(id >= :from_id) DESC, id",
    1: "(id > :from_id) DESC, id",
    -1: "(id < :from_id) DESC, id DESC",
}


def blanks_among_cleared(
    tx: Transaction, criteria: SqlFragment, topic_id: int | None, places: Sequence[tuple[str, str]]
) -> list[tuple[int, list[str]]]:
    """For each (field key, SQL of its value): how many cleared people have none, and up to three of their names."""
    found: list[tuple[int, list[str]]] = []
    for _, value in places:
        sql = f"""WITH {clearance_sql(criteria.text)}
            SELECT concat_ws(' ', contact.first_name, contact.last_name) AS name, contact.address,
                count(*) OVER () AS n
            FROM judged JOIN contact ON contact.id = judged.contact_id
            WHERE gate IS NULL AND {value} IS NULL ORDER BY contact.id LIMIT 3"""
        rows = run_sql(tx, sql, {**criteria.parameters, "topic_id": topic_id})
        found.append((rows[0].n if rows else 0, [row.name or row.address for row in rows]))
    return found


def judge_for_release(tx: Transaction, criteria: SqlFragment, topic_id: int) -> None:
    """Take the clearance into the temporary table `judged_now`, which lives as long as the transaction."""
    change_sql(tx, "CREATE TEMP TABLE judged_now (contact_id bigint, gate text, reason text) ON COMMIT DROP")
    sql = f"INSERT INTO judged_now WITH {clearance_sql(criteria.text)} SELECT contact_id, gate, reason FROM judged"
    change_sql(tx, sql, {**criteria.parameters, "topic_id": topic_id})
    change_sql(tx, "ANALYZE judged_now")


def counts_of_release(tx: Transaction) -> list[Row[Any]]:
    """(gate, reason, n) of `judged_now`."""
    return list(run_sql(tx, "SELECT gate, reason, count(*) AS n FROM judged_now GROUP BY 1, 2"))
