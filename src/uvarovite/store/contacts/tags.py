"""Tags: words that people put on contacts."""

from collections.abc import Iterable
from typing import Any

from sqlalchemy import Row

from uvarovite.core.values import fold
from uvarovite.store.database import Transaction, change_sql, run_sql


def ensure_tags(tx: Transaction, names: Iterable[str]) -> dict[str, int]:
    """The ids of tags by the names given; those that are not there yet are made. Two spellings of one are one."""
    wanted = {name: fold(name) for name in names}
    change_sql(
        tx,
        """INSERT INTO tag (name, folded) SELECT name, folded
            FROM unnest(CAST(:names AS text[]), CAST(:folded AS text[])) AS told(name, folded)
            ON CONFLICT (folded) DO NOTHING""",
        {"names": list(wanted), "folded": list(wanted.values())},
    )
    rows = run_sql(tx, "SELECT id, folded FROM tag WHERE folded = ANY(:folded)", {"folded": list(wanted.values())})
    ids = {row.folded: row.id for row in rows}
    return {name: ids[folded] for name, folded in wanted.items()}


def tag_of_id(tx: Transaction, tag_id: int) -> str:
    """A tag's name as it is spelt."""
    return str(run_sql(tx, "SELECT name FROM tag WHERE id = :id", {"id": tag_id})[0].name)


def put_tag(tx: Transaction, people: str, parameters: dict[str, Any], tag_id: int) -> list[int]:
    """Put a tag on everybody whom the SELECT `people` (one column, contact_id) gives; those who did not have it yet."""
    rows = run_sql(
        tx,
        f"""INSERT INTO contact_tag (contact_id, tag_id) SELECT people.contact_id, :tag FROM ({people}) AS people(contact_id)
            ON CONFLICT DO NOTHING RETURNING contact_id""",
        {**parameters, "tag": tag_id},
    )
    return [row.contact_id for row in rows]


def take_tag(tx: Transaction, people: str, parameters: dict[str, Any], tag_id: int) -> list[int]:
    """Take a tag off everybody whom the SELECT `people` gives; those who had it."""
    rows = run_sql(
        tx,
        f"DELETE FROM contact_tag WHERE tag_id = :tag AND contact_id IN ({people}) RETURNING contact_id",
        {**parameters, "tag": tag_id},
    )
    return [row.contact_id for row in rows]


def tags_of(tx: Transaction, contact_id: int) -> list[str]:
    """The tags of a contact by name."""
    sql = "SELECT name FROM contact_tag JOIN tag ON tag.id = tag_id WHERE contact_id = :id ORDER BY folded"
    return [row.name for row in run_sql(tx, sql, {"id": contact_id})]


def all_tags(tx: Transaction) -> list[Row[Any]]:
    """Every tag that somebody has: (id, name, n), by name."""
    sql = """SELECT tag.id, name, count(*) AS n FROM tag JOIN contact_tag ON tag_id = tag.id
        GROUP BY tag.id ORDER BY folded"""
    return list(run_sql(tx, sql))
