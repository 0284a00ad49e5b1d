"""What a forecast asks about a pool of relays and its runs."""

from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery import DELIVERY, RUN
from uvarovite.core.delivery.answers import AnswerKind
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.states import states_sql


def runs_of_pool(tx: Transaction, pool_id: int) -> list[Row[Any]]:
    """(id, campaign, moving) of the runs that have still something to send through a pool, and are not paused."""
    return list(
        run_sql(
            tx,
            f"""SELECT run.id, campaign.name AS campaign,
                    (SELECT coalesce(sum(n), 0)::integer FROM run_count
                        WHERE run_id = run.id AND state IN ({states_sql(DELIVERY.open)})) AS moving
                FROM run JOIN campaign ON campaign.id = run.campaign_id
                WHERE run.pool_id = :pool AND run.state = '{RUN.start}' ORDER BY run.id""",
            {"pool": pool_id},
        )
    )


def late_share(tx: Transaction, pool_id: int, answers: int) -> float | None:
    """Of the last first answers in the last run through a pool that is over: which share told to come back later."""
    rows = run_sql(
        tx,
        f"""SELECT (count(*) FILTER (WHERE kind = '{AnswerKind.TRY_LATER}'))::float / nullif(count(*), 0) AS share FROM (
                SELECT kind FROM attempt
                WHERE run_id = (SELECT max(id) FROM run WHERE pool_id = :pool AND state NOT IN ({states_sql(RUN.open)}))
                    AND number = 1
                ORDER BY id DESC LIMIT :answers) AS told""",
        {"pool": pool_id, "answers": answers},
    )
    share: float | None = rows[0].share
    return share


def begin_pause(tx: Transaction, run_id: int, at: datetime) -> None:
    """A run pauses."""
    change_sql(
        tx,
        "INSERT INTO run_pause (run_id, began_at) VALUES (:run, :at) ON CONFLICT DO NOTHING",
        {"run": run_id, "at": at},
    )


def end_pause(tx: Transaction, run_id: int, at: datetime) -> None:
    """It goes on, or is over."""
    change_sql(
        tx, "UPDATE run_pause SET ended_at = :at WHERE run_id = :run AND ended_at IS NULL", {"run": run_id, "at": at}
    )


def pauses_of(tx: Transaction, run_id: int, now: datetime) -> list[tuple[datetime, datetime]]:
    """When a run was paused, up to now."""
    rows = run_sql(
        tx,
        "SELECT began_at, coalesce(ended_at, :now) AS ended_at FROM run_pause WHERE run_id = :run ORDER BY began_at",
        {"run": run_id, "now": now},
    )
    return [(row.began_at, row.ended_at) for row in rows]
