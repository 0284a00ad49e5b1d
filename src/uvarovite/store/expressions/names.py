"""What criteria name, and examples of whom they find."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Row

from uvarovite.core.contacts import Field, field_key_problem
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.database import Transaction, run_sql


def file_names(tx: Transaction) -> list[str]:
    """The names of files and live sources that were brought in, each once, latest first."""
    sql = f"""SELECT filename FROM import_file WHERE state = '{ImportState.WRITTEN}' GROUP BY filename
        ORDER BY max(written_at) DESC LIMIT 2000"""
    return [row.filename for row in run_sql(tx, sql)]


def tag_names(tx: Transaction) -> list[Row[Any]]:
    """(id, name) of every tag, whether anybody has it or not; counting them would take as long as a count of people."""
    return list(run_sql(tx, "SELECT id, name FROM tag ORDER BY folded"))


def campaign_names(tx: Transaction) -> list[Row[Any]]:
    """(id, name) of every campaign."""
    return list(run_sql(tx, "SELECT id, name FROM campaign"))


def sample_people(tx: Transaction, criteria: SqlFragment, limit: int) -> list[Row[Any]]:
    """Some who match: (id, name, address, n), n being how many there are.

    They are spread over all by their ids' digits, so that they are not all from one file, and the same at each look.
    """
    sql = f"""SELECT id, concat_ws(' ', first_name, last_name) AS name, address, count(*) OVER () AS n
        FROM contact WHERE deleted_at IS NULL AND {criteria.text} ORDER BY hashint8(id), id LIMIT :limit"""
    return list(run_sql(tx, sql, {**criteria.parameters, "limit": limit}))


# The latest contacts speak for all: a completion is there before the next keystroke.
_LATEST = 20_000


def usual_values(tx: Transaction, field: Field, typed: str, limit: int) -> list[str]:
    """The commonest values of a text field, among those that hold what was typed (folded)."""
    if field_key_problem(field.key):
        raise ValueError(f"no field key: {field.key!r}")
    value = field.key if field.standard else f"""own->>'{field.key}'"""
    sql = f"""SELECT value FROM (
            SELECT {value} AS value, folded->>'{field.key}' AS folded FROM contact
            WHERE deleted_at IS NULL ORDER BY id DESC LIMIT {_LATEST}) AS latest
        WHERE value IS NOT NULL AND position(CAST(:typed AS text) IN folded) > 0
        GROUP BY value ORDER BY starts_with(min(folded), CAST(:typed AS text)) DESC, count(*) DESC, value LIMIT :limit"""
    return [row.value for row in run_sql(tx, sql, {"typed": typed, "limit": limit})]


def people_at(tx: Transaction, address_folded: str, limit: int) -> list[int]:
    """The ids of those with an address."""
    sql = "SELECT id FROM contact WHERE address_folded = :address AND deleted_at IS NULL ORDER BY id LIMIT :limit"
    return [row.id for row in run_sql(tx, sql, {"address": address_folded, "limit": limit})]


def truths(tx: Transaction, contact_id: int, conditions: Sequence[SqlFragment]) -> list[bool]:
    """Which of several conditions hold for a contact; their parameters have names of their own."""
    columns = ", ".join(f"({one.text}) AS t{place}" for place, one in enumerate(conditions))
    parameters = {key: value for one in conditions for key, value in one.parameters.items()}
    row = run_sql(tx, f"SELECT {columns} FROM contact WHERE id = :contact_id", {**parameters, "contact_id": contact_id})
    return [bool(value) for value in row[0]]


def picked(tx: Transaction, audience_id: int, contact_id: int) -> str | None:
    """Whether somebody was added to an audience by hand, or left out."""
    sql = "SELECT kind FROM audience_member WHERE audience_id = :audience AND contact_id = :contact"
    rows = run_sql(tx, sql, {"audience": audience_id, "contact": contact_id})
    return rows[0].kind if rows else None


def overlap(tx: Transaction, this: SqlFragment, other: SqlFragment) -> dict[str, int]:
    """How many contacts two conditions (with parameters of their own) share, and how many each has alone."""
    sql = f"""SELECT count(*) FILTER (WHERE this AND NOT other) AS here, count(*) FILTER (WHERE this AND other) AS both,
            count(*) FILTER (WHERE other AND NOT this) AS there
        FROM (SELECT {this.text} AS this, {other.text} AS other FROM contact WHERE deleted_at IS NULL) AS compared"""
    row = run_sql(tx, sql, {**this.parameters, **other.parameters})[0]
    return {"here": row.here, "both": row.both, "there": row.there}
