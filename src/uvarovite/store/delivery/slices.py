"""The first slice of a run, and what the brake looks at."""

from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery import BatchState, RunState
from uvarovite.core.delivery.answers import AnswerKind
from uvarovite.core.delivery.brake import Tally
from uvarovite.store.database import Transaction, change_sql, run_sql


def note_slice_sent(tx: Transaction, run_id: int, now: datetime) -> None:
    """When all batches of a first slice are through, it is to be judged after its wait.

    Whoever of them was told to come back later is not waited for.
    """
    change_sql(
        tx,
        f"""UPDATE run SET slice_until = CAST(:now AS timestamptz)
                + make_interval(mins => (pace->'first_slice'->>'wait_minutes')::int)
            WHERE id = :run AND slice_batches IS NOT NULL AND slice_until IS NULL AND pace->'first_slice' <> 'null'
                AND NOT EXISTS (SELECT FROM batch WHERE run_id = :run AND number <= run.slice_batches
                    AND state <> '{BatchState.DONE}')""",
        {"run": run_id, "now": now},
    )


def slices_over(tx: Transaction, now: datetime) -> list[Row[Any]]:
    """(id, slice_batches, pace) of the runs that are going and whose first slice is to be judged, locked."""
    return list(
        run_sql(
            tx,
            f"""SELECT id, slice_batches, pace FROM run WHERE slice_until <= :now AND slice_batches IS NOT NULL
                    AND state = '{RunState.GOING}' ORDER BY id FOR NO KEY UPDATE SKIP LOCKED""",
            {"now": now},
        )
    )


def go_beyond_slice(tx: Transaction, run_id: int) -> None:
    """The rest may go."""
    change_sql(tx, "UPDATE run SET slice_batches = NULL, slice_until = NULL WHERE id = :run", {"run": run_id})


_TALLY = f"""SELECT count(*) AS answers, count(*) FILTER (WHERE kind = '{AnswerKind.REFUSED_ADDRESS}' OR bounced) AS bounces,
    count(*) FILTER (WHERE kind = '{AnswerKind.REFUSED_SENDER}') AS refusals, count(*) FILTER (WHERE complained) AS complaints"""
# What came back by mail for an answer's delivery.
_CAME_BACK = """LEFT JOIN LATERAL (
    SELECT bool_or(kind = 'bounced' AND coalesce((detail->>'counts')::boolean, false)) AS bounced,
        bool_or(kind = 'complained') AS complained
    FROM response_event WHERE response_event.delivery_id = told.delivery_id AND kind IN ('bounced', 'complained')) AS came ON true"""


def tally_of_slice(tx: Transaction, run_id: int, batches: int) -> Tally:
    """What came back of the first batches of a run, each delivery by its last answer."""
    rows = run_sql(
        tx,
        f"""{_TALLY} FROM (
                SELECT DISTINCT ON (attempt.delivery_id) kind, attempt.delivery_id FROM delivery JOIN attempt ON attempt.delivery_id = delivery.id
                WHERE delivery.run_id = :run AND delivery.first_batch <= :batches
                ORDER BY attempt.delivery_id, attempt.id DESC) AS told {_CAME_BACK}""",
        {"run": run_id, "batches": batches},
    )
    return Tally(**rows[0]._mapping)


def tally_of_last(tx: Transaction, run_id: int, last: int, after: int) -> Tally:
    """The last answers of a run, of those that came after an attempt."""
    rows = run_sql(
        tx,
        f"""{_TALLY} FROM (SELECT kind, delivery_id FROM attempt WHERE run_id = :run AND id > :after
                ORDER BY id DESC LIMIT :last) AS told {_CAME_BACK}""",
        {"run": run_id, "last": last, "after": after},
    )
    return Tally(**rows[0]._mapping)


def last_attempt(tx: Transaction, run_id: int) -> int:
    """The id of a run's last answer; 0 where there is none."""
    return int(run_sql(tx, "SELECT coalesce(max(id), 0) FROM attempt WHERE run_id = :run", {"run": run_id})[0][0])
