"""Contacts: the table's pages, finding, and one contact."""

from collections.abc import Sequence
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.contacts import STANDARD_FIELDS, Field, Record, RecordReader, folded_values
from uvarovite.core.values import Address, read_address
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Contact

# The fields that are columns of their own.
STANDARD = tuple(field.key for field in STANDARD_FIELDS)


def record_of(contact: Contact, fields: dict[str, Field]) -> Record:
    """A contact's record with typed values."""
    return RecordReader(fields).whole({**contact.own, **standard_values(contact)})


def standard_values(contact: Contact) -> dict[str, str]:
    """The columns of a contact that are fields, blank ones left out."""
    values = {field.key: getattr(contact, field.key) for field in STANDARD_FIELDS}
    return {key: value for key, value in values.items() if value is not None}


def with_key_sql(column: str, key: str, value: str) -> str:
    """SQL of a JSON column with one key set to the JSON text `value`, or gone where that is null."""
    name = f"CAST({key} AS text)"
    return f"jsonb_strip_nulls(({column} - {name}) || jsonb_build_object({name}, CAST({value} AS jsonb)))"


def get_contact(tx: Transaction, contact_id: int, *, lock: bool = False) -> Contact | None:
    """A contact that is there and not deleted."""
    contact = tx.get(Contact, contact_id, with_for_update=lock)
    return contact if contact and contact.deleted_at is None else None


def write_search(tx: Transaction, contact_ids: str, parameters: dict[str, Any]) -> None:
    """Bring `contact_search` in step for the contacts that the SELECT `contact_ids` gives; deleted ones are not found."""
    change_sql(
        tx,
        f"""WITH touched(id) AS ({contact_ids}),
            gone AS (
                DELETE FROM contact_search USING contact, touched
                WHERE contact_search.contact_id = touched.id AND contact.id = touched.id
                    AND contact.deleted_at IS NOT NULL)
            INSERT INTO contact_search (contact_id, text)
            SELECT contact.id, (SELECT coalesce(string_agg(text #>> '{{}}', ' '), '') FROM
                jsonb_path_query(contact.folded, 'strict $.** ? (@.type() == "string")') AS text)
            FROM contact JOIN touched ON touched.id = contact.id WHERE contact.deleted_at IS NULL
            ON CONFLICT (contact_id) DO UPDATE SET text = excluded.text WHERE contact_search.text <> excluded.text""",
        parameters,
    )


def others_with(tx: Transaction, *, contact_id: int, address_folded: str | None) -> Sequence[Row[Any]]:
    """Other contacts with the same address: (id, name)."""
    return run_sql(
        tx,
        """SELECT id, concat_ws(' ', first_name, last_name) AS name FROM contact
            WHERE address_folded = :address AND id <> :id AND deleted_at IS NULL ORDER BY id LIMIT 5""",
        {"address": address_folded, "id": contact_id},
    )


# Folding is Python's part, so the records come here; a few thousand at a time.
_REFOLD_AT_ONCE = 2_000


def refold(tx: Transaction, contact_ids: Sequence[int]) -> None:
    """Bring everything that is made of the texts in step with them: folded forms, comparable addresses, the search."""
    reader = RecordReader(load_fields(tx))
    for begin in range(0, len(contact_ids), _REFOLD_AT_ONCE):
        ids = list(contact_ids[begin : begin + _REFOLD_AT_ONCE])
        rows = run_sql(
            tx,
            """SELECT id, contact_no, address, first_name, last_name, language, own FROM contact
                WHERE id = ANY(:ids)""",
            {"ids": ids},
        )
        told = []
        for row in rows:
            standard = {field.key: row._mapping[field.key] for field in STANDARD_FIELDS}
            record = reader.whole({**row.own, **standard})
            address = read_address(row.address) if row.address else None
            compared = address.folded if isinstance(address, Address) else None
            told.append((row.id, orjson.dumps(folded_values(record)).decode(), compared))
        change_sql(
            tx,
            """UPDATE contact SET folded = CAST(told.folded AS jsonb), address_folded = told.compared
                FROM unnest(CAST(:ids AS bigint[]), CAST(:folded AS text[]), CAST(:compared AS text[]))
                    AS told(id, folded, compared) WHERE contact.id = told.id""",
            {"ids": [one[0] for one in told], "folded": [one[1] for one in told], "compared": [one[2] for one in told]},
        )
        write_search(tx, "SELECT unnest(CAST(:ids AS bigint[]))", {"ids": ids})
