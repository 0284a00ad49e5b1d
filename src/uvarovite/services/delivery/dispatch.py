"""A run on its way: what a worker does with the queue, each step a transaction, and pause, go on, stop."""

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.campaigns import Pace
from uvarovite.core.consent import ConsentEvidence, SuppressionReason
from uvarovite.core.delivery import RUN, AnswerKind, DeliveryState, RunEvent, RunState, next_attempt
from uvarovite.core.delivery.answers import Answer, Meaning
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.core.messages import Composer
from uvarovite.core.responses import Keyring
from uvarovite.core.values.state_table import IllegalStep
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import Conflict, NotFound
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.organisation.relays import RelayAccess, relay_access
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import Database, instant
from uvarovite.store.delivery import holding, links, permits, queue
from uvarovite.store.delivery.queue import ClaimedBatch, LeaseLost, Outcome
from uvarovite.store.tables import Campaign, MessageVersion, Relay, Run

__all__ = ["ClaimedBatch", "LeaseLost", "MarkedDelivery", "RunKit"]

# A worker renews its lease with every group; a stalled one is given up after this.
LEASE = timedelta(seconds=30)
# At most this many deliveries of a worker are between mark and answer: the bound of what can become unknown.
MOST_IN_HAND = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class RunKit:
    """What a worker needs of a run, loaded once."""

    composer: Composer
    relay_id: int
    relay: RelayAccess
    from_address: str
    pace: Pace
    retry_delays_seconds: tuple[int, ...]


def load_run_kit(database: Database, run_id: int, *, keyring: Keyring, secret: bytes) -> RunKit:
    """Compile a run's message and read its relay. Raises NotFound."""
    with database.transaction() as tx:
        run = tx.get(Run, run_id)
        version = tx.get(MessageVersion, run.message_version_id) if run else None
        relay = tx.get(Relay, run.relay_id) if run else None
        if run is None or version is None or relay is None:
            raise NotFound("run")
        composer = composer_of(tx, run, keyring, press=press_of(database))
        return RunKit(
            composer=composer,
            relay_id=run.relay_id,
            relay=relay_access(relay, secret),
            from_address=composer.letterhead.from_address,
            pace=run.pace,
            retry_delays_seconds=tuple(relay.retry_delays_seconds),
        )


def claim(database: Database, *, worker: str, lease_token: str, now: datetime) -> ClaimedBatch | None:
    """Claim the batch that is due first, if any."""
    with database.transaction() as tx:
        return queue.claim_batch(tx, worker=worker, lease_token=lease_token, now=now, lease_until=now + LEASE)


def next_due(database: Database) -> datetime | None:
    """When the next batch falls due."""
    with database.transaction() as tx:
        return queue.next_due(tx)


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkedDelivery:
    """A delivery that is durably marked as being sent."""

    id: int
    address: str
    record: dict[str, Any]
    consent_since: date | None
    attempt: int
    marked_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkedGroup:
    """What may go out now. With nothing marked, `later` says when a permit can be had, if that is known.

    `permitted` is how many of the asked-for deliveries were looked at; those that a gate holds are among them.
    """

    marked: tuple[MarkedDelivery, ...]
    permitted: int
    later: datetime | None


def mark_group(
    database: Database, batch: ClaimedBatch, kit: RunKit, delivery_ids: Sequence[int], now: datetime | None = None
) -> MarkedGroup:
    """Take permits for a group, look at its people a last time, and mark those who may get it. Raises LeaseLost.

    They are marked at the database's own instant, where `now` tells no other.
    """
    with database.transaction() as tx:
        now = instant(tx, now)
        queue.renew_lease(tx, batch, now + LEASE)
        # The limit is read anew each time, so that a change in Set-up acts at once.
        relay = tx.get(Relay, kit.relay_id)
        granted, later = permits.take_permits(
            tx,
            relay_id=kit.relay_id,
            run_id=batch.run_id,
            lease_token=batch.lease_token,
            wanted=len(delivery_ids),
            relay_limit=relay.hourly_limit if relay else None,
            run_limit=kit.pace.hourly_limit,
            now=now,
        )
        if not granted:
            return MarkedGroup(marked=(), permitted=0, later=later)
        rows = queue.mark_sending(tx, batch, delivery_ids[:granted], now)
        marked = tuple(
            MarkedDelivery(
                id=row.id,
                address=row.address,
                record=row.record,
                consent_since=row.consent_since,
                attempt=row.attempts,
                marked_at=now,
            )
            for row in sorted(rows, key=lambda row: row.id)
            if row.state == DeliveryState.SENDING
        )
        links.keep_own_addresses(tx, _own_addresses(kit.composer, marked))
        permits.trim_permit(tx, batch.lease_token, len(marked))
        if not marked:
            permits.close_permit(tx, batch.lease_token, now)
        return MarkedGroup(marked=marked, permitted=granted, later=None)


def _own_addresses(composer: Composer, marked: Sequence[MarkedDelivery]) -> dict[int, dict[int, str]]:
    """Where the links of marked deliveries lead that hold something of their own, by delivery and number."""
    if all(link.address is not None for link in composer.links):
        return {}
    own = {}
    for delivery in marked:
        # Where that fails, its message cannot be made either: the worker finds it out, says so, and nobody gets it.
        with contextlib.suppress(Exception):
            own[delivery.id] = composer.own_addresses(delivery.record, delivery.marked_at)
    return own


def still_going(database: Database, run_id: int) -> bool:
    """Has nobody paused or stopped the run?"""
    with database.transaction() as tx:
        run = tx.get(Run, run_id)
        return run is not None and run.state == RunState.GOING


def keep_lease(database: Database, batch: ClaimedBatch, now: datetime) -> None:
    """Renew a lease while waiting. Raises LeaseLost."""
    with database.transaction() as tx:
        queue.renew_lease(tx, batch, now + LEASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What a relay answered for one marked delivery; `answer` is None when it can be known by nobody."""

    delivery: MarkedDelivery
    answer: Answer | None
    digest: str
    jitter: float


def outcome_of(told: Told, now: datetime, delays_seconds: Sequence[int]) -> Outcome:
    """The state that follows from an answer."""
    delivery, answer = told.delivery, told.answer
    next_at: datetime | None = None
    if answer is None:
        state = DeliveryState.UNKNOWN
        answer = Answer(kind=AnswerKind.CONNECTION, code=0, enhanced=None, text="", meaning=Meaning.BROKE_AFTER)
    elif answer.kind is AnswerKind.ACCEPTED:
        state = DeliveryState.ACCEPTED
    elif answer.kind in (AnswerKind.TRY_LATER, AnswerKind.CONNECTION):
        next_at = next_attempt(delivery.attempt, now, told.jitter, delays_seconds)
        state = DeliveryState.DEFERRED if next_at else DeliveryState.REFUSED
    else:
        state = DeliveryState.REFUSED
    return Outcome(
        delivery_id=delivery.id,
        state=state,
        attempt=delivery.attempt,
        code=answer.code,
        enhanced=answer.enhanced,
        text=answer.text,
        kind=answer.kind,
        meaning=answer.meaning,
        next_at=next_at,
        digest=told.digest,
    )


def settle_group(
    database: Database, batch: ClaimedBatch, kit: RunKit, told: Sequence[Told], now: datetime | None = None
) -> None:
    """Write a group's answers, close its permit, and suppress addresses that do not exist. Raises LeaseLost."""
    with database.transaction() as tx:
        now = instant(tx, now)
        queue.settle(tx, batch, [outcome_of(one, now, kit.retry_delays_seconds) for one in told], now)
        permits.close_permit(tx, batch.lease_token, now)
        queue.renew_lease(tx, batch, now + LEASE)
        for one in told:
            answer = one.answer
            if answer and answer.kind is AnswerKind.REFUSED_ADDRESS:
                evidence = ConsentEvidence(answer=f"{answer.code} {answer.text}", delivery=one.delivery.id)
                folded = queue.folded_address(tx, one.delivery.id)
                suppress(tx, reason=SuppressionReason.HARD_BOUNCE, evidence=evidence, at=now, address_folded=folded)


def give_back(
    database: Database,
    batch: ClaimedBatch,
    *,
    now: datetime,
    again_at: datetime | None = None,
    trouble: RelayTrouble | None = None,
) -> None:
    """Finish with a batch: what was not sent waits until `again_at` (now, where none is given). `trouble` is shown in the dispatch."""
    with database.transaction() as tx:
        run = campaign_store.lock_run(tx, batch.run_id)
        permits.close_permit(tx, batch.lease_token, now)
        if run is not None and run.trouble != trouble:
            run.trouble = trouble
            tx.add(run)
            tx.flush()
        queue.close_batch(tx, batch, now=now, again_at=again_at or now)


def recover(database: Database, now: datetime) -> int:
    """Take back what dead workers held; how many deliveries became unknown by that."""
    with database.transaction() as tx:
        unknown = queue.recover_expired(tx, now)
        permits.forget_old_permits(tx, now)
        return unknown


def _move_run(database: Database, actor: Actor, run_id: int, event: RunEvent, to: RunState, now: datetime) -> None:
    """Raises NotFound, Conflict; what is so already stays so."""
    with database.transaction() as tx:
        run = campaign_store.lock_run(tx, run_id)
        if run is None:
            raise NotFound("run")
        if run.state == to:
            return
        try:
            run.state = RUN.next(run.state, event)
        except IllegalStep as fault:
            raise Conflict("state", f"The run is {run.state} already.") from fault
        run.paused_at = now if to is RunState.PAUSED else None
        if to is RunState.STOPPED:
            run.ended_at = now
            run.trouble = None
        tx.add(run)
        tx.flush()
        if to is RunState.STOPPED:
            holding.stop_deliveries(tx, run_id, now)
        if to is RunState.GOING:
            queue.end_run_if_done(tx, run_id, now)
        queue.wake_workers(tx)
        campaign = tx.get(Campaign, run.campaign_id)
        audit(tx, actor, _AUDITED[to], run_id, name=campaign.name if campaign else "?")


_AUDITED = {
    RunState.PAUSED: Action.RUN_PAUSED,
    RunState.GOING: Action.RUN_RESUMED,
    RunState.STOPPED: Action.RUN_STOPPED,
}


@needs(Permission.PAUSE)
def pause(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Pause a run: nothing more is marked from now on. Raises NotFound, Conflict."""
    _move_run(database, actor, run_id, RunEvent.PAUSE, RunState.PAUSED, now)


@needs(Permission.RELEASE)
def go_on(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Go on with a paused run. Raises NotFound, Conflict."""
    _move_run(database, actor, run_id, RunEvent.GO_ON, RunState.GOING, now)


@needs(Permission.RELEASE)
def stop(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Stop a run for good: everybody who has not got it will not. Raises NotFound, Conflict."""
    _move_run(database, actor, run_id, RunEvent.STOP, RunState.STOPPED, now)
