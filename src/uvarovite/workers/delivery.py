"""Delivery: claims batches, sends them, and gives them back.

Any number of these run at once, on any number of machines; they share nothing but the database. What holds for each:
nothing is sent that was not marked; everything marked is settled, or becomes unknown when the lease runs out; a relay that
cannot be reached costs nobody an attempt. Several batches are in hand at once, and none of their people waits for another:
while some are sent, others are marked and others' answers written, a group of each in one transaction.
"""

import asyncio
import random
import secrets
import time
from collections import Counter, deque
from collections.abc import Awaitable, Callable, Collection, Sequence
from contextlib import suppress
from datetime import timedelta
from typing import Protocol

import structlog
from prometheus_client import Counter as Metric

from uvarovite.core.delivery.answers import Meaning, no_answer
from uvarovite.core.delivery.outcomes import Broken, Outcome, Told, Unknowable
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit
from uvarovite.services.delivery.sending import LEASE, ClaimedBatch, LeaseLost, MarkedGroup, Sent
from uvarovite.services.organisation.relays import RelayAccess
from uvarovite.workers.carrier import Carrier, Line, Parcel

log = structlog.get_logger()

_DELIVERIES = Metric("uvarovite_deliveries_total", "Deliveries that were settled, by what the relay said", ["answer"])

# So many batches at once, and of one relay.
MOST_JOBS, MOST_JOBS_A_RELAY = 4, 2
# How long a worker waits before it looks without having been woken.
POLL_SECONDS = 1.0
# Answers are written at the latest so long after they came.
SETTLE_SECONDS = 0.2
# Without a hint, when to look again for a permit that another worker holds open.
PERMIT_SECONDS = 0.25
# Whoever gets no permit for longer than this gives the batch back.
PATIENCE_SECONDS = 5.0
# When to look again at a batch whose messages could not be compiled.
_NOT_BEGUN = timedelta(minutes=1)
# One whose line breaks so often is given up for now: it may be their message that breaks it.
MOST_BREAKS = 3


class Queue(Protocol):
    """The queue as a worker sees it; services.delivery.sending with a database is one."""

    unavailable: type[Exception]

    def claim(self, lease_token: str, but_relays: Collection[int]) -> ClaimedBatch | None: ...
    def next_due(self) -> timedelta | None: ...
    def load_kit(self, batch: ClaimedBatch) -> RunKit: ...
    def advance(self, batch: ClaimedBatch, kit: RunKit, sent: Sequence[Sent], wanted: Sequence[int]) -> MarkedGroup: ...
    def pick_up(self, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> tuple[MarkedDelivery, ...]: ...
    def going(self, batches: Collection[ClaimedBatch]) -> set[str]: ...
    def give_back(self, batch: ClaimedBatch, wait: timedelta | None) -> None: ...
    def rest_relay(self, relay_id: int, trouble: RelayTrouble) -> None: ...
    def relay_is_full(self, relay_id: int, wait: timedelta) -> None: ...
    def recover(self) -> int: ...


def _awake() -> float:
    """Seconds that pass while this machine is asleep, too."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


class _Job:
    """A batch in hand. `changed` wakes whoever works on it."""

    def __init__(self, batch: ClaimedBatch, kit: RunKit, carrier: Carrier, rng: random.Random, group: int) -> None:
        self._random = rng
        self._group = group
        self.batch = batch
        self.kit = kit
        self.carrier = carrier
        self.pending: deque[int] = deque(batch.delivery_ids)
        self.sent: list[Sent] = []
        self.in_hand = 0
        # So many are just being marked: another batch must not take their room meanwhile.
        self.reserved = 0
        self._breaks: Counter[int] = Counter()
        self.is_going = True
        self.is_late = False
        self.no_permit_until = 0.0
        self.relay_full_until = 0.0
        self.changed = asyncio.Event()
        self.renewed()

    def renewed(self, at: float | None = None) -> None:
        """The lease was renewed by a step that began at an instant of `_awake`."""
        self._lease_until = (_awake() if at is None else at) + LEASE.total_seconds()

    @property
    def holds_lease(self) -> bool:
        """May what it marked go out?"""
        return _awake() < self._lease_until

    @property
    def under_way(self) -> int:
        """How many are marked and have no answer yet."""
        return self.in_hand - len(self.sent)

    def told(self, parcel: Parcel, outcome: Outcome) -> None:
        """An answer to one of its messages, or what stands for one."""
        number = parcel.delivery.id
        counts = False
        if isinstance(outcome, Broken) and outcome.answer.meaning is not Meaning.UNREACHABLE:
            self._breaks[number] += 1
            counts = self._breaks[number] >= MOST_BREAKS
        if not self.sent:
            asyncio.get_running_loop().call_later(SETTLE_SECONDS, self._grow_late)
        jitter = self._random.random()
        self.sent.append(
            Sent(delivery=parcel.delivery, outcome=outcome, digest=parcel.digest, jitter=jitter, counts=counts)
        )
        if len(self.sent) >= self._group or not self.under_way:
            self.changed.set()

    def withdraw(self) -> None:
        """Send nothing more than what the lines have."""
        self.pending.clear()
        for parcel in self.carrier.take_back(self):
            self.told(parcel, Broken(no_answer(Meaning.UNREACHABLE, "not sent")))

    def _grow_late(self) -> None:
        self.is_late = bool(self.sent)
        self.changed.set()


class DeliveryWorker:
    """`run` works until `stop` is set; then it finishes what the relays have in hand, gives its batches back and returns.

    At most `most_in_hand` deliveries are between mark and answer: the bound of what can become unknown. Whoever gets no
    permit for longer than `patience_seconds` gives its batch back.
    """

    def __init__(
        self,
        queue: Queue,
        connect: Callable[[RelayAccess], Line],
        wait: Callable[[float], Awaitable[None]],
        rng: random.Random,
        *,
        most_in_hand: int,
        patience_seconds: float = PATIENCE_SECONDS,
    ) -> None:
        self.stop = asyncio.Event()
        self._queue = queue
        self._connect = connect
        self._wait = wait
        self._random = rng
        self._most = most_in_hand
        self._patience = patience_seconds
        self._group = max(1, most_in_hand // 2)
        self._kits: dict[tuple[int, int, int], RunKit] = {}
        self._carriers: dict[tuple[int, int], Carrier] = {}
        self._jobs: set[_Job] = set()
        self._ended = asyncio.Event()

    @property
    def is_idle(self) -> bool:
        """Is no batch in hand?"""
        return not self._jobs

    @property
    def _in_hand(self) -> int:
        return sum(job.in_hand + job.reserved for job in self._jobs)

    async def run(self) -> None:
        """Claim and send until stopped."""
        async with asyncio.TaskGroup() as tasks:
            house = tasks.create_task(self._keep_house())
            while not self.stop.is_set():
                try:
                    await self._turn(tasks)
                except self._queue.unavailable as fault:
                    # Without the database nothing can be marked, so nothing goes out; leases take care of the rest.
                    log.warning("the database does not answer", fault=str(fault))
                    await self._pause(POLL_SECONDS)
            self._wake()
            while self._jobs:
                await self._ended.wait()
                self._ended.clear()
            house.cancel()
        for carrier in self._carriers.values():
            await carrier.close()

    # Claiming

    async def _turn(self, tasks: asyncio.TaskGroup) -> None:
        seconds = POLL_SECONDS
        while len(self._jobs) < MOST_JOBS and not self.stop.is_set():
            busy = Counter(job.batch.relay_id for job in self._jobs)
            full = [relay for relay, jobs in busy.items() if jobs >= MOST_JOBS_A_RELAY]
            batch = await asyncio.to_thread(self._queue.claim, secrets.token_hex(16), full)
            if batch is None:
                due = None if full else await asyncio.to_thread(self._queue.next_due)
                seconds = POLL_SECONDS if due is None else min(POLL_SECONDS, max(due.total_seconds(), 0.02))
                break
            try:
                job = await self._begin(batch)
            except self._queue.unavailable:
                raise
            except Exception:
                # A run whose messages cannot be made takes no other run along: it is looked at again in a while.
                log.exception("a batch could not be begun", run=batch.run_id, batch=batch.number)
                await asyncio.to_thread(self._queue.give_back, batch, _NOT_BEGUN)
                continue
            if job is not None:
                self._jobs.add(job)
                tasks.create_task(self._work(job))
        await self._pause(seconds)
        await self._look_at_runs()

    async def _begin(self, batch: ClaimedBatch) -> _Job | None:
        kit = await self._kit(batch)
        place = (batch.relay_id, batch.relay_revision)
        if kit.relay is None:
            if kit.trouble is not None:
                await asyncio.to_thread(self._queue.rest_relay, batch.relay_id, kit.trouble)
            await asyncio.to_thread(self._queue.give_back, batch, None)
            return None
        carrier = self._carriers.setdefault(place, Carrier(kit.relay, self._connect))
        # It is claimed only when the relay has rested enough: it is tried again.
        carrier.trouble = None
        return _Job(batch, kit, carrier, self._random, self._group)

    async def _kit(self, batch: ClaimedBatch) -> RunKit:
        place = (batch.run_id, batch.relay_id, batch.relay_revision)
        kit = self._kits.get(place)
        if kit is None:
            kit = await asyncio.to_thread(self._queue.load_kit, batch)
        # A few runs are under way at a time; older ones are loaded again when they come back.
        self._kits = {**dict(list(self._kits.items())[-7:]), place: kit}
        return kit

    async def _pause(self, seconds: float) -> None:
        """Until something falls due, somebody wakes us, or there is room for another batch."""
        waits = [asyncio.ensure_future(self._wait(seconds)), asyncio.ensure_future(self.stop.wait())]
        waits.append(asyncio.ensure_future(self._ended.wait()))
        _, rest = await asyncio.wait(waits, return_when=asyncio.FIRST_COMPLETED)
        self._ended.clear()
        for task in rest:
            task.cancel()

    async def _look_at_runs(self) -> None:
        """Has somebody paused or stopped what we are sending, or changed what we send through?"""
        if not self._jobs:
            return
        going = await asyncio.to_thread(self._queue.going, [job.batch for job in self._jobs])
        for job in self._jobs:
            if job.batch.lease_token not in going:
                job.is_going = False
                job.changed.set()

    async def _keep_house(self) -> None:
        """Take back what dead workers held, a third of a lease being soon enough, and close lines that idle."""
        while True:
            try:
                lost = await asyncio.to_thread(self._queue.recover)
                if lost:
                    log.warning("deliveries became unknown", count=lost)
            except self._queue.unavailable:
                log.warning("the database does not answer")
            except Exception:
                log.exception("what dead workers held could not be taken back")
            for place, carrier in [*self._carriers.items()]:
                carrier.sweep()
                if carrier.is_idle and not any(job.carrier is carrier for job in self._jobs):
                    del self._carriers[place]
            await asyncio.sleep(LEASE.total_seconds() / 3)

    def _wake(self) -> None:
        for job in self._jobs:
            job.changed.set()

    # One batch

    async def _work(self, job: _Job) -> None:
        try:
            wait = await self._send(job)
            if job.carrier.trouble is not None:
                await self._again(self._queue.rest_relay, job.batch.relay_id, job.carrier.trouble)
            await self._again(self._queue.give_back, job.batch, wait)
        except LeaseLost:
            log.warning("lease lost", run=job.batch.run_id, batch=job.batch.number)
        except Exception:
            # What was marked becomes unknown when the lease runs out; the others go on.
            log.exception("a batch could not be worked on", run=job.batch.run_id, batch=job.batch.number)
        finally:
            self._jobs.discard(job)
            job.is_going = False
            job.carrier.take_back(job)
            self._ended.set()
            self._wake()

    async def _again(self, call: Callable[..., object], *told: object) -> None:
        """Do something that can be done twice, until the database answers."""
        while True:
            try:
                await asyncio.to_thread(call, *told)
                return
            except self._queue.unavailable as fault:
                log.warning("the database does not answer", fault=str(fault))
                await asyncio.sleep(POLL_SECONDS)

    async def _send(self, job: _Job) -> timedelta | None:
        """Send a batch to its end, or as far as it can be; how long whoever is left has to wait, if that is known."""
        loop = asyncio.get_running_loop()
        renew_at = loop.time() + LEASE.total_seconds() / 3
        while True:
            if self.stop.is_set() or not job.is_going or job.carrier.trouble is not None:
                job.withdraw()
            waiting = job.no_permit_until - loop.time()
            if waiting > self._patience and not job.in_hand:
                if job.relay_full_until - loop.time() < waiting - 1:
                    return timedelta(seconds=waiting)
                # It need not wait where another relay of the pool has room.
                await self._again(self._queue.relay_is_full, job.batch.relay_id, timedelta(seconds=waiting))
                return None
            room = self._most - self._in_hand + len(job.sent)
            wanted = min(len(job.pending), self._group, room) if waiting <= 0 else 0
            must_mark = wanted >= min(len(job.pending), self._group) > 0
            must_write = bool(job.sent) and (len(job.sent) >= self._group or job.is_late or not job.under_way)
            if must_mark or must_write or loop.time() >= renew_at:
                await self._step(job, [job.pending.popleft() for _ in range(max(wanted, 0))])
                renew_at = loop.time() + LEASE.total_seconds() / 3
                continue
            if not job.pending and not job.in_hand:
                return None
            sleep = renew_at - loop.time() if waiting <= 0 else min(waiting, renew_at - loop.time())
            with suppress(TimeoutError):
                await asyncio.wait_for(job.changed.wait(), max(sleep, 0.0))
            job.changed.clear()

    async def _step(self, job: _Job, wanted: list[int]) -> None:
        """Write the answers that have come, and mark the next group."""
        sent, job.sent, job.is_late, began = job.sent, [], False, _awake()
        job.reserved = len(wanted)
        group = await self._advance(job, sent, wanted)
        job.renewed(began)
        job.reserved = 0
        job.in_hand -= len(sent)
        for one in sent:
            _DELIVERIES.labels(_said(one.outcome)).inc()
            if isinstance(one.outcome, Broken) and not one.counts:
                job.pending.append(one.delivery.id)
        job.pending.extendleft(reversed(group.left))
        if wanted and len(group.left) == len(wanted):
            seconds = group.wait.total_seconds() if group.wait else PERMIT_SECONDS
            now = asyncio.get_running_loop().time()
            job.no_permit_until = now + max(seconds, 0.01)
            job.relay_full_until = now + group.relay_full.total_seconds() if group.relay_full else 0.0
        job.in_hand += len(group.marked)
        parcels = [Parcel(job, job.kit, delivery) for delivery in group.marked]
        if job.kit.is_slow:
            await asyncio.to_thread(_make, parcels)
        job.carrier.put(parcels)
        self._wake()

    async def _advance(self, job: _Job, sent: list[Sent], wanted: list[int]) -> MarkedGroup:
        """One step in the database. Whatever happens to it, what a relay has answered is written while the lease lasts.

        When the connection broke, nobody knows whether the step was written: answers are written again, which changes
        nothing of those that were, and whoever was marked is picked up.
        """
        try:
            return await asyncio.to_thread(self._queue.advance, job.batch, job.kit, sent, wanted)
        except self._queue.unavailable as fault:
            log.warning("the database does not answer", fault=str(fault))
        while True:
            await asyncio.sleep(POLL_SECONDS)
            try:
                await asyncio.to_thread(self._queue.advance, job.batch, job.kit, sent, ())
                marked = await asyncio.to_thread(self._queue.pick_up, job.batch, wanted)
            except self._queue.unavailable as fault:
                log.warning("the database does not answer", fault=str(fault))
                continue
            picked = {one.id for one in marked}
            job.pending.extendleft(one for one in reversed(wanted) if one not in picked)
            return MarkedGroup(marked=marked)


def _make(parcels: list[Parcel]) -> None:
    """Render what takes its time, away from the lines. One that cannot be made is found out when it is handed over."""
    for parcel in parcels:
        with suppress(Exception):
            parcel.make()


def _said(outcome: Outcome) -> str:
    match outcome:
        case Told(answer):
            return str(answer.kind)
        case Unknowable():
            return "unknown"
        case Broken():
            return "broken"
        case _:
            return "not_made"
