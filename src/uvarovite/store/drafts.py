"""Drafts that are open."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Draft, DraftKind


def get_draft(tx: Transaction, kind: DraftKind, object_id: int, user_id: int) -> Draft | None:
    """Somebody's draft, locked: two tabs come one after the other."""
    return tx.get(Draft, (kind, object_id, user_id), with_for_update=True, populate_existing=True)


def begin_draft(tx: Transaction, kind: DraftKind, object_id: int, user_id: int, now: datetime) -> None:
    """Make an empty draft at revision 0; nothing happens when another tab was quicker."""
    change_sql(
        tx,
        """INSERT INTO draft (kind, object_id, user_id, base, base_revision, body, revision, at)
            VALUES (:kind, :object, :user, '{}', 0, '{}', 0, :at) ON CONFLICT DO NOTHING""",
        {"kind": kind, "object": object_id, "user": user_id, "at": now},
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
