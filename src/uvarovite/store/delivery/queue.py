"""The queue: claiming batches, marking and settling.

Every statement that a worker sends names its lease, so that one who stalled and came back cannot finish what is
another's by now. The states that a statement may start from are read from the table in core.delivery.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.delivery import (
    BATCH,
    DELIVERY,
    BatchEvent,
    BatchState,
    DeliveryEvent,
    DeliveryState,
    RunState,
)
from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.delivery.relay_pools import RelayStanding
from uvarovite.store.audiences.clearance import joins_sql, live_reason_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.states import before_sql


class LeaseLost(Exception):
    """A worker's lease ran out and somebody else has the batch. Whose doing: a stall. Drop the batch."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimedBatch:
    """A batch under a lease, with the ids of its deliveries in their order, and the relay as it was set up then.

    `following` is when the run's next batch may begin, as this one set it.
    """

    run_id: int
    number: int
    relay_id: int
    relay_revision: int
    lease_token: str
    delivery_ids: tuple[int, ...]
    following: datetime | None = None


# Of a run whose first slice is not judged yet only that, and whoever was told to come back, is let through.
_LET_THROUGH = "(run.slice_batches IS NULL OR batch.number <= run.slice_batches OR batch.retry_of IS NOT NULL)"


def due_batch(tx: Transaction, now: datetime, pools: Collection[int]) -> Row[Any] | None:
    """A batch that is due and that nobody has, those told to come back first, locked with its run.

    It is told with the run's pace and the organisation's zone: (run_id, number, pool_id, pace, zone). Only of runs that go
    through one of the `pools`.
    """
    rows = run_sql(
        tx,
        f"""SELECT batch.run_id, batch.number, run.pool_id, run.pace, (SELECT time_zone FROM organisation) AS zone
            FROM batch JOIN run ON run.id = batch.run_id
            WHERE run.pool_id = ANY(:pools) AND run.state = '{RunState.GOING}'
                AND batch.state = '{BatchState.WAITING}' AND batch.due_at <= :now
                AND run.next_batch_at <= :now AND {_LET_THROUGH}
            ORDER BY batch.retry_of IS NULL, batch.due_at, batch.run_id, batch.number LIMIT 1
            FOR NO KEY UPDATE OF batch, run SKIP LOCKED""",
        {"pools": list(pools), "now": now},
    )
    return rows[0] if rows else None


def set_next_batch(tx: Transaction, run_id: int, at: datetime) -> None:
    """The run's next batch begins no earlier."""
    change_sql(tx, "UPDATE run SET next_batch_at = :at WHERE id = :run", {"run": run_id, "at": at})


def not_begun(tx: Transaction, batch: ClaimedBatch, now: datetime) -> None:
    """Nothing of a batch went out: the next one need not wait for the gap behind it, if none was claimed since."""
    change_sql(
        tx,
        "UPDATE run SET next_batch_at = :now WHERE id = :run AND next_batch_at = :following AND next_batch_at > :now",
        {"run": batch.run_id, "following": batch.following, "now": now},
    )


def claim_batch(
    tx: Transaction,
    due: Row[Any],
    relay: RelayStanding,
    *,
    worker: str,
    lease_token: str,
    now: datetime,
    lease_until: datetime,
    following: datetime,
) -> ClaimedBatch:
    """Take a batch that `due_batch` has found, for a relay of its pool; the run's next one begins at `following`."""
    set_next_batch(tx, due.run_id, following)
    own = {"run": due.run_id, "number": due.number, "token": lease_token}
    change_sql(
        tx,
        f"""UPDATE batch SET state = '{BatchState.CLAIMED}', lease_token = :token, lease_until = :until, worker = :worker,
                relay_id = :relay, started_at = coalesce(started_at, :now)
            WHERE run_id = :run AND number = :number AND state IN ({before_sql(BATCH, BatchEvent.CLAIM)})""",
        {**own, "now": now, "until": lease_until, "worker": worker, "relay": relay.id},
    )
    claimed = run_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.CLAIMED}', lease_token = :token
            WHERE run_id = :run AND batch_number = :number AND state IN ({before_sql(DELIVERY, DeliveryEvent.CLAIM)}) RETURNING id""",
        own,
    )
    ids = tuple(sorted(row.id for row in claimed))
    return ClaimedBatch(
        run_id=due.run_id,
        number=due.number,
        relay_id=relay.id,
        relay_revision=relay.revision,
        lease_token=lease_token,
        delivery_ids=ids,
        following=following,
    )


# Workers listen on this channel besides looking now and then.
WAKE_CHANNEL = "uvarovite_queue"


def wake_workers(tx: Transaction) -> None:
    """Tell every worker, once this transaction commits, that there may be something to do."""
    change_sql(tx, f"NOTIFY {WAKE_CHANNEL}")


def next_due(tx: Transaction, carry_at: Mapping[int, datetime]) -> datetime | None:
    """When the next batch falls due, of all runs that are going, or a first slice is to be judged.

    `carry_at` tells of each pool when it can carry something; of the others nothing falls due.
    """
    rows = run_sql(
        tx,
        f"""SELECT least(
                (SELECT min(greatest(batch.due_at, run.next_batch_at, pool.at))
                    FROM batch JOIN run ON run.id = batch.run_id {_JOIN_POOLS}
                    WHERE batch.state = '{BatchState.WAITING}' AND run.state = '{RunState.GOING}' AND {_LET_THROUGH}),
                (SELECT min(slice_until) FROM run WHERE state = '{RunState.GOING}' AND slice_batches IS NOT NULL)) AS due""",
        _pools_told(carry_at),
    )
    due: datetime | None = rows[0].due
    return due


_JOIN_POOLS = (
    """JOIN unnest(CAST(:pools AS bigint[]), CAST(:at AS timestamptz[])) AS pool(id, at) ON pool.id = run.pool_id"""
)


def _pools_told(carry_at: Mapping[int, datetime]) -> dict[str, Any]:
    return {"pools": list(carry_at), "at": list(carry_at.values())}


def overdue_batches(tx: Transaction, carry_at: Mapping[int, datetime], since: datetime) -> int:
    """How many batches have been due since an instant, may go, and nobody has."""
    rows = run_sql(
        tx,
        f"""SELECT count(*) AS n FROM batch JOIN run ON run.id = batch.run_id {_JOIN_POOLS}
            WHERE batch.state = '{BatchState.WAITING}' AND run.state = '{RunState.GOING}' AND {_LET_THROUGH}
                AND greatest(batch.due_at, run.next_batch_at, pool.at) <= :since""",
        {**_pools_told(carry_at), "since": since},
    )
    return int(rows[0].n)


def going(tx: Transaction, batches: Collection[ClaimedBatch]) -> set[str]:
    """The lease tokens of those batches whose run is going, and whose relay is as it was when they were claimed."""
    rows = run_sql(
        tx,
        f"""SELECT told.token FROM unnest(CAST(:tokens AS text[]), CAST(:runs AS bigint[]), CAST(:relays AS bigint[]),
                CAST(:revisions AS integer[])) AS told(token, run_id, relay_id, revision)
            JOIN run ON run.id = told.run_id AND run.state = '{RunState.GOING}'
            JOIN relay ON relay.id = told.relay_id AND relay.revision = told.revision""",
        {
            "tokens": [one.lease_token for one in batches],
            "runs": [one.run_id for one in batches],
            "relays": [one.relay_id for one in batches],
            "revisions": [one.relay_revision for one in batches],
        },
    )
    return {row.token for row in rows}


def renew_lease(tx: Transaction, batch: ClaimedBatch, until: datetime) -> Row[Any]:
    """Keep a batch; (pace, released_at, zone) of its run, as they are now, and `slow`: the domains that told its relay to
    slow down, with the second since 1970 until when. Raises LeaseLost.
    """
    rows = run_sql(
        tx,
        f"""UPDATE batch SET lease_until = :until FROM run
            WHERE run.id = batch.run_id AND run_id = :run AND batch.number = :number AND lease_token = :token
                AND batch.state IN ({before_sql(BATCH, BatchEvent.GIVE_BACK)})
            RETURNING run.pace, run.released_at, (SELECT time_zone FROM organisation) AS zone,
                (SELECT coalesce(jsonb_object_agg(domain, extract(epoch FROM slow.until)), '{{}}') FROM slow_domain AS slow
                    WHERE slow.relay_id = batch.relay_id) AS slow""",
        {"until": until, "run": batch.run_id, "number": batch.number, "token": batch.lease_token},
    )
    if not rows:
        raise LeaseLost
    return rows[0]


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
                SELECT contact.id, {gate} AS gate, {reason} AS reason, tracking_wish.wish
                FROM delivery AS contact JOIN run ON run.id = contact.run_id AND run.state = '{RunState.GOING}'
                JOIN topic ON topic.id = run.topic_id
                {joins_sql("contact", contact_id="contact.contact_id", topic_id="run.topic_id")}
                LEFT JOIN tracking_wish ON tracking_wish.contact_id = contact.contact_id
                WHERE contact.id = ANY(:ids))
            UPDATE delivery SET state = CASE WHEN gate IS NULL THEN '{DeliveryState.SENDING}' ELSE '{DeliveryState.HELD}' END,
                held_gate = gate, held_reason = reason, marked_at = :now, wish = looked.wish,
                attempts = attempts + CASE WHEN gate IS NULL THEN 1 ELSE 0 END,
                settled_at = CASE WHEN gate IS NULL THEN NULL ELSE :now END
            FROM looked WHERE delivery.id = looked.id AND delivery.lease_token = :token
                AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.MARK)})
            RETURNING delivery.id, state, address, split_part(address_folded, '@', 2) AS domain, record, consent_since, attempts,
                delivery.wish""",
            {"ids": list(delivery_ids), "token": batch.lease_token, "now": now},
        )
    )


def marked_before(tx: Transaction, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> list[Row[Any]]:
    """Those that are marked under this lease: (id, address, domain, record, consent_since, attempts, marked_at, wish)."""
    return list(
        run_sql(
            tx,
            f"""SELECT id, address, split_part(address_folded, '@', 2) AS domain, record, consent_since, attempts, marked_at,
                    wish
                FROM delivery
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

    @property
    def accepted(self) -> bool:
        """Was it taken?"""
        return self.state is DeliveryState.ACCEPTED


def settle(tx: Transaction, batch: ClaimedBatch, settlements: Sequence[Settlement], now: datetime) -> int:
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
        "relay": batch.relay_id,
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
        note_sent(tx, batch.run_id, sent, now, accepted=state is DeliveryState.ACCEPTED)
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


def note_sent(tx: Transaction, run_id: int, sent: Sequence[Row[Any]], at: datetime, *, accepted: bool) -> None:
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
