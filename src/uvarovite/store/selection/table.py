"""The table of contacts: whom criteria and words find, in any order, a page at a time."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Row

from uvarovite.core.contacts import Field
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.values import fold
from uvarovite.store.consent.closings import AT_ADDRESS, STATE
from uvarovite.store.contacts.fields import ROW_SORTS, sort_key_sql
from uvarovite.store.database import Transaction, run_sql

# A search that finds no more than this is sorted afterwards; one that finds more is met soon enough on the way
# through the index of the order. In between lies a factor of two in either direction.
FEW = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """Which contacts are asked for: the criteria's condition, and words that must occur in the record."""

    criteria: SqlFragment
    search: str = ""


EVERYBODY = Asked(criteria=SqlFragment(text="TRUE", parameters={}))


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """By which SQL expression the table is sorted. Blank values come last either way; then by id."""

    key_sql: str
    descending: bool = False


def order_by(sort: str, fields: dict[str, Field]) -> Order | None:
    """The order of a column's key, with `-` before it for descending; None when it cannot be sorted by."""
    name = sort.removeprefix("-")
    key_sql = ROW_SORTS.get(name) or (sort_key_sql(fields[name]) if name in fields else None)
    return Order(key_sql=key_sql, descending=sort.startswith("-")) if key_sql else None


def _like(word: str) -> str:
    return word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def _search_sql(search: str) -> tuple[str, dict[str, Any]]:
    """A condition over `contact_search`, and its parameters. TRUE where nothing is searched for."""
    words = list(dict.fromkeys(fold(word) for word in search.split()))[:8]
    conditions = [f"contact_search.text LIKE :w{index}" for index in range(len(words))]
    return " AND ".join(conditions) or "TRUE", {f"w{index}": f"%{_like(word)}%" for index, word in enumerate(words)}


def _matching_sql(asked: Asked) -> tuple[str, dict[str, Any]]:
    """A condition over `contact` for everything that is asked, and its parameters."""
    found, parameters = _search_sql(asked.search)
    sql = f"contact.deleted_at IS NULL AND {asked.criteria.text}"
    if found != "TRUE":
        sql += f" AND EXISTS (SELECT FROM contact_search WHERE contact_search.contact_id = contact.id AND {found})"
    return sql, {**asked.criteria.parameters, **parameters}


def _found_few(tx: Transaction, search: str) -> list[int] | None:
    """The ids of those whom the words find, or None when they are many."""
    found, parameters = _search_sql(search)
    sql = f"SELECT contact_id FROM contact_search WHERE {found} LIMIT {FEW + 1}"
    ids = [row.contact_id for row in run_sql(tx, sql, parameters)]
    return ids if len(ids) <= FEW else None


@dataclass(frozen=True, slots=True, kw_only=True)
class After:
    """Where a page begins: behind this contact, whose sort key (None: blank) is given."""

    key: Any
    contact_id: int


_SHOWN = f"""contact.id, contact_no, address, first_name, last_name, language, own, created_at,
    (SELECT coalesce(json_agg(json_build_array(topic.key, {STATE}, consent.paused_until) ORDER BY topic.position),
            '[]') FROM consent JOIN topic ON topic.id = consent.topic_id {AT_ADDRESS}
        WHERE consent.contact_id = contact.id AND consent.state <> 'never') AS topics,
    (SELECT coalesce(json_agg(tag.name ORDER BY tag.folded), '[]') FROM contact_tag JOIN tag ON tag.id = tag_id
        WHERE contact_tag.contact_id = contact.id) AS tags,
    (SELECT min(reason) FROM suppression WHERE lifted_at IS NULL AND topic_id IS NULL
        AND (suppression.address_folded = contact.address_folded
            OR domain = split_part(contact.address_folded, '@', 2))) AS suppressed"""


def contact_page(tx: Transaction, asked: Asked, order: Order, *, after: After | None, limit: int) -> list[Row[Any]]:
    """A page of contacts in order, each with its `sort_key`; those in whom it is blank come last."""
    matching, parameters = f"contact.deleted_at IS NULL AND {asked.criteria.text}", dict(asked.criteria.parameters)
    if asked.search.strip():
        few = _found_few(tx, asked.search)
        if few is not None:
            matching += " AND contact.id = ANY(:few)"
            parameters["few"] = few
        else:
            # A lookup for each contact on the way, which the planner cannot turn into a join of all of them.
            found, words = _search_sql(asked.search)
            matching += f" AND (SELECT {found} FROM contact_search WHERE contact_search.contact_id = contact.id)"
            parameters |= words
    rows: list[Row[Any]] = []
    key, way, sign = order.key_sql, ("DESC" if order.descending else "ASC"), ("<" if order.descending else ">")
    if after is None or after.key is not None:
        behind = "TRUE"
        if after is not None:
            behind = f"({key}, contact.id) {sign} (:after_key, :after_id)"
            parameters |= {"after_key": after.key, "after_id": after.contact_id}
        rows += _page(
            tx,
            f"{matching} AND {key} IS NOT NULL AND {behind}",
            f"{key} {way}, contact.id {way}",
            key,
            parameters,
            limit,
        )
    if len(rows) < limit:
        begin = after.contact_id if after is not None and after.key is None else 0
        parameters |= {"begin": begin}
        rows += _page(
            tx,
            f"{matching} AND {key} IS NULL AND contact.id > :begin",
            "contact.id",
            key,
            parameters,
            limit - len(rows),
        )
    return rows


def _page(
    tx: Transaction, condition: str, order: str, key: str, parameters: dict[str, Any], limit: int
) -> list[Row[Any]]:
    # What is shown of a contact is fetched for the page alone, after the order has chosen who stands on it.
    sql = f"""WITH page AS MATERIALIZED (
            SELECT contact.id, {key} AS sort_key FROM contact WHERE {condition} ORDER BY {order} LIMIT :limit)
        SELECT {_SHOWN}, page.sort_key FROM page JOIN contact ON contact.id = page.id ORDER BY {order}"""
    return list(run_sql(tx, sql, {**parameters, "limit": limit}))


def count_contacts(tx: Transaction, asked: Asked) -> int:
    """How many contacts are asked for."""
    if asked.search.strip() and asked.criteria.text == "TRUE":
        found, parameters = _search_sql(asked.search)
        sql = f"SELECT count(*) FROM contact_search WHERE {found}"
        return int(run_sql(tx, sql, parameters)[0][0])
    matching, parameters = _matching_sql(asked)
    return int(run_sql(tx, f"SELECT count(*) FROM contact WHERE {matching}", parameters)[0][0])


def matching_ids_sql(asked: Asked) -> SqlFragment:
    """A SELECT of the ids of everybody who is asked for."""
    matching, parameters = _matching_sql(asked)
    return SqlFragment(text=f"SELECT contact.id FROM contact WHERE {matching}", parameters=parameters)
