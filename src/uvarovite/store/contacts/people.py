"""One person: their record as it is edited, and notes about them."""

from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.contacts import Folded
from uvarovite.store.contacts.records import STANDARD, with_key_sql, write_search
from uvarovite.store.database import Transaction, change_sql, run_sql


def put_value(
    tx: Transaction,
    contact_id: int,
    key: str,
    *,
    stored: Any,
    folded: Folded | None,
    address_folded: str | None = None,
    now: datetime,
) -> None:
    """Write one field of a contact in its stored form (None: blank), its folded text, and what is found by it."""
    parameters = {
        "id": contact_id,
        "key": key,
        "stored": stored if key in STANDARD else orjson.dumps(stored).decode(),
        "folded": orjson.dumps(folded).decode(),
        "now": now,
    }
    if key in STANDARD:
        assigned = f"{key} = :stored"
        if key == "address":
            assigned += ", address_folded = :address_folded"
            parameters["address_folded"] = address_folded
    else:
        assigned = "own = " + with_key_sql("own", ":key", ":stored")
    change_sql(
        tx,
        f"""UPDATE contact SET {assigned}, updated_at = :now, folded = {with_key_sql("folded", ":key", ":folded")}
            WHERE id = :id""",
        parameters,
    )
    write_search(tx, "SELECT CAST(:touched AS bigint)", {"touched": contact_id})


def number_is_taken(tx: Transaction, contact_no: str, but_for: int | None) -> bool:
    """Does another contact have this number?"""
    sql = "SELECT 1 FROM contact WHERE contact_no = :no AND deleted_at IS NULL AND id IS DISTINCT FROM :id"
    return bool(run_sql(tx, sql.replace(":id", "CAST(:id AS bigint)"), {"no": contact_no, "id": but_for}))


def usual_domains(tx: Transaction) -> dict[str, int]:
    """How many of the latest contacts have each domain; these speak for all."""
    rows = run_sql(
        tx,
        """SELECT split_part(address_folded, '@', 2) AS domain, count(*) AS n FROM (
                SELECT address_folded FROM contact WHERE deleted_at IS NULL AND address_folded IS NOT NULL
                ORDER BY id DESC LIMIT 20000) AS latest GROUP BY 1""",
    )
    return {row.domain: row.n for row in rows}


def notes_of(tx: Transaction, contact_id: int) -> list[Row[Any]]:
    """The notes about a contact, latest first: (id, at, by, text)."""
    return list(
        run_sql(
            tx,
            """SELECT contact_note.id, at, user_account.name AS by, text FROM contact_note
                LEFT JOIN user_account ON user_account.id = user_id
                WHERE contact_id = :id ORDER BY contact_note.id DESC LIMIT 200""",
            {"id": contact_id},
        )
    )


def file_of(tx: Transaction, import_id: int | None) -> str | None:
    """The name of the file that an import brought in."""
    rows = run_sql(tx, "SELECT filename FROM import_file WHERE id = :id", {"id": import_id}) if import_id else []
    return rows[0].filename if rows else None
