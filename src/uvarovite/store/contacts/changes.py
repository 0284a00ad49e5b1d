"""What was changed in contacts, when and by whom: change sets, which are undone as a whole."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.contacts.acts import Act, Redefinition
from uvarovite.store.contacts.records import STANDARD, refold
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import ChangeSet


def new_change_set(
    tx: Transaction,
    *,
    at: datetime,
    user_id: int | None,
    channel: str,
    act: Act,
    facts: Mapping[str, str | int] | None = None,
    redefinition: Redefinition | None = None,
) -> int:
    """Begin a change set; its id. `channel` is by_hand, bulk, import or merge; the facts are those of the act."""
    cut = {name: fact[:300] if isinstance(fact, str) else fact for name, fact in (facts or {}).items()}
    made = ChangeSet(at=at, user_id=user_id, channel=channel, act=act.value, facts=cut, redefinition=redefinition)
    tx.add(made)
    tx.flush()
    assert made.id is not None
    return made.id


def note_contacts(tx: Transaction, change_set_id: int, contacts: int) -> None:
    """Note how many contacts a change set concerns."""
    change_sql(tx, "UPDATE change_set SET contacts = :n WHERE id = :id", {"id": change_set_id, "n": contacts})


def add_change(tx: Transaction, change_set_id: int, contact_id: int, changes: dict[str, Any]) -> None:
    """Note what was changed in one contact: {field: {before, after}}, in stored form."""
    change_sql(
        tx,
        """INSERT INTO contact_change (change_set_id, contact_id, changes) VALUES (:set, :id, CAST(:changes AS jsonb))
            ON CONFLICT (change_set_id, contact_id) DO UPDATE SET changes = contact_change.changes || excluded.changes""",
        {"set": change_set_id, "id": contact_id, "changes": orjson.dumps(changes).decode()},
    )


def changes_of_contact(tx: Transaction, contact_id: int, limit: int) -> list[Row[Any]]:
    """A contact's history, latest first: (change_set_id, at, by, channel, act, facts, changes, undone_at)."""
    return list(
        run_sql(
            tx,
            """SELECT change_set.id AS change_set_id, change_set.at, user_account.name AS by, channel, act, facts, changes, undone_at
                FROM contact_change JOIN change_set ON change_set.id = contact_change.change_set_id
                LEFT JOIN user_account ON user_account.id = change_set.user_id
                WHERE contact_id = :id ORDER BY change_set.id DESC LIMIT :limit""",
            {"id": contact_id, "limit": limit},
        )
    )


def _restore_tags(tx: Transaction, change_set_id: int) -> None:
    """Put tags back as they were: `after` holds those that were put on, `before` those that were taken off."""
    named = """SELECT contact_id, tag.id AS tag_id FROM contact_change
        CROSS JOIN LATERAL jsonb_array_elements_text(coalesce(nullif(changes->'tags'->'{side}', 'null'), '[]')) AS one(name)
        JOIN tag ON tag.name = one.name WHERE change_set_id = :id"""
    change_sql(
        tx,
        f"""DELETE FROM contact_tag USING ({named.format(side="after")}) AS told
            WHERE contact_tag.contact_id = told.contact_id AND contact_tag.tag_id = told.tag_id""",
        {"id": change_set_id},
    )
    change_sql(
        tx,
        f"INSERT INTO contact_tag (contact_id, tag_id) {named.format(side='before')} ON CONFLICT DO NOTHING",
        {"id": change_set_id},
    )


def restore_fields(tx: Transaction, change_set_id: int, *, now: datetime, deleted_too: bool = False) -> tuple[int, int]:
    """(restored, kept): give contacts back what a change set took from them, field by field.

    A field that has changed since keeps its value; a contact in whom any field was kept counts as kept. Tags that the
    set put on are taken off again, those that it took off are put on. With `deleted_too` contacts that are deleted get
    theirs back as well: they may be brought back themselves.
    """
    there = "erased_at IS NULL" if deleted_too else "deleted_at IS NULL"
    _restore_tags(tx, change_set_id)
    # One row for each field that still holds what the set wrote.
    change_sql(
        tx,
        f"""CREATE TEMP TABLE giving_back ON COMMIT DROP AS
            SELECT contact.id AS contact_id, one.key, one.value->'before' AS before,
                CASE one.key {" ".join(f"WHEN '{key}' THEN coalesce(to_jsonb(contact.{key}), 'null')" for key in STANDARD)}
                    ELSE coalesce(contact.own->one.key, 'null') END = coalesce(one.value->'after', 'null') AS still
            FROM contact_change JOIN contact ON contact.id = contact_change.contact_id
            CROSS JOIN LATERAL jsonb_each(changes) AS one
            WHERE change_set_id = :id AND one.key NOT IN ('tags', 'deleted', 'left_out') AND contact.{there}""",
        {"id": change_set_id},
    )
    standard = ", ".join(
        f"{key} = CASE WHEN told.was ? '{key}' THEN told.was->>'{key}' ELSE contact.{key} END" for key in STANDARD
    )
    change_sql(
        tx,
        f"""UPDATE contact SET {standard},
                address_folded = CASE WHEN told.was ? 'address' THEN told.was->>'address' ELSE address_folded END,
                own = jsonb_strip_nulls(contact.own || (told.was - ARRAY[{", ".join(f"'{key}'" for key in STANDARD)}])),
                updated_at = :now
            FROM (SELECT contact_id, jsonb_object_agg(key, before) AS was FROM giving_back WHERE still GROUP BY 1) AS told
            WHERE contact.id = told.contact_id""",
        {"now": now},
    )
    restored = run_sql(tx, "SELECT DISTINCT contact_id FROM giving_back WHERE still")
    kept = run_sql(tx, "SELECT count(DISTINCT contact_id) FROM giving_back WHERE NOT still")
    refold(tx, [row.contact_id for row in restored])
    change_sql(tx, "DROP TABLE giving_back")
    return len(restored), int(kept[0][0])


def mark_undone(tx: Transaction, change_set_id: int, now: datetime) -> None:
    """Note that a change set was taken back."""
    change_sql(tx, "UPDATE change_set SET undone_at = :now WHERE id = :id", {"id": change_set_id, "now": now})
