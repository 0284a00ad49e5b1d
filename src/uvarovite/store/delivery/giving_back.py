"""Giving batches back: what was not sent waits again, and what becomes of it when a worker died."""

from datetime import datetime

from uvarovite.core.delivery import (
    BATCH,
    DELIVERY,
    RUN,
    BatchEvent,
    BatchState,
    DeliveryEvent,
    DeliveryState,
    RunEvent,
    RunState,
)
from uvarovite.core.delivery.answers import Meaning
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.delivery.permits import end_lease
from uvarovite.store.delivery.queue import ClaimedBatch, LeaseLost, not_begun, note_sent
from uvarovite.store.delivery.slices import note_slice_sent
from uvarovite.store.states import before_sql, states_sql


def close_batch(tx: Transaction, batch: ClaimedBatch, *, now: datetime, again_at: datetime) -> None:
    """Give a batch back: those not sent wait again from `again_at`, those told to come back get a batch of their own.

    Raises LeaseLost.
    """
    own = {"run": batch.run_id, "number": batch.number, "token": batch.lease_token}
    left = change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.WAITING}', lease_token = NULL
            WHERE run_id = :run AND batch_number = :number AND lease_token = :token
                AND state IN ({before_sql(DELIVERY, DeliveryEvent.GIVE_BACK)})""",
        own,
    )
    hit = change_sql(
        tx,
        f"""UPDATE batch SET state = :state, due_at = greatest(due_at, CAST(:due AS timestamptz)), lease_token = NULL,
                lease_until = NULL, worker = NULL
            WHERE run_id = :run AND number = :number AND lease_token = :token AND state IN ({before_sql(BATCH, BatchEvent.GIVE_BACK)})""",
        {**own, "state": BatchState.WAITING if left else BatchState.DONE, "due": again_at if again_at > now else None},
    )
    if not hit:
        raise LeaseLost
    if left == len(batch.delivery_ids):
        not_begun(tx, batch, now)
    cut_retry_batch(tx, batch.run_id, batch.number)
    note_slice_sent(tx, batch.run_id, now)
    end_run_if_done(tx, batch.run_id, now)


def cut_retry_batch(tx: Transaction, run_id: int, number: int) -> None:
    """Move the deferred deliveries of a batch into one of their own, due when the last of them may be tried again.

    Those of several batches share one while it is not full, so that trying again takes as few turns as it can.
    """
    open_one = run_sql(
        tx,
        f"""UPDATE batch SET size = size + told.n, due_at = greatest(batch.due_at, told.due)
            FROM (SELECT count(*) AS n, max(next_at) AS due FROM delivery
                WHERE run_id = :run AND batch_number = :number AND state = '{DeliveryState.DEFERRED}') AS told
            WHERE told.n > 0 AND batch.run_id = :run AND batch.number = (SELECT min(candidate.number)
                FROM batch AS candidate JOIN run ON run.id = candidate.run_id
                WHERE candidate.run_id = :run AND candidate.retry_of IS NOT NULL AND candidate.state = '{BatchState.WAITING}'
                    AND candidate.number <> :number
                    AND candidate.size + told.n <= (run.pace->>'batch_size')::int
                    -- Whoever has waited longest is not put off by those who come after for more than two gaps.
                    AND told.due <= make_interval(secs => 2 * (run.pace->>'gap_seconds')::float)
                        + (SELECT min(next_at) FROM delivery
                           WHERE run_id = :run AND batch_number = candidate.number AND state = '{DeliveryState.DEFERRED}'))
            RETURNING number""",
        {"run": run_id, "number": number},
    )
    if open_one:
        _move_deferred(tx, run_id, number, open_one[0].number)
        return
    made = run_sql(
        tx,
        f"""INSERT INTO batch (run_id, number, size, state, due_at, retry_of)
            SELECT :run, (SELECT max(number) + 1 FROM batch WHERE run_id = :run), count(*), '{BATCH.start}', max(next_at),
                :number
            FROM delivery WHERE run_id = :run AND batch_number = :number AND state = '{DeliveryState.DEFERRED}'
            HAVING count(*) > 0 RETURNING number""",
        {"run": run_id, "number": number},
    )
    if made:
        _move_deferred(tx, run_id, number, made[0].number)


def _move_deferred(tx: Transaction, run_id: int, number: int, to: int) -> None:
    change_sql(
        tx,
        f"""UPDATE delivery SET batch_number = :to, lease_token = NULL
            WHERE run_id = :run AND batch_number = :number AND state = '{DeliveryState.DEFERRED}'""",
        {"run": run_id, "number": number, "to": to},
    )


def end_run_if_done(tx: Transaction, run_id: int, now: datetime) -> None:
    """End a run none of whose deliveries can still move."""
    change_sql(
        tx,
        f"""UPDATE run SET state = '{RunState.ENDED}', ended_at = :now
            WHERE id = :run AND state IN ({before_sql(RUN, RunEvent.END)})
                AND NOT EXISTS (SELECT FROM run_count WHERE run_id = :run AND state IN ({states_sql(DELIVERY.open)})
                    HAVING sum(n) > 0)""",
        {"run": run_id, "now": now},
    )


def recover_expired(tx: Transaction, now: datetime) -> int:
    """Take back the batches whose leases ran out; what was being sent then is unknown, the rest waits again.

    How many deliveries became unknown. A run is locked before what counts in its limits, as whoever changes its pace does.
    """
    expired = run_sql(
        tx,
        f"""SELECT run_id, batch.number, lease_token, batch.relay_id, relay.revision
            FROM batch JOIN run ON run.id = run_id JOIN relay ON relay.id = batch.relay_id
            WHERE batch.state = '{BatchState.CLAIMED}' AND lease_until < :now FOR NO KEY UPDATE OF batch, run SKIP LOCKED""",
        {"now": now},
    )
    unknown = 0
    for row in expired:
        own = {"run": row.run_id, "number": row.number, "token": row.lease_token, "now": now, "relay": row.relay_id}
        own["trouble"] = Meaning.WORKER_STOPPED.value
        lost = run_sql(
            tx,
            f"""UPDATE delivery SET state = '{DeliveryState.UNKNOWN}', settled_at = :now, trouble = :trouble
                WHERE run_id = :run AND batch_number = :number AND lease_token = :token
                    AND state IN ({before_sql(DELIVERY, DeliveryEvent.LOSE)}) RETURNING id, contact_id, address_folded, attempts""",
            own,
        )
        unknown += len(lost)
        note_sent(tx, row.run_id, lost, now, accepted=False)
        if lost:
            change_sql(
                tx,
                """INSERT INTO attempt (delivery_id, run_id, relay_id, number, at, code, text, kind, meaning)
                    SELECT told.id, :run, :relay, told.number, :now, 0, '', 'connection', :trouble
                    FROM unnest(CAST(:ids AS bigint[]), CAST(:numbers AS integer[])) AS told(id, number)""",
                {**own, "ids": [one.id for one in lost], "numbers": [one.attempts for one in lost]},
            )
        end_lease(tx, row.lease_token, now)
        from_row = ClaimedBatch(
            run_id=row.run_id,
            number=row.number,
            relay_id=row.relay_id,
            relay_revision=row.revision,
            lease_token=row.lease_token,
            delivery_ids=(),
        )
        close_batch(tx, from_row, now=now, again_at=now)
    return unknown
