"""The audit log: entries, and finding them."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, run_sql


def audit_lines(
    tx: Transaction,
    *,
    search: str,
    said: Sequence[str],
    actions: Sequence[str] | None,
    user_id: int | None,
    since: datetime | None,
    until: datetime | None,
    before: int | None,
    limit: int,
) -> list[Row[Any]]:
    """Entries, latest first: (id, at, actor_kind, actor_name, user_id, token_id, action, about_id, facts).

    `search` is looked for in names and facts; `said` are the actions whose own words contain it. `before` is the id of
    the last one that was seen.
    """
    pattern = "%" + search.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    return list(
        run_sql(
            tx,
            """SELECT id, at, actor_kind, actor_name, user_id, token_id, action, about_id, facts FROM audit_entry
                WHERE (CAST(:before AS bigint) IS NULL OR id < :before)
                AND (CAST(:since AS timestamptz) IS NULL OR at >= :since)
                AND (CAST(:until AS timestamptz) IS NULL OR at < :until)
                AND (CAST(:user AS bigint) IS NULL OR user_id = :user)
                AND (CAST(:actions AS text[]) IS NULL OR action = ANY (:actions))
                AND (:search = '' OR actor_name ILIKE :pattern OR action = ANY (CAST(:said AS text[]))
                    OR EXISTS (SELECT FROM jsonb_each_text(facts) WHERE value ILIKE :pattern))
                ORDER BY id DESC LIMIT :limit""",
            {
                "before": before,
                "since": since,
                "until": until,
                "user": user_id,
                "actions": list(actions) if actions is not None else None,
                "search": search,
                "pattern": pattern,
                "said": list(said),
                "limit": limit,
            },
        )
    )
