"""Counting tries under a key, for limits that all processes share. Each count is one statement: no two tries are one."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from uvarovite.store.database import Transaction, change_sql, run_sql


def count_up(tx: Transaction, keys: Sequence[str], now: datetime, window: timedelta) -> Mapping[str, int]:
    """One more try under each key: how many it has had since its first one, which began at most `window` ago."""
    rows = run_sql(
        tx,
        """INSERT INTO tally AS old (key, since, n)
            SELECT key, CAST(:now AS timestamptz), 1 FROM unnest(CAST(:keys AS text[])) AS key ORDER BY key
            ON CONFLICT (key) DO UPDATE SET
                n = CASE WHEN old.since > excluded.since - CAST(:window AS interval) THEN old.n + 1 ELSE 1 END,
                since = CASE WHEN old.since > excluded.since - CAST(:window AS interval) THEN old.since
                    ELSE excluded.since END
            RETURNING key, n""",
        {"keys": list(dict.fromkeys(keys)), "now": now, "window": window},
    )
    return {row.key: row.n for row in rows}


def count_down(tx: Transaction, keys: Sequence[str]) -> None:
    """One try less under each key: it turned out not to count."""
    change_sql(
        tx,
        """WITH locked AS (SELECT key FROM tally WHERE key = ANY(:keys) ORDER BY key FOR UPDATE)
            UPDATE tally SET n = n - 1 FROM locked WHERE tally.key = locked.key""",
        {"keys": list(keys)},
    )


def forget(tx: Transaction, key: str) -> None:
    """Count from nothing again."""
    change_sql(tx, "DELETE FROM tally WHERE key = :key", {"key": key})


def forget_old(tx: Transaction, before: datetime) -> int:
    """Forget what was begun to be counted long ago; how many keys there were."""
    return change_sql(tx, "DELETE FROM tally WHERE since < :before", {"before": before})
