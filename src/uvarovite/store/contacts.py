"""Fields and contacts."""

from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.contacts import STANDARD_FIELDS, Field, FieldType, Record, record_from_json
from uvarovite.core.values import fold
from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import Contact, ContactField


def load_fields(tx: Transaction) -> dict[str, Field]:
    """All fields by key: the standard ones, then the organisation's own in their order."""
    rows = tx.exec(select(ContactField).order_by(col(ContactField.position))).all()
    own = [
        Field(key=row.key, label=row.label, type=FieldType(row.type), currency=row.currency, choices=tuple(row.choices))
        for row in rows
    ]
    return {field.key: field for field in (*STANDARD_FIELDS, *own)}


def record_of(contact: Contact, fields: dict[str, Field]) -> Record:
    """A contact's record with typed values."""
    return record_from_json({**contact.values, **standard_values(contact)}, fields)


def standard_values(contact: Contact) -> dict[str, str]:
    """The columns of a contact that are fields, blank ones left out."""
    values = {field.key: getattr(contact, field.key) for field in STANDARD_FIELDS}
    return {key: value for key, value in values.items() if value is not None}


def contact_page(tx: Transaction, *, search: str, after: tuple[str, str, int] | None, limit: int) -> list[Row[Any]]:
    """Contacts by last name, first name and id, behind `after`; (contact columns, sort keys). Blank names come first."""
    words = [fold(word) for word in search.split()]
    found = " AND ".join(f"position(:w{index} IN search) > 0" for index in range(len(words))) or "TRUE"
    parameters: dict[str, Any] = {f"w{index}": word for index, word in enumerate(words)}
    behind = "TRUE"
    if after:
        behind = "(coalesce(folded->>'last_name', ''), coalesce(folded->>'first_name', ''), id) > (:last, :first, :id)"
        parameters |= {"last": after[0], "first": after[1], "id": after[2]}
    return list(
        run_sql(
            tx,
            f"""
            SELECT id, contact_no, address, first_name, last_name, language, "values",
                coalesce(folded->>'last_name', '') AS last_key, coalesce(folded->>'first_name', '') AS first_key,
                (SELECT coalesce(json_agg(topic.key ORDER BY topic.position), '[]') FROM consent
                 JOIN topic ON topic.id = consent.topic_id
                 WHERE consent.contact_id = contact.id AND consent.state = 'subscribed') AS topics,
                (SELECT reason FROM suppression WHERE suppression.address_folded = contact.address_folded
                 AND lifted_at IS NULL) AS suppressed
            FROM contact
            WHERE deleted_at IS NULL AND {found} AND {behind}
            ORDER BY coalesce(folded->>'last_name', ''), coalesce(folded->>'first_name', ''), id
            LIMIT :limit""",
            {**parameters, "limit": limit},
        )
    )


def count_contacts(tx: Transaction, search: str) -> int:
    """How many contacts a search finds."""
    words = [fold(word) for word in search.split()]
    found = " AND ".join(f"position(:w{index} IN search) > 0" for index in range(len(words))) or "TRUE"
    parameters = {f"w{index}": word for index, word in enumerate(words)}
    return int(run_sql(tx, f"SELECT count(*) FROM contact WHERE deleted_at IS NULL AND {found}", parameters)[0][0])


def get_contact(tx: Transaction, contact_id: int) -> Contact | None:
    """A contact that is there and not deleted."""
    contact = tx.get(Contact, contact_id)
    return contact if contact and contact.deleted_at is None else None


def field_samples(tx: Transaction, field: Field) -> tuple[list[str], int]:
    """(up to three frequent values, how many contacts have none), for the field picker."""
    value = field.key if field.standard else f"\"values\"->>'{field.key}'"
    if field.type is FieldType.MONEY:
        value = f"concat_ws(' ', \"values\"->'{field.key}'->>'amount', \"values\"->'{field.key}'->>'currency')"
        value = f"nullif({value}, '')"
    rows = run_sql(
        tx,
        f"""SELECT value, n FROM (SELECT {value} AS value, count(*) AS n FROM contact
            WHERE deleted_at IS NULL GROUP BY 1) AS counted ORDER BY value IS NULL DESC, n DESC, value LIMIT 4""",
    )
    blank = sum(row.n for row in rows if row.value is None)
    return [row.value for row in rows if row.value is not None][:3], blank
