"""How far mailboxes were read."""

from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql


def lock_mailbox(tx: Transaction, name: str, uid_validity: int) -> int | None:
    """The last UID that was taken in of a mailbox, None before the first look; one with other UIDs begins anew. Locked."""
    rows = run_sql(
        tx,
        """INSERT INTO inbound_mailbox AS old (name, uid_validity) VALUES (:name, :validity)
            ON CONFLICT (name) DO UPDATE SET uid_validity = excluded.uid_validity,
                last_uid = CASE WHEN old.uid_validity = excluded.uid_validity THEN old.last_uid END
            RETURNING last_uid""",
        {"name": name, "validity": uid_validity},
    )
    last: int | None = rows[0].last_uid
    return last


def note_read(tx: Transaction, name: str, uid: int) -> None:
    """A mailbox was read up to a message."""
    change_sql(tx, "UPDATE inbound_mailbox SET last_uid = :uid WHERE name = :name", {"name": name, "uid": uid})


def note_look(tx: Transaction, name: str, at: datetime | None, trouble: str | None) -> None:
    """A mailbox was looked at to its end, or could not be: `at` is None then, and what was known stays."""
    change_sql(
        tx,
        """INSERT INTO inbound_mailbox AS old (name, uid_validity, looked_at, trouble)
            VALUES (:name, 0, CAST(:at AS timestamptz), :trouble)
            ON CONFLICT (name) DO UPDATE SET looked_at = coalesce(excluded.looked_at, old.looked_at), trouble = excluded.trouble""",
        {"name": name, "at": at, "trouble": trouble},
    )


def mailboxes(tx: Transaction) -> list[Row[Any]]:
    """(name, looked_at, trouble) of every mailbox."""
    return list(run_sql(tx, "SELECT name, looked_at, trouble FROM inbound_mailbox ORDER BY name"))
