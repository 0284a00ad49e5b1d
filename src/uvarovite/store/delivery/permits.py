"""Permits in the database: taken and closed for a group of messages, never one by one."""

from datetime import datetime

from uvarovite.core.campaigns import HOUR, Permit, grant_permits
from uvarovite.store.database import Transaction, change_sql, run_sql


def take_permits(
    tx: Transaction,
    *,
    relay_id: int,
    run_id: int,
    lease_token: str,
    wanted: int,
    relay_limit: int | None,
    run_limit: int | None,
    now: datetime,
) -> tuple[int, datetime | None]:
    """(granted, next) by core.campaigns.permits, for the relay's limit over all runs and the run's own.

    The relay's row is locked first, so that two workers never count the same room twice.
    """
    run_sql(tx, "SELECT 1 FROM relay WHERE id = :id FOR UPDATE", {"id": relay_id})
    rows = run_sql(
        tx,
        """SELECT run_id, count AS messages, closed_at FROM send_permit
            WHERE relay_id = :relay AND (closed_at IS NULL OR closed_at > :since)""",
        {"relay": relay_id, "since": now - HOUR},
    )
    everyone = [Permit(count=row.messages, closed_at=row.closed_at) for row in rows]
    ours = [Permit(count=row.messages, closed_at=row.closed_at) for row in rows if row.run_id == run_id]
    granted, later = grant_permits(wanted, relay_limit, everyone, now)
    if granted:
        granted, later = grant_permits(granted, run_limit, ours, now)
    if granted:
        change_sql(
            tx,
            """INSERT INTO send_permit (relay_id, run_id, lease_token, count, taken_at)
                VALUES (:relay, :run, :token, :count, :now)""",
            {"relay": relay_id, "run": run_id, "token": lease_token, "count": granted, "now": now},
        )
    return granted, later


def trim_permit(tx: Transaction, lease_token: str, used: int) -> None:
    """Lower a lease's open permit to what was marked; nothing more can go out under it."""
    change_sql(
        tx,
        "UPDATE send_permit SET count = :used WHERE lease_token = :token AND closed_at IS NULL AND count > :used",
        {"used": used, "token": lease_token},
    )


def close_permit(tx: Transaction, lease_token: str, now: datetime) -> None:
    """Close a lease's open permit: the relay has answered for the last of its messages. Empty ones go."""
    change_sql(
        tx,
        "UPDATE send_permit SET closed_at = :now WHERE lease_token = :token AND closed_at IS NULL",
        {"token": lease_token, "now": now},
    )
    change_sql(tx, "DELETE FROM send_permit WHERE lease_token = :token AND count = 0", {"token": lease_token})


def forget_old_permits(tx: Transaction, now: datetime) -> int:
    """Remove permits that count in no limit any more."""
    return change_sql(tx, "DELETE FROM send_permit WHERE closed_at < :old", {"old": now - 2 * HOUR})


def used_in_hour(tx: Transaction, relay_id: int, now: datetime) -> int:
    """How many messages count against a relay's hourly limit now."""
    rows = run_sql(
        tx,
        """SELECT coalesce(sum(count), 0) AS used FROM send_permit
            WHERE relay_id = :relay AND (closed_at IS NULL OR closed_at > :since)""",
        {"relay": relay_id, "since": now - HOUR},
    )
    return int(rows[0].used)
