"""The queue: planning a run, claiming batches, marking, settling, and what happens when a worker dies.

Every statement that a worker sends names its lease, so that one who stalled and came back cannot finish what is
another's by now. The states that a statement may start from are read from the table in core.delivery.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.audiences import ClearanceTerms
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
from uvarovite.store.audiences.clearance import joins_sql, live_reason_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.delivery.counts import begin_counts
from uvarovite.store.delivery.permits import end_lease
from uvarovite.store.states import before_sql, states_sql


class LeaseLost(Exception):
    """A worker's lease ran out and somebody else has the batch. Whose doing: a stall. Drop the batch."""


def plan_deliveries(tx: Transaction, run_id: int, batch_size: int, now: datetime) -> int:
    """Cut the cleared people of `judged_now` into batches and deliveries; how many there are."""
    change_sql(
        tx,
        f"""INSERT INTO batch (run_id, number, size, state, due_at)
            SELECT :run, (place - 1) / :size + 1, count(*), '{BATCH.start}', :now
            FROM (SELECT row_number() OVER (ORDER BY contact_id) AS place FROM judged_now WHERE gate IS NULL) AS placed
            GROUP BY 2""",
        {"run": run_id, "size": batch_size, "now": now},
    )
    begin_counts(tx, run_id)
    return change_sql(
        tx,
        f"""INSERT INTO delivery (run_id, batch_number, first_batch, contact_id, address, address_folded, record,
                consent_since, state, attempts)
            SELECT :run, (place - 1) / :size + 1, (place - 1) / :size + 1, contact.id, contact.address,
                contact.address_folded,
                contact.own || jsonb_strip_nulls(jsonb_build_object('contact_no', contact.contact_no,
                    'address', contact.address, 'first_name', contact.first_name, 'last_name', contact.last_name,
                    'language', contact.language)),
                consent.since, '{DELIVERY.start}', 0
            FROM (SELECT contact_id, row_number() OVER (ORDER BY contact_id) AS place FROM judged_now
                WHERE gate IS NULL) AS placed
            JOIN contact ON contact.id = placed.contact_id
            JOIN run ON run.id = :run
            LEFT JOIN consent ON consent.contact_id = contact.id AND consent.topic_id = run.topic_id
            ORDER BY place""",
        {"run": run_id, "size": batch_size},
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimedBatch:
    """A batch under a lease, with the ids of its deliveries in their order, and the relay as it was set up then."""

    run_id: int
    number: int
    relay_id: int
    relay_revision: int
    lease_token: str
    delivery_ids: tuple[int, ...]


def claim_batch(
    tx: Transaction,
    *,
    worker: str,
    lease_token: str,
    now: datetime,
    lease_until: datetime,
    but_relays: Collection[int] = (),
) -> ClaimedBatch | None:
    """A batch that is due and that nobody has, those told to come back first; the run's next is due a gap later.

    None of a relay that rests, or of `but_relays`.
    """
    rows = run_sql(
        tx,
        f"""WITH due AS (
                SELECT batch.run_id, batch.number, relay.id AS relay_id, relay.revision FROM batch JOIN run ON run.id = batch.run_id
                JOIN relay ON relay.id = run.relay_id
                WHERE (relay.rests_until IS NULL OR relay.rests_until <= :now) AND relay.id <> ALL(:but)
                    AND run.state = '{RunState.GOING}' AND batch.state = '{BatchState.WAITING}' AND batch.due_at <= :now
                    AND run.next_batch_at <= :now
                ORDER BY batch.retry_of IS NULL, batch.due_at, batch.run_id, batch.number LIMIT 1
                FOR UPDATE OF batch, run SKIP LOCKED),
            paced AS (
                UPDATE run SET next_batch_at = :now + make_interval(secs => (pace->>'gap_seconds')::float)
                FROM due WHERE run.id = due.run_id)
            UPDATE batch SET state = '{BatchState.CLAIMED}', lease_token = :token, lease_until = :until, worker = :worker,
                started_at = coalesce(started_at, :now)
            FROM due WHERE batch.run_id = due.run_id AND batch.number = due.number
            RETURNING batch.run_id, batch.number, due.relay_id, due.revision""",
        {"but": list(but_relays), "now": now, "token": lease_token, "until": lease_until, "worker": worker},
    )
    if not rows:
        return None
    claimed = run_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.CLAIMED}', lease_token = :token
            WHERE run_id = :run AND batch_number = :batch AND state IN ({before_sql(DELIVERY, DeliveryEvent.CLAIM)}) RETURNING id""",
        {"token": lease_token, "run": rows[0].run_id, "batch": rows[0].number},
    )
    ids = tuple(sorted(row.id for row in claimed))
    return ClaimedBatch(
        run_id=rows[0].run_id,
        number=rows[0].number,
        relay_id=rows[0].relay_id,
        relay_revision=rows[0].revision,
        lease_token=lease_token,
        delivery_ids=ids,
    )


# Workers listen on this channel besides looking now and then.
WAKE_CHANNEL = "uvarovite_queue"


def wake_workers(tx: Transaction) -> None:
    """Tell every worker, once this transaction commits, that there may be something to do."""
    change_sql(tx, f"NOTIFY {WAKE_CHANNEL}")


def next_due(tx: Transaction) -> datetime | None:
    """When the next batch falls due, of all runs that are going."""
    rows = run_sql(
        tx,
        f"""SELECT min(greatest(batch.due_at, run.next_batch_at, relay.rests_until)) AS due
            FROM batch JOIN run ON run.id = batch.run_id JOIN relay ON relay.id = run.relay_id
            WHERE batch.state = '{BatchState.WAITING}' AND run.state = '{RunState.GOING}'""",
    )
    due: datetime | None = rows[0].due
    return due


def going(tx: Transaction, run_ids: Collection[int]) -> set[int]:
    """Those of some runs that are going."""
    rows = run_sql(
        tx,
        f"SELECT id FROM run WHERE id = ANY(:ids) AND state = '{RunState.GOING}'",
        {"ids": list(run_ids)},
    )
    return {row.id for row in rows}


def renew_lease(tx: Transaction, batch: ClaimedBatch, until: datetime) -> None:
    """Keep a batch. Raises LeaseLost."""
    hit = change_sql(
        tx,
        f"""UPDATE batch SET lease_until = :until
            WHERE run_id = :run AND number = :number AND lease_token = :token AND state IN ({before_sql(BATCH, BatchEvent.GIVE_BACK)})""",
        {"until": until, "run": batch.run_id, "number": batch.number, "token": batch.lease_token},
    )
    if not hit:
        raise LeaseLost


def mark_sending(tx: Transaction, batch: ClaimedBatch, delivery_ids: Sequence[int], now: datetime) -> list[Row[Any]]:
    """The last look and the durable mark, in one statement: (id, state, …) of those that were still ours.

    Whoever a live gate holds becomes `held`; the others become `sending`, and only they may go out. Nobody is marked
    while the run is not going.
    """
    gate, reason = live_reason_sql(ClearanceTerms(now=now, topic_id=None, double_opt_in=None))
    return list(
        run_sql(
            tx,
            f"""WITH looked AS (
                SELECT contact.id, {gate} AS gate, {reason} AS reason
                FROM delivery AS contact JOIN run ON run.id = contact.run_id AND run.state = '{RunState.GOING}'
                JOIN topic ON topic.id = run.topic_id
                {joins_sql("contact", contact_id="contact.contact_id", topic_id="run.topic_id")}
                WHERE contact.id = ANY(:ids))
            UPDATE delivery SET state = CASE WHEN gate IS NULL THEN '{DeliveryState.SENDING}' ELSE '{DeliveryState.HELD}' END,
                held_gate = gate, held_reason = reason, marked_at = :now,
                attempts = attempts + CASE WHEN gate IS NULL THEN 1 ELSE 0 END,
                settled_at = CASE WHEN gate IS NULL THEN NULL ELSE :now END
            FROM looked WHERE delivery.id = looked.id AND delivery.lease_token = :token
                AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.MARK)})
            RETURNING delivery.id, state, address, record, consent_since, attempts""",
            {"ids": list(delivery_ids), "token": batch.lease_token, "now": now},
        )
    )


def marked_before(tx: Transaction, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> list[Row[Any]]:
    """Those that are marked under this lease: (id, address, record, consent_since, attempts, marked_at)."""
    return list(
        run_sql(
            tx,
            f"""SELECT id, address, record, consent_since, attempts, marked_at FROM delivery
                WHERE id = ANY(:ids) AND lease_token = :token AND state = '{DeliveryState.SENDING}'""",
            {"ids": list(delivery_ids), "token": batch.lease_token},
        )
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Settlement:
    """What became of one delivery that was marked; `attempt` counts from 1. One that is CLAIMED again was no attempt."""

    delivery_id: int
    state: DeliveryState
    attempt: int
    code: int
    enhanced: str | None
    text: str
    kind: str
    meaning: Meaning
    next_at: datetime | None
    digest: str | None


def settle(
    tx: Transaction, batch: ClaimedBatch, relay_id: int, settlements: Sequence[Settlement], now: datetime
) -> int:
    """Write what the relay answered, for a group at once; how many were written.

    What was written by this lease before is left as it is: the worker did not hear of it and asks again. Raises LeaseLost
    when one of them is another's.
    """
    if not settlements:
        return 0
    parameters = {
        "ids": [one.delivery_id for one in settlements],
        "states": [one.state.value for one in settlements],
        "attempts": [one.attempt for one in settlements],
        "codes": [one.code for one in settlements],
        "enhanced": [one.enhanced for one in settlements],
        "texts": [one.text for one in settlements],
        "kinds": [one.kind for one in settlements],
        "meanings": [one.meaning.value for one in settlements],
        "next": [one.next_at for one in settlements],
        "digests": [one.digest for one in settlements],
        "token": batch.lease_token,
        "run": batch.run_id,
        "relay": relay_id,
        "now": now,
    }
    settled = run_sql(
        tx,
        f"""UPDATE delivery SET state = told.state, next_at = told.next_at, digest = told.digest,
                settled_at = CASE WHEN told.state <> '{DeliveryState.CLAIMED}' THEN CAST(:now AS timestamptz) END,
                attempts = attempts - CASE WHEN told.state = '{DeliveryState.CLAIMED}' THEN 1 ELSE 0 END,
                trouble = CASE WHEN told.state NOT IN ('{DeliveryState.ACCEPTED}', '{DeliveryState.CLAIMED}')
                    THEN told.meaning END
            FROM unnest(CAST(:ids AS bigint[]), CAST(:states AS text[]), CAST(:next AS timestamptz[]),
                CAST(:digests AS text[]), CAST(:meanings AS text[]), CAST(:attempts AS integer[]))
                AS told(id, state, next_at, digest, meaning, attempt)
            WHERE delivery.id = told.id AND delivery.lease_token = :token AND delivery.attempts = told.attempt
                AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.ACCEPT)})
            RETURNING delivery.id, delivery.contact_id, delivery.address_folded, delivery.state""",
        parameters,
    )
    if len(settled) != len(settlements) and not _were_settled_before(tx, parameters):
        raise LeaseLost
    for state in (DeliveryState.ACCEPTED, DeliveryState.UNKNOWN):
        sent = [row for row in settled if row.state == state]
        _note_sent(tx, batch.run_id, sent, now, accepted=state is DeliveryState.ACCEPTED)
    tried = [row.id for row in settled if row.state != DeliveryState.CLAIMED]
    change_sql(
        tx,
        """INSERT INTO attempt (delivery_id, run_id, relay_id, number, at, code, enhanced, text, kind, meaning)
            SELECT told.id, :run, :relay, told.number, :now, told.code, told.enhanced, told.text, told.kind, told.meaning
            FROM unnest(CAST(:ids AS bigint[]), CAST(:attempts AS integer[]), CAST(:codes AS integer[]),
                CAST(:enhanced AS text[]), CAST(:texts AS text[]), CAST(:kinds AS text[]), CAST(:meanings AS text[]))
                AS told(id, number, code, enhanced, text, kind, meaning)
            WHERE told.id = ANY(:tried)""",
        {**parameters, "tried": tried},
    )
    return len(settled)


def _were_settled_before(tx: Transaction, parameters: dict[str, Any]) -> bool:
    """Does each of them stand, under this lease, where it was to be put, or is none of its rows left to be moved?"""
    rows = run_sql(
        tx,
        f"""SELECT count(*) AS strange
            FROM unnest(CAST(:ids AS bigint[]), CAST(:states AS text[]), CAST(:attempts AS integer[]))
                AS told(id, state, attempt)
            LEFT JOIN delivery ON delivery.id = told.id AND delivery.lease_token = :token AND delivery.state = told.state
                AND delivery.attempts = told.attempt
                    - CASE WHEN told.state = '{DeliveryState.CLAIMED}' THEN 1 ELSE 0 END
            WHERE delivery.id IS NULL""",
        {name: parameters[name] for name in ("ids", "states", "attempts", "token")},
    )
    return not rows[0].strange


def _note_sent(tx: Transaction, run_id: int, sent: Sequence[Row[Any]], at: datetime, *, accepted: bool) -> None:
    """Note that messages went out, from rows of (contact_id, address_folded).

    Two of one run may be one person's by now, when duplicates were merged while both were under way.
    """
    if sent:
        change_sql(
            tx,
            """INSERT INTO sent_mail AS old (run_id, contact_id, at, accepted, address_folded)
                SELECT DISTINCT ON (contact_id) CAST(:run AS bigint), contact_id, CAST(:at AS timestamptz),
                    CAST(:accepted AS boolean), address
                FROM unnest(CAST(:people AS bigint[]), CAST(:addresses AS text[])) AS told(contact_id, address)
                ON CONFLICT (run_id, contact_id) DO UPDATE SET accepted = old.accepted OR excluded.accepted""",
            {
                "run": run_id,
                "people": [row.contact_id for row in sent],
                "addresses": [row.address_folded for row in sent],
                "at": at,
                "accepted": accepted,
            },
        )


def folded_address(tx: Transaction, delivery_id: int) -> str:
    """The folded address of a delivery."""
    return str(run_sql(tx, "SELECT address_folded FROM delivery WHERE id = :id", {"id": delivery_id})[0][0])


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
    cut_retry_batch(tx, batch.run_id, batch.number)
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

    How many deliveries became unknown.
    """
    expired = run_sql(
        tx,
        f"""SELECT run_id, batch.number, lease_token, run.relay_id, relay.revision
            FROM batch JOIN run ON run.id = run_id JOIN relay ON relay.id = run.relay_id
            WHERE batch.state = '{BatchState.CLAIMED}' AND lease_until < :now FOR UPDATE OF batch SKIP LOCKED""",
        {"now": now},
    )
    unknown = 0
    for row in expired:
        own = {"run": row.run_id, "number": row.number, "token": row.lease_token, "now": now}
        own["trouble"] = Meaning.WORKER_STOPPED.value
        lost = run_sql(
            tx,
            f"""UPDATE delivery SET state = '{DeliveryState.UNKNOWN}', settled_at = :now, trouble = :trouble
                WHERE run_id = :run AND batch_number = :number AND lease_token = :token
                    AND state IN ({before_sql(DELIVERY, DeliveryEvent.LOSE)}) RETURNING id, contact_id, address_folded, attempts""",
            own,
        )
        unknown += len(lost)
        _note_sent(tx, row.run_id, lost, now, accepted=False)
        if lost:
            change_sql(
                tx,
                """INSERT INTO attempt (delivery_id, run_id, relay_id, number, at, code, text, kind, meaning)
                    SELECT told.id, :run, run.relay_id, told.number, :now, 0, '', 'connection', :trouble
                    FROM run, unnest(CAST(:ids AS bigint[]), CAST(:numbers AS integer[])) AS told(id, number)
                    WHERE run.id = :run""",
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
