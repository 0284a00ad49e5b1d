"""Drafts that are open, and tests that were sent."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Draft, DraftKind


def get_draft(tx: Transaction, kind: DraftKind, object_id: int, user_id: int) -> Draft | None:
    """Somebody's draft, locked: two tabs come one after the other."""
    return tx.get(Draft, (kind, object_id, user_id), with_for_update=True, populate_existing=True)


def insert_draft(tx: Transaction, draft: Draft) -> bool:
    """Keep a new draft; False when another tab was quicker."""
    return bool(
        change_sql(
            tx,
            """INSERT INTO draft (kind, object_id, user_id, base, base_revision, body, revision, at)
                VALUES (:kind, :object, :user, '{}', 0, '{}', 0, :at) ON CONFLICT DO NOTHING""",
            {"kind": draft.kind, "object": draft.object_id, "user": draft.user_id, "at": draft.at},
        )
    )


def forget_draft(tx: Transaction, kind: DraftKind, object_id: int, user_id: int | None) -> None:
    """Forget somebody's draft, if there is one; of an object that goes, everybody's (None)."""
    change_sql(
        tx,
        """DELETE FROM draft WHERE kind = :kind AND object_id = :object
            AND (CAST(:user AS bigint) IS NULL OR user_id = :user)""",
        {"kind": kind, "object": object_id, "user": user_id},
    )


def open_drafts(tx: Transaction, things: Sequence[tuple[DraftKind, int]]) -> list[Row[Any]]:
    """The drafts of these things, latest first: (kind, object_id, user_id, name, at)."""
    if not things:
        return []
    return list(
        run_sql(
            tx,
            """SELECT draft.kind, draft.object_id, draft.user_id, user_account.name, draft.at
                FROM draft JOIN unnest(CAST(:kinds AS text[]), CAST(:objects AS bigint[])) AS wanted(kind, object_id)
                    USING (kind, object_id)
                JOIN user_account ON user_account.id = draft.user_id ORDER BY draft.at DESC""",
            {"kinds": [str(kind) for kind, _ in things], "objects": [object_id for _, object_id in things]},
        )
    )


def tests_of(tx: Transaction, message_id: int, digest: str, limit: int) -> list[Row[Any]]:
    """The latest tests of a message, or of words with its digest, that a relay took: (digest, to_address, name of who sent it, shown, at)."""
    return list(
        run_sql(
            tx,
            """SELECT digest, to_address, user_account.name, test_mail.at,
                    concat_ws(' ', contact.first_name, contact.last_name) AS shown
                FROM test_mail JOIN user_account ON user_account.id = test_mail.user_id
                LEFT JOIN contact ON contact.id = test_mail.contact_id
                WHERE (message_id = :message OR digest = :digest) AND accepted
                ORDER BY test_mail.at DESC, test_mail.id DESC LIMIT :limit""",
            {"message": message_id, "digest": digest, "limit": limit},
        )
    )
