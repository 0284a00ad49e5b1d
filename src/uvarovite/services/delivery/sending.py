"""What a worker does with the queue, each step a transaction. All instants are the database's own, unless told others."""

import contextlib
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from uvarovite.core.campaigns import Pace
from uvarovite.core.consent import ConsentEvidence, SuppressionReason
from uvarovite.core.delivery import AnswerKind, DeliveryState, next_attempt
from uvarovite.core.delivery.answers import Answer, Meaning, as_kept
from uvarovite.core.delivery.outcomes import Broken, NotMade, Outcome, Told, Unknowable
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.core.messages import Composer
from uvarovite.core.responses import Keyring, TokenWriter, return_address
from uvarovite.core.values import wire_form
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.organisation.relays import RelayAccess, relay_access
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import links, permits, queue, relays
from uvarovite.store.delivery.queue import ClaimedBatch, LeaseLost, Settlement
from uvarovite.store.tables import MessageVersion, Relay, Run

__all__ = ["ClaimedBatch", "LeaseLost", "MarkedDelivery", "RunKit"]

# A worker renews its lease with every group; a stalled one is given up after this.
LEASE = timedelta(seconds=30)


@dataclass(frozen=True, slots=True, kw_only=True)
class RunKit:
    """What a worker needs of a run, loaded once. `relay` is None where its `trouble` is that it cannot even be tried."""

    run_id: int
    composer: Composer
    relay_id: int
    relay: RelayAccess | None
    trouble: RelayTrouble | None
    from_address: str
    envelope_domain: str | None
    tokens: TokenWriter
    pace: Pace
    retry_delays_seconds: tuple[int, ...]

    def envelope_sender(self, delivery_id: int) -> str:
        """Where the message of a delivery comes back to, when it cannot be delivered."""
        if self.envelope_domain is None:
            return wire_form(self.from_address)
        return return_address(self.tokens, delivery_id, self.envelope_domain)

    @property
    def scopes(self) -> tuple[str, ...]:
        """What limits may be about that hold for each of its messages."""
        return permits.relay_scope(self.relay_id), permits.run_scope(self.run_id)


def load_run_kit(database: Database, run_id: int, *, keyring: Keyring, secret: bytes) -> RunKit:
    """Compile a run's message and read its relay. Raises NotFound."""
    with database.transaction() as tx:
        run = tx.get(Run, run_id)
        version = tx.get(MessageVersion, run.message_version_id) if run else None
        relay = tx.get(Relay, run.relay_id) if run else None
        if run is None or version is None or relay is None:
            raise NotFound("run")
        composer = composer_of(tx, run, keyring, press=press_of(database))
        trouble, access = None, None
        try:
            access = relay_access(relay, secret)
        except SecretLost as fault:
            trouble = fault.trouble
        return RunKit(
            run_id=run_id,
            composer=composer,
            relay_id=run.relay_id,
            relay=access,
            trouble=trouble,
            from_address=composer.letterhead.from_address,
            envelope_domain=relay.envelope_domain,
            tokens=TokenWriter(keyring),
            pace=run.pace,
            retry_delays_seconds=tuple(relay.retry_delays_seconds),
        )


def claim(
    database: Database,
    *,
    worker: str,
    lease_token: str,
    but_relays: Collection[int] = (),
    now: datetime | None = None,
) -> ClaimedBatch | None:
    """Claim the batch that is due first, if any, and is for none of some relays."""
    with database.transaction() as tx:
        now = instant(tx, now)
        until = now + LEASE
        return queue.claim_batch(
            tx, worker=worker, lease_token=lease_token, now=now, lease_until=until, but_relays=but_relays
        )


def next_due(database: Database, now: datetime | None = None) -> timedelta | None:
    """How long it is until the next batch falls due; not above zero where one is due."""
    with database.transaction() as tx:
        due = queue.next_due(tx)
        return due - instant(tx, now) if due else None


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
    """What may go out now. With nothing permitted, `wait` says how long it is until a permit can be had, if that is known.

    `permitted` is how many of the asked-for deliveries were looked at; those that a gate holds are among them.
    """

    marked: tuple[MarkedDelivery, ...] = ()
    permitted: int = 0
    wait: timedelta | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sent:
    """What became of one marked delivery. `counts`: a break is an attempt all the same, since it broke time after time."""

    delivery: MarkedDelivery
    outcome: Outcome
    digest: str = ""
    jitter: float = 0.0
    counts: bool = False


def advance(
    database: Database,
    batch: ClaimedBatch,
    kit: RunKit,
    sent: Sequence[Sent],
    wanted: Sequence[int],
    now: datetime | None = None,
) -> MarkedGroup:
    """Write what became of some deliveries, and mark others: permits, the last look, the mark. Raises LeaseLost.

    Both in one transaction, so that a group costs one commit. Called again with the same `sent`, it changes nothing of them.
    """
    with database.transaction() as tx:
        now = instant(tx, now)
        queue.renew_lease(tx, batch, now + LEASE)
        if sent:
            _settle(tx, batch, kit, sent, now)
        return _mark(tx, batch, kit, wanted, now) if wanted else MarkedGroup()


def _settle(tx: Transaction, batch: ClaimedBatch, kit: RunKit, sent: Sequence[Sent], now: datetime) -> None:
    settlements = [settlement_of(one, now, kit.retry_delays_seconds) for one in sent]
    written = queue.settle(tx, batch, kit.relay_id, settlements, now)
    if written == len(settlements):
        broken = sum(one.state is DeliveryState.CLAIMED for one in settlements)
        went_out = len(settlements) - broken
        permits.close_permits(tx, kit.scopes, batch.lease_token, went_out=went_out, broken=broken, now=now)
    if any(one.code for one in settlements):
        relays.relay_is_well(tx, kit.relay_id)
    for one, settlement in zip(sent, settlements, strict=True):
        if settlement.kind == AnswerKind.REFUSED_ADDRESS:
            evidence = ConsentEvidence(answer=f"{settlement.code} {settlement.text}", delivery=one.delivery.id)
            folded = queue.folded_address(tx, one.delivery.id)
            suppress(tx, reason=SuppressionReason.HARD_BOUNCE, evidence=evidence, at=now, address_folded=folded)


def _mark(tx: Transaction, batch: ClaimedBatch, kit: RunKit, wanted: Sequence[int], now: datetime) -> MarkedGroup:
    granted, later = permits.room_for(tx, kit.scopes, len(wanted), now)
    if not granted:
        return MarkedGroup(wait=later - now if later else None)
    rows = queue.mark_sending(tx, batch, wanted[:granted], now)
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
    if marked:
        links.keep_own_addresses(tx, _own_addresses(kit.composer, marked))
        permits.open_permits(tx, kit.scopes, batch.lease_token, len(marked))
    return MarkedGroup(marked=marked, permitted=granted)


def pick_up(database: Database, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> tuple[MarkedDelivery, ...]:
    """Those of some deliveries that are marked under this lease: the worker did not hear whether its mark was written."""
    with database.transaction() as tx:
        return tuple(
            MarkedDelivery(
                id=row.id,
                address=row.address,
                record=row.record,
                consent_since=row.consent_since,
                attempt=row.attempts,
                marked_at=row.marked_at,
            )
            for row in queue.marked_before(tx, batch, delivery_ids)
        )


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


def going(database: Database, run_ids: Collection[int]) -> set[int]:
    """Those of some runs that nobody has paused or stopped."""
    with database.transaction() as tx:
        return queue.going(tx, run_ids)


def settlement_of(sent: Sent, now: datetime, delays_seconds: Sequence[int]) -> Settlement:
    """The state that follows from what became of a message."""
    next_at: datetime | None = None
    match sent.outcome:
        case Unknowable():
            answer = _own_words(AnswerKind.CONNECTION, Meaning.BROKE_AFTER, "")
            state = DeliveryState.UNKNOWN
        case NotMade(words):
            answer = _own_words(AnswerKind.REFUSED_SENDER, Meaning.NOT_MADE, words)
            state = DeliveryState.REFUSED
        case Broken(answer) if not sent.counts:
            state = DeliveryState.CLAIMED
        case Told(answer) if answer.kind is AnswerKind.ACCEPTED:
            state = DeliveryState.ACCEPTED
        case Told(answer) if answer.kind not in (AnswerKind.TRY_LATER, AnswerKind.CONNECTION):
            state = DeliveryState.REFUSED
        case Told(answer) | Broken(answer):
            next_at = next_attempt(sent.delivery.attempt, now, sent.jitter, delays_seconds)
            state = DeliveryState.DEFERRED if next_at else DeliveryState.REFUSED
    return Settlement(
        delivery_id=sent.delivery.id,
        state=state,
        attempt=sent.delivery.attempt,
        code=answer.code,
        enhanced=answer.enhanced,
        text=answer.text,
        kind=answer.kind,
        meaning=answer.meaning,
        next_at=next_at,
        digest=sent.digest,
    )


def _own_words(kind: AnswerKind, meaning: Meaning, words: str) -> Answer:
    return Answer(kind=kind, code=0, enhanced=None, text=as_kept(words), meaning=meaning)


def give_back(
    database: Database, batch: ClaimedBatch, *, wait: timedelta | None = None, now: datetime | None = None
) -> None:
    """Finish with a batch: what was not sent is due again after `wait`, at once where none is given. Raises LeaseLost."""
    with database.transaction() as tx:
        campaign_store.lock_run(tx, batch.run_id)
        now = instant(tx, now)
        permits.end_lease(tx, batch.lease_token, now)
        queue.close_batch(tx, batch, now=now, again_at=now + wait if wait else now)


def rest_relay(database: Database, relay_id: int, trouble: RelayTrouble, now: datetime | None = None) -> None:
    """Leave a relay alone for a while, and say why."""
    with database.transaction() as tx:
        relays.rest_relay(tx, relay_id, trouble, instant(tx, now))


def recover(database: Database, now: datetime | None = None) -> int:
    """Take back what dead workers held; how many deliveries became unknown by that."""
    with database.transaction() as tx:
        now = instant(tx, now)
        unknown = queue.recover_expired(tx, now)
        permits.forget_old_counts(tx, now)
        return unknown
