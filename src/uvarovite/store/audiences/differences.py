"""The difference between the people of now and those of then, by name."""

from collections.abc import Mapping
from dataclasses import dataclass

from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.naming import name_sql


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """How many people, and the first of them: (id, name, address)."""

    count: int
    people: list[tuple[int, str, str | None]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """Who is cleared now and was not then, and the other way round."""

    come: Found
    gone: Found


def _found(tx: Transaction, people: str, parameters: Mapping[str, object], limit: int) -> Found:
    sql = f"""WITH found AS MATERIALIZED ({people})
        SELECT contact.id, {name_sql("contact")} AS name, address, (SELECT count(*) FROM found) AS n
        FROM contact WHERE contact.id IN (SELECT contact_id FROM found ORDER BY 1 LIMIT :limit) ORDER BY contact.id"""
    rows = run_sql(tx, sql, {**parameters, "limit": limit})
    return Found(count=rows[0].n if rows else 0, people=[(row.id, row.name, row.address) for row in rows])


def difference(tx: Transaction, now: str, then: str, parameters: Mapping[str, object], limit: int) -> Difference:
    """Who is in one of two SELECTs of `contact_id` and not in the other, with the first `limit` of them by name."""
    return Difference(
        come=_found(tx, f"({now}) EXCEPT ({then})", parameters, limit),
        gone=_found(tx, f"({then}) EXCEPT ({now})", parameters, limit),
    )
