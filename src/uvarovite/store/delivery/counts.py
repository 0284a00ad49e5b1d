"""How far runs are: counts that are kept by the statements that move deliveries, never counted when somebody looks.

A trigger writes what each statement changed as rows of `run_count`, which are added up; nobody waits for anybody. Many
rows are folded into few now and then.
"""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery import DELIVERY, BatchState, DeliveryState
from uvarovite.core.delivery.answers import Meaning
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.states import states_sql

# So many rows of a run that are not folded yet are read in a millisecond or two.
FOLD_FROM = 2_000


def begin_counts(tx: Transaction, run_id: int) -> None:
    """The counts of a run that was just planned."""
    change_sql(
        tx,
        f"""INSERT INTO run_count (run_id, batch, state, tried, n, folded)
            SELECT run_id, number, '{DELIVERY.start}', FALSE, size, TRUE FROM batch WHERE run_id = :run""",
        {"run": run_id},
    )


def state_counts(tx: Transaction, run_ids: Sequence[int]) -> dict[int, dict[str, int]]:
    """How many deliveries of each run stand in each state; a state that nobody is in is left out."""
    rows = run_sql(
        tx,
        """SELECT run_id, state, sum(n)::integer AS n FROM run_count WHERE run_id = ANY(:runs)
            GROUP BY 1, 2 HAVING sum(n) <> 0""",
        {"runs": list(run_ids)},
    )
    counts: dict[int, dict[str, int]] = {run_id: {} for run_id in run_ids}
    for row in rows:
        counts[row.run_id][row.state] = row.n
    return counts


def batch_strip(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """The batches of the plan with what became of their people: (number, size, accepted, deferred …)."""
    moving = f"state IN ({states_sql(DELIVERY.open)})"

    def of(which: str) -> str:
        return f"coalesce(sum(n) FILTER (WHERE {which}), 0)::integer"

    return list(
        run_sql(
            tx,
            f"""SELECT batch AS number, sum(n)::integer AS size,
                    {of(f"state = '{DeliveryState.ACCEPTED}'")} AS accepted,
                    {of(f"{moving} AND tried")} AS deferred,
                    {of(f"state = '{DeliveryState.REFUSED}'")} AS refused,
                    {of(f"state = '{DeliveryState.UNKNOWN}'")} AS unknown,
                    {of(f"state IN ({states_sql({DeliveryState.HELD, DeliveryState.STOPPED})})")} AS held,
                    {of(f"{moving} AND NOT tried")} AS waiting
                FROM run_count WHERE run_id = :run GROUP BY batch ORDER BY batch""",
            {"run": run_id},
        )
    )


def accepted_curve(tx: Transaction, run_id: int, points: int) -> list[tuple[datetime, int]]:
    """(instant, accepted by then), a step of two for each of at most `points` instants, oldest first.

    Told to the second, in a long run by larger steps.
    """
    rows = run_sql(
        tx,
        f"""WITH told AS (
                SELECT at, sum(n) AS n FROM run_count WHERE run_id = :run AND state = '{DeliveryState.ACCEPTED}'
                GROUP BY at HAVING sum(n) <> 0),
            placed AS (
                SELECT at, sum(n) OVER (ORDER BY at) AS accepted, row_number() OVER (ORDER BY at) AS place,
                    count(*) OVER () AS total FROM told)
            SELECT max(at) AS at, max(accepted)::integer AS accepted FROM placed
            GROUP BY (place - 1) * :points / total ORDER BY 2""",
        {"run": run_id, "points": points},
    )
    # What is accepted within a second, or within a step, stands there at once; between two of them nothing was.
    curve: list[tuple[datetime, int]] = []
    before = 0
    for row in rows:
        curve += [(row.at, before), (row.at, row.accepted)]
        before = row.accepted
    return curve


def trouble(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """Groups of trouble: (state, domain, meaning, n, next_at), largest first.

    `next_at` is when the first of those who were told to come back is tried again.
    """
    states = {DeliveryState.DEFERRED, DeliveryState.REFUSED, DeliveryState.UNKNOWN}
    return list(
        run_sql(
            tx,
            f"""SELECT state, split_part(about, ' ', 1) AS domain,
                    substr(about, strpos(about, ' ') + 1) AS meaning, sum(n)::integer AS n,
                    CASE WHEN state = '{DeliveryState.DEFERRED}' THEN (SELECT min(due_at) FROM batch
                        WHERE run_id = :run AND retry_of IS NOT NULL AND state = '{BatchState.WAITING}') END AS next_at
                FROM run_count WHERE run_id = :run AND state IN ({states_sql(states)})
                GROUP BY state, about HAVING sum(n) <> 0 ORDER BY n DESC, 2 LIMIT 12""",
            {"run": run_id},
        )
    )


def put_off_by_domain(tx: Transaction, run_id: int) -> dict[str, int]:
    """How many wait for the limit of their domain, by domain."""
    rows = run_sql(
        tx,
        f"""SELECT split_part(about, ' ', 1) AS domain, sum(n)::integer AS n FROM run_count
            WHERE run_id = :run AND state = '{DeliveryState.DEFERRED}' AND about LIKE :about
            GROUP BY 1 HAVING sum(n) > 0""",
        {"run": run_id, "about": f"% {Meaning.DOMAIN_LIMIT}"},
    )
    return {row.domain: row.n for row in rows}


def held_groups(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """Who was held after release: (held_gate, held_reason, n)."""
    return list(
        run_sql(
            tx,
            f"""SELECT split_part(about, ':', 1) AS held_gate, split_part(about, ':', 2) AS held_reason,
                    sum(n)::integer AS n
                FROM run_count WHERE run_id = :run AND state = '{DeliveryState.HELD}'
                GROUP BY about HAVING sum(n) <> 0 ORDER BY n DESC, 1, 2""",
            {"run": run_id},
        )
    )


def response_counts(tx: Transaction, run_id: int) -> dict[str, int]:
    """People, not events: how many opened, clicked and left; and `machine`: the fetches by machines."""
    rows = run_sql(
        tx, "SELECT kind, sum(n)::integer AS n FROM response_count WHERE run_id = :run GROUP BY 1", {"run": run_id}
    )
    return {row.kind: row.n for row in rows}


def fold_counts(tx: Transaction) -> int:
    """Add up the rows of runs that have many; how many runs those were."""
    many = run_sql(
        tx,
        "SELECT run_id FROM run_count WHERE NOT folded GROUP BY run_id HAVING count(*) > :from ORDER BY run_id",
        {"from": FOLD_FROM},
    )
    for row in many:
        run_sql(tx, "SELECT fold_counts(:run)", {"run": row.run_id})
    return len(many)
