"""Who is in an audience, or out of it, by hand."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.imports.staging import staged
from uvarovite.store.tables import MemberKind


def pick(
    tx: Transaction,
    people: str,
    parameters: Mapping[str, Any],
    *,
    audience_id: int,
    kind: MemberKind,
    change_set_id: int | None,
    added_by: int | None,
    at: datetime,
) -> int:
    """Add everybody whom the SELECT `people` (contact_id) gives, or leave them out; how many were not so already."""
    return change_sql(
        tx,
        f"""INSERT INTO audience_member AS old (audience_id, contact_id, kind, change_set_id, added_by, at)
            SELECT :audience, people.contact_id, :kind, :set, :by, :at FROM ({people}) AS people(contact_id)
            ON CONFLICT (audience_id, contact_id) DO UPDATE SET kind = excluded.kind,
                change_set_id = excluded.change_set_id, added_by = excluded.added_by, at = excluded.at
            WHERE old.kind <> excluded.kind""",
        {
            **parameters,
            "audience": audience_id,
            "kind": kind.value,
            "set": change_set_id,
            "by": added_by,
            "at": at,
        },
    )


def unpick(tx: Transaction, audience_id: int, contact_id: int) -> int:
    """Let the criteria alone decide about somebody again."""
    sql = "DELETE FROM audience_member WHERE audience_id = :audience AND contact_id = :contact"
    return change_sql(tx, sql, {"audience": audience_id, "contact": contact_id})


def unpick_change_set(tx: Transaction, change_set_id: int) -> int:
    """Take back what an act picked, where nobody has picked otherwise since; how many."""
    return change_sql(tx, "DELETE FROM audience_member WHERE change_set_id = :set", {"set": change_set_id})


def pick_from_file(tx: Transaction, import_id: int, *, change_set_id: int, added_by: int | None, at: datetime) -> None:
    """Add the people of a file to the audiences that their own rows name; who was left out of one stays out.

    An audience that was removed since the file was looked at is passed over.
    """
    change_sql(
        tx,
        f"""INSERT INTO audience_member (audience_id, contact_id, kind, change_set_id, added_by, at)
            SELECT DISTINCT named.id, brought.contact_id, '{MemberKind.ADDED}', :set, CAST(:by AS bigint), :at
            FROM {staged(import_id)} AS staged JOIN brought ON brought.row = staged.row
            CROSS JOIN unnest(staged.audiences) AS named(id) JOIN audience ON audience.id = named.id
            ON CONFLICT DO NOTHING""",
        {"set": change_set_id, "by": added_by, "at": at},
    )


def members(tx: Transaction, audience_id: int, limit: int) -> list[Row[Any]]:
    """The hand-picked, latest first: (id, name, address, kind, by, at)."""
    return list(
        run_sql(
            tx,
            """SELECT contact.id, concat_ws(' ', first_name, last_name) AS name, address, kind,
                    user_account.name AS by, audience_member.at
                FROM audience_member JOIN contact ON contact.id = contact_id AND deleted_at IS NULL
                LEFT JOIN user_account ON user_account.id = added_by
                WHERE audience_id = :id ORDER BY audience_member.at DESC, contact.id LIMIT :limit""",
            {"id": audience_id, "limit": limit},
        )
    )


def member_counts(tx: Transaction, audience_id: int) -> dict[str, int]:
    """How many are added and left out by hand."""
    rows = run_sql(
        tx,
        """SELECT kind, count(*) AS n FROM audience_member JOIN contact ON contact.id = contact_id AND deleted_at IS NULL
            WHERE audience_id = :id GROUP BY kind""",
        {"id": audience_id},
    )
    return {row.kind: row.n for row in rows}
