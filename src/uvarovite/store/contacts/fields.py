"""The organisation's own fields, and what each of them is sorted by."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.contacts import (
    STANDARD_FIELDS,
    Field,
    FieldType,
    Folded,
    field_key_problem,
)
from uvarovite.core.contacts.verification import VERIFICATION
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import ContactField
from uvarovite.store.tables.contacts import ALPHABET, NAME_KEY


def field_of(row: ContactField) -> Field:
    """A definition as the core knows it."""
    return Field(
        key=row.key,
        label=row.label,
        type=FieldType(row.type),
        currency=row.currency,
        choices=tuple(row.choices),
        parts=row.parts,
        help=row.help,
    )


def load_fields(tx: Transaction) -> dict[str, Field]:
    """All fields by key: the standard ones, then the organisation's own in their order; removed ones are not there."""
    rows = tx.exec(
        select(ContactField).where(col(ContactField.removed_at).is_(None)).order_by(col(ContactField.position))
    ).all()
    return {field.key: field for field in (*STANDARD_FIELDS, *map(field_of, rows))}


def criteria_fields(tx: Transaction) -> dict[str, Field]:
    """Everything that criteria can ask for: the fields, and what is kept elsewhere."""
    return {VERIFICATION.key: VERIFICATION, **load_fields(tx)}


def get_field(tx: Transaction, key: str) -> ContactField | None:
    """A definition by its key, removed or not, locked until the end of the transaction."""
    return tx.get(ContactField, key, with_for_update=True)


def put_definition(row: ContactField, field: Field) -> None:
    """Take over what a definition says."""
    row.label, row.type, row.currency, row.help = field.label, field.type.value, field.currency, field.help
    row.choices, row.parts = list(field.choices), field.parts


def add_field(tx: Transaction, field: Field) -> ContactField:
    """Make a field at the end of the order."""
    position = run_sql(tx, "SELECT coalesce(max(position), -1) + 1 AS next FROM contact_field")[0].next
    row = ContactField(key=field.key, label=field.label, type=field.type.value, position=position)
    put_definition(row, field)
    tx.add(row)
    tx.flush()
    return row


def sort_key_sql(field: Field) -> str:
    """The SQL expression by which contacts are sorted by a field; NULL where it is blank."""
    if field_key_problem(field.key):
        raise ValueError(f"no field key: {field.key!r}")
    value = f"""(own->>'{field.key}')"""
    match field.type:
        case _ if field.key in ("address", "contact_no"):
            # These have an index as they are, for comparing.
            return "address_folded" if field.key == "address" else "contact_no"
        case FieldType.TEXT | FieldType.CHOICE:
            return f"""(folded->>'{field.key}') COLLATE {ALPHABET}"""
        case FieldType.NUMBER:
            # An index takes in the versions of a row from before a field was retyped, too.
            return f"CASE WHEN {value} ~ '^-?[0-9]+([.][0-9]+)?$' THEN CAST({value} AS numeric) END"
        case FieldType.MONEY:
            return f"""CAST((own->'{field.key}'->>'amount') AS numeric)"""
        case FieldType.LIST:
            items = f"""(own->'{field.key}')"""
            return f"CASE jsonb_typeof({items}) WHEN 'array' THEN jsonb_array_length({items}) END"
        case FieldType.DATE | FieldType.DATE_TIME | FieldType.YES_NO:
            # ISO 8601 sorts as text, and a cast to a date is not immutable, as an index needs it.
            return f"""{value} COLLATE "C\""""


# How the table's own columns are sorted; `name` is first and last name together.
ROW_SORTS = {"name": f"({NAME_KEY}) COLLATE {ALPHABET}", "added": "created_at"}


# Pickers show what is usual; beyond this many contacts the latest ones speak for all.
_ENOUGH = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """Up to three frequent values of a field, and how many contacts have none; scaled up when `estimated`."""

    values: list[str]
    blank: int
    estimated: bool


def _shown_sql(field: Field) -> str:
    if field.standard:
        return field.key
    if field.type is FieldType.MONEY:
        return f"""nullif(concat_ws(' ', own->'{field.key}'->>'amount', own->'{field.key}'->>'currency'), '')"""
    if field.type is FieldType.LIST:
        return f"""own->'{field.key}'->0->>'{field.parts[0].key}'"""
    return f"""own->>'{field.key}'"""


def field_samples(tx: Transaction, fields: Sequence[Field]) -> dict[str, Samples]:
    """What pickers show of each field, in one look at the latest contacts."""
    for field in fields:
        if field_key_problem(field.key):
            raise ValueError(f"no field key: {field.key!r}")
    total = int(run_sql(tx, "SELECT count(*) FROM contact WHERE deleted_at IS NULL")[0][0])
    latest = f"(SELECT * FROM contact WHERE deleted_at IS NULL ORDER BY id DESC LIMIT {_ENOUGH}) AS latest"
    columns = ", ".join(f"({_shown_sql(field)}) AS c{place}" for place, field in enumerate(fields))
    blanks = ", ".join(f"count(*) - count(c{place}) AS c{place}" for place in range(len(fields)))
    looked = min(total, _ENOUGH)
    counted = run_sql(tx, f"SELECT {blanks} FROM (SELECT {columns} FROM {latest}) AS shown")[0]
    frequent = " UNION ALL ".join(
        f"""(SELECT {place} AS place, c{place} AS value, count(*) AS n FROM shown
            WHERE c{place} IS NOT NULL GROUP BY 2 ORDER BY n DESC, value LIMIT 3)"""
        for place in range(len(fields))
    )
    narrow = latest.replace(str(_ENOUGH), "2000")
    values: dict[int, list[str]] = {}
    for row in run_sql(tx, f"WITH shown AS MATERIALIZED (SELECT {columns} FROM {narrow}) {frequent}"):
        values.setdefault(row.place, []).append(row.value)
    scale = total / looked if looked else 1.0
    return {
        field.key: Samples(values=values.get(place, []), blank=round(counted[place] * scale), estimated=total > _ENOUGH)
        for place, field in enumerate(fields)
    }


def removed_fields(tx: Transaction) -> list[ContactField]:
    """Fields that were removed and can be brought back, the latest first."""
    query = (
        select(ContactField)
        .where(col(ContactField.removed_at).is_not(None))
        .order_by(col(ContactField.removed_at).desc())
    )
    return list(tx.exec(query).all())


def values_of(tx: Transaction, key: str) -> Sequence[Row[Any]]:
    """Every value of a field that is not blank: (id, name, value) in stored form, of deleted contacts too."""
    return run_sql(
        tx,
        """SELECT id, concat_ws(' ', first_name, last_name) AS name, own->CAST(:key AS text) AS value
            FROM contact WHERE jsonb_exists(own, :key) ORDER BY id""",
        {"key": key},
    )


def contact_keys(tx: Transaction, ids: Sequence[int]) -> dict[int, tuple[str, str]]:
    """(contact number, address) of contacts, empty where they have none."""
    sql = (
        "SELECT id, coalesce(contact_no, '') AS no, coalesce(address, '') AS address FROM contact WHERE id = ANY(:ids)"
    )
    return {row.id: (row.no, row.address) for row in run_sql(tx, sql, {"ids": list(ids)})}


def put_values(
    tx: Transaction, key: str, told: Mapping[int, tuple[Any, Folded | None]], now: datetime, *, change_set_id: int
) -> None:
    """Write a field's values anew: {contact id: (stored form or None for blank, folded text or None)}.

    What each contact had before stands in the change set.
    """
    ids = list(told)
    for begin in range(0, len(ids), 5_000):
        part = ids[begin : begin + 5_000]
        change_sql(
            tx,
            """INSERT INTO contact_change (change_set_id, contact_id, changes)
                SELECT :set, contact.id, jsonb_build_object(CAST(:key AS text), jsonb_build_object(
                    'before', own->CAST(:key AS text), 'after', CAST(told.stored AS jsonb)))
                FROM unnest(CAST(:ids AS bigint[]), CAST(:stored AS text[])) AS told(id, stored)
                JOIN contact ON contact.id = told.id""",
            {
                "set": change_set_id,
                "key": key,
                "ids": part,
                "stored": [orjson.dumps(told[one][0]).decode() for one in part],
            },
        )
        change_sql(
            tx,
            """UPDATE contact SET updated_at = :now,
                    own = jsonb_strip_nulls((contact.own - CAST(:key AS text)) ||
                        jsonb_build_object(CAST(:key AS text), CAST(told.stored AS jsonb))),
                    folded = jsonb_strip_nulls((contact.folded - CAST(:key AS text)) ||
                        jsonb_build_object(CAST(:key AS text), CAST(told.folded AS jsonb)))
                FROM unnest(CAST(:ids AS bigint[]), CAST(:stored AS text[]), CAST(:folded AS text[]))
                    AS told(id, stored, folded) WHERE contact.id = told.id""",
            {
                "key": key,
                "now": now,
                "ids": part,
                "stored": [orjson.dumps(told[one][0]).decode() for one in part],
                "folded": [orjson.dumps(told[one][1]).decode() for one in part],
            },
        )


def put_order(tx: Transaction, keys: Sequence[str]) -> None:
    """Number the fields in this order."""
    change_sql(
        tx,
        """UPDATE contact_field SET position = told.place
            FROM unnest(CAST(:keys AS text[])) WITH ORDINALITY AS told(key, place) WHERE contact_field.key = told.key""",
        {"keys": list(keys)},
    )
