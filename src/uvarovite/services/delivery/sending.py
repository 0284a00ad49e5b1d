"""What a worker does with the queue, each step a transaction. All instants are the database's own, unless told others."""

import contextlib
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from uvarovite.core.campaigns import DAY_SECONDS, PACE_FORM, Pace, begin_of_day, reader_zone
from uvarovite.core.consent import ConsentEvidence, SuppressionReason
from uvarovite.core.delivery import AnswerKind, DeliveryState, next_attempt
from uvarovite.core.delivery.answers import Answer, Meaning, as_kept
from uvarovite.core.delivery.outcomes import Broken, NotMade, Outcome, Told, Unknowable
from uvarovite.core.delivery.relay_pools import Doing, carry_at, doings
from uvarovite.core.delivery.slowing import SLOWED_BY
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.core.messages import Composer
from uvarovite.services.delivery.braking import brake_if_needed, judge_slices
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit, marked_delivery
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import domains, giving_back, links, permits, queue, relays
from uvarovite.store.delivery.queue import ClaimedBatch, LeaseLost, Settlement

__all__ = ["ClaimedBatch", "LeaseLost"]

# A window that does not open any more within years.
NEVER = datetime(9000, 1, 1, tzinfo=UTC)
# A worker renews its lease with every group; a stalled one is given up after this.
LEASE = timedelta(seconds=30)


def claim(
    database: Database,
    *,
    worker: str,
    lease_token: str,
    but_relays: Collection[int] = (),
    now: datetime | None = None,
) -> ClaimedBatch | None:
    """Claim the batch that is due first, if any, for a relay of its pool that is none of some. First slices that are over
    are judged.
    """
    with database.transaction() as tx:
        now = instant(tx, now)
        judge_slices(tx, now)
        standings = relays.standings(tx)
        told = doings(standings, now)
        ready = [one for one in standings if told[one.id] is Doing.CARRIES and one.id not in but_relays]
        while due := queue.due_batch(tx, now, {one.pool_id for one in ready}):
            pace = PACE_FORM.read(due.pace)
            hours = pace.batch_hours(ZoneInfo(due.zone))
            if not hours.is_open(now):
                queue.set_next_batch(tx, due.run_id, hours.next_open(now) or NEVER)
                continue
            relay = relays.with_most_left(tx, [one for one in ready if one.pool_id == due.pool_id], now)
            return queue.claim_batch(
                tx,
                due,
                relay,
                worker=worker,
                lease_token=lease_token,
                now=now,
                lease_until=now + LEASE,
                following=hours.next_open(now + timedelta(seconds=pace.gap_seconds)) or NEVER,
            )
        return None


def next_due(database: Database, now: datetime | None = None) -> timedelta | None:
    """How long it is until the next batch falls due; not above zero where one is due."""
    with database.transaction() as tx:
        now = instant(tx, now)
        due = queue.next_due(tx, carry_at(relays.standings(tx), now))
        return due - now if due else None


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkedGroup:
    """What may go out now.

    `left` are those of the asked-for deliveries that there is no permit for now; `wait` says how long it is until one can be
    had, if that is known; `relay_full` for how long the relay itself has no room. The others are marked, held by a gate, or
    put off for the limit of their domain.
    """

    marked: tuple[MarkedDelivery, ...] = ()
    left: tuple[int, ...] = ()
    wait: timedelta | None = None
    relay_full: timedelta | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sent:
    """What became of one marked delivery. `counts`: a break is an attempt all the same, since it broke time after time."""

    delivery: MarkedDelivery
    outcome: Outcome
    digest: str = ""
    jitter: float = 0.0
    counts: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _Terms:
    """What holds for a run at this moment: its pace may change while it goes."""

    pace: Pace
    released_at: datetime
    zone: ZoneInfo
    # Domains that told the relay to slow down, also those that may be tried again by now.
    slow: Mapping[str, datetime]

    def slow_at(self, now: datetime) -> dict[str, datetime]:
        """Where nothing goes for now, and until when."""
        return {domain: until for domain, until in self.slow.items() if until > now}


def advance(
    database: Database,
    batch: ClaimedBatch,
    kit: RunKit,
    sent: Sequence[Sent],
    wanted: Sequence[int],
    now: datetime | None = None,
) -> MarkedGroup:
    """Write what became of some deliveries, and mark others: permits, the last look, the mark. Raises LeaseLost.

    Both in one transaction, so that a group costs one commit; in two where the run has to be locked, for its brake or to cut
    batches of those who are put off. Called again with the same `sent`, it changes nothing of them.
    """
    with database.transaction() as tx:
        at = instant(tx, now)
        terms = _renewed(tx, batch, at)
        settlements = _settle(tx, batch, kit, terms, sent, at) if sent else []
        asks_brake = terms.pace.brake is not None and any(one.kind in _REFUSALS for one in settlements)
        puts_off = (
            terms.pace.domain_limits
            or terms.pace.zone_field
            or terms.slow
            or any(one.meaning in SLOWED_BY for one in settlements)
        )
        if not asks_brake and not (wanted and puts_off):
            return _mark(tx, batch, kit, terms, wanted, at) if wanted else MarkedGroup()
    # Whoever stops a run locks it before its deliveries, and so does this.
    with database.transaction() as tx:
        campaign_store.lock_run(tx, kit.run_id)
        at = instant(tx, now)
        terms = _renewed(tx, batch, at)
        if asks_brake:
            brake_if_needed(tx, kit.run_id, terms.pace, at)
        return _mark(tx, batch, kit, terms, wanted, at) if wanted else MarkedGroup()


def _renewed(tx: Transaction, batch: ClaimedBatch, now: datetime) -> _Terms:
    row = queue.renew_lease(tx, batch, now + LEASE)
    return _Terms(
        pace=PACE_FORM.read(row.pace),
        released_at=row.released_at,
        zone=ZoneInfo(row.zone),
        slow={domain: datetime.fromtimestamp(float(until), UTC) for domain, until in row.slow.items()},
    )


def _settle(
    tx: Transaction, batch: ClaimedBatch, kit: RunKit, terms: _Terms, sent: Sequence[Sent], now: datetime
) -> list[Settlement]:
    settlements = [settlement_of(one, now, kit.retry_delays_seconds) for one in sent]
    written = queue.settle(tx, batch, settlements, now)
    if written == len(settlements):
        limited = {one.domain for one in terms.pace.domain_limits}
        told = list(zip(sent, settlements, strict=True))
        broken = [one.delivery for one, settled in told if settled.state is DeliveryState.CLAIMED]
        went_out = [one.delivery for one, settled in told if settled.state is not DeliveryState.CLAIMED]
        permits.close_permits(
            tx,
            batch.lease_token,
            went_out=kit.numbers(went_out, limited),
            broken=kit.numbers(broken, limited),
            now=now,
        )
    if any(one.code for one in settlements):
        relays.relay_is_well(tx, kit.relay_id)
    if terms.slow:
        taken = {one.delivery.domain for one, settled in zip(sent, settlements, strict=True) if settled.accepted}
        domains.forget_slow(tx, kit.relay_id, taken & terms.slow.keys(), now)
    slow = {one.delivery.domain for one, settled in zip(sent, settlements, strict=True) if settled.meaning in SLOWED_BY}
    domains.note_slow(tx, kit.relay_id, slow, now)
    for one, settlement in zip(sent, settlements, strict=True):
        if settlement.kind == AnswerKind.REFUSED_ADDRESS:
            evidence = ConsentEvidence(answer=f"{settlement.code} {settlement.text}", delivery=one.delivery.id)
            folded = queue.folded_address(tx, one.delivery.id)
            suppress(tx, reason=SuppressionReason.HARD_BOUNCE, evidence=evidence, at=now, address_folded=folded)
    return settlements


_REFUSALS = (AnswerKind.REFUSED_ADDRESS, AnswerKind.REFUSED_SENDER)


def _mark(
    tx: Transaction,
    batch: ClaimedBatch,
    kit: RunKit,
    terms: _Terms,
    wanted: Sequence[int],
    now: datetime,
) -> MarkedGroup:
    pace, zone = terms.pace, terms.zone
    hours = pace.batch_hours(zone)
    if not hours.is_open(now):
        return MarkedGroup(left=tuple(wanted), wait=(hours.next_open(now) or NEVER) - now)
    if pace.ramp_up:
        most = pace.limits_on(pace.hours(zone).sending_day(terms.released_at, now))[DAY_SECONDS]
        permits.raise_limit(tx, permits.run_scope(kit.run_id), DAY_SECONDS, most)
    able = _where_it_is_open(tx, batch, pace, zone, wanted, now)
    fitting = _fitting(tx, batch, kit, pace, _where_it_is_not_slow(tx, batch, terms, able, now), now)
    granted, later = permits.room_for(tx, kit.scopes, len(fitting), now) if fitting else (0, None)
    left = tuple(fitting[granted:])
    if not granted:
        if later and pace.ramp_up:
            # On the next day there is room for more.
            tomorrow = now.astimezone(zone).date() + timedelta(days=1)
            later = min(later, begin_of_day(tomorrow, zone))
        _, full = permits.room_for(tx, [permits.relay_scope(kit.relay_id)], 1, now)
        return MarkedGroup(left=left, wait=later - now if later else None, relay_full=full - now if full else None)
    rows = queue.mark_sending(tx, batch, fitting[:granted], now)
    marked = tuple(
        marked_delivery(row, now) for row in sorted(rows, key=lambda row: row.id) if row.state == DeliveryState.SENDING
    )
    if marked:
        links.keep_own_addresses(tx, _own_addresses(kit.composer, marked))
        limited = {one.domain for one in pace.domain_limits}
        permits.open_permits(tx, kit.numbers(marked, limited), batch.lease_token)
    return MarkedGroup(marked=marked, left=left)


def _where_it_is_open(
    tx: Transaction, batch: ClaimedBatch, pace: Pace, home: ZoneInfo, wanted: Sequence[int], now: datetime
) -> Sequence[int]:
    """Those of the wanted to whom something may go now by their own clock; the others are put off until it may."""
    if pace.zone_field is None:
        return wanted
    there: dict[ZoneInfo, list[int]] = {}
    for row in domains.zones_of(tx, wanted, pace.zone_field):
        there.setdefault(reader_zone(row.zone, home), []).append(row.id)
    later: dict[datetime, list[int]] = {}
    for zone, some in there.items():
        hours = pace.hours(zone)
        if not hours.is_open(now):
            later.setdefault(hours.next_open(now) or NEVER, []).extend(some)
    for due, some in sorted(later.items()):
        domains.put_off(tx, batch, some, due, Meaning.READERS_CLOCK, most=pace.batch_size)
    gone = {one for some in later.values() for one in some}
    return [one for one in wanted if one not in gone]


def _where_it_is_not_slow(
    tx: Transaction, batch: ClaimedBatch, terms: _Terms, wanted: Sequence[int], now: datetime
) -> Sequence[int]:
    """Those of the wanted whose domain did not tell us to slow down; the others are put off until it may be tried again."""
    slow = terms.slow_at(now)
    if not slow:
        return wanted
    there: dict[str, list[int]] = {}
    for row in domains.to_domains(tx, wanted, slow):
        there.setdefault(row.domain, []).append(row.id)
    for domain, some in sorted(there.items()):
        domains.put_off(tx, batch, some, slow[domain], Meaning.DOMAIN_SLOW)
    gone = {one for some in there.values() for one in some}
    return [one for one in wanted if one not in gone]


def _fitting(
    tx: Transaction, batch: ClaimedBatch, kit: RunKit, pace: Pace, wanted: Sequence[int], now: datetime
) -> list[int]:
    """Those of the wanted whose domain has room; the others are put off, each to when its turn will be."""
    if not pace.domain_limits:
        return list(wanted)
    found: dict[str, list[Any]] = {}
    for row in domains.to_domains(tx, wanted, [one.domain for one in pace.domain_limits]):
        found.setdefault(row.domain, []).append(row)
    put_off: dict[int, datetime] = {}
    for domain in sorted(found):
        scope = permits.domain_scope(kit.run_id, domain)
        granted, later = permits.room_for(tx, [scope], len(found[domain]), now)
        rest = found[domain][granted:]
        # Whoever had a turn and found it taken waits for the next that is free; the others get one of those not given yet.
        put_off |= {row.id: later or now + LEASE for row in rest if row.was_put_off}
        new = [row.id for row in rest if not row.was_put_off]
        if new:
            put_off |= zip(new, permits.book(tx, scope, len(new), later or now + LEASE), strict=True)
    for due in sorted(set(put_off.values())):
        domains.put_off(tx, batch, [one for one, at in put_off.items() if at == due], due, Meaning.DOMAIN_LIMIT)
    return [one for one in wanted if one not in put_off]


def pick_up(database: Database, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> tuple[MarkedDelivery, ...]:
    """Those of some deliveries that are marked under this lease: the worker did not hear whether its mark was written."""
    with database.transaction() as tx:
        return tuple(marked_delivery(row, row.marked_at) for row in queue.marked_before(tx, batch, delivery_ids))


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


def going(database: Database, batches: Collection[ClaimedBatch]) -> set[str]:
    """The lease tokens of those batches whose run nobody has paused or stopped, and whose relay nobody has changed."""
    with database.transaction() as tx:
        return queue.going(tx, batches)


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
        giving_back.close_batch(tx, batch, now=now, again_at=now + wait if wait else now)


def rest_relay(database: Database, relay_id: int, trouble: RelayTrouble, now: datetime | None = None) -> None:
    """Leave a relay alone for a while, and say why."""
    with database.transaction() as tx:
        relays.rest_relay(tx, relay_id, trouble, instant(tx, now))


def relay_is_full(database: Database, relay_id: int, wait: timedelta, now: datetime | None = None) -> None:
    """A relay's limits are used up for so long: what is due goes through others of its pool, or waits."""
    with database.transaction() as tx:
        relays.relay_is_full(tx, relay_id, instant(tx, now) + wait)


def recover(database: Database, now: datetime | None = None) -> int:
    """Take back what dead workers held; how many deliveries became unknown by that."""
    with database.transaction() as tx:
        now = instant(tx, now)
        unknown = giving_back.recover_expired(tx, now)
        permits.forget_old_counts(tx, now)
        return unknown
