"""Delivery: claims batches, sends them group by group, and gives them back.

Any number of these run at once, on any number of machines; they share nothing but the database. What holds for each:
a connection is open before anything is marked, so that an unreachable relay costs nobody an attempt; nothing is sent
that was not marked; everything marked is settled, or becomes unknown when the lease runs out.
"""

import asyncio
import hashlib
import random
import secrets
from collections.abc import Awaitable, Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Protocol

import structlog
from prometheus_client import Counter

from uvarovite.core.delivery import Answer, AnswerKind
from uvarovite.core.delivery.answers import Meaning, as_kept, no_answer
from uvarovite.core.delivery.troubles import RelayTrouble, RelayUnreachable
from uvarovite.core.messages import Composed
from uvarovite.services.delivery.dispatch import (
    LEASE,
    MOST_IN_HAND,
    ClaimedBatch,
    LeaseLost,
    MarkedDelivery,
    MarkedGroup,
    RunKit,
    Told,
)
from uvarovite.services.organisation.relays import RelayAccess
from uvarovite.services.organisation.secrets import SecretLost

log = structlog.get_logger()

_DELIVERIES = Counter("uvarovite_deliveries_total", "Deliveries that were settled, by what the relay said", ["answer"])

# How long an idle worker waits before it looks without having been woken.
POLL_SECONDS = 2.0
# How long a relay that could not be reached is left alone.
RELAY_REST = timedelta(seconds=15)
# Without a hint, when to look again for a permit that another worker holds open.
PERMIT_REST = timedelta(seconds=1)


class Connection(Protocol):
    """One conversation with a relay; net.smtp.RelayConnection is one."""

    @property
    def is_open(self) -> bool: ...
    async def open(self) -> None: ...
    async def close(self) -> None: ...
    async def send(self, from_address: str, to_address: str, raw: bytes) -> Answer | None: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class DeliveryTools:
    """What a delivery worker is put together from; the queue's functions are services.dispatch bound to a database."""

    claim: Callable[[str], ClaimedBatch | None]
    next_due: Callable[[], datetime | None]
    load_kit: Callable[[int], RunKit]
    mark: Callable[[ClaimedBatch, RunKit, Sequence[int]], MarkedGroup]
    settle: Callable[[ClaimedBatch, RunKit, Sequence[Told]], None]
    keep_lease: Callable[[ClaimedBatch], None]
    still_going: Callable[[int], bool]
    give_back: Callable[[ClaimedBatch, datetime | None, RelayTrouble | None], None]
    recover: Callable[[], int]
    connect: Callable[[RelayAccess], Connection]
    unavailable: type[Exception]
    wait: Callable[[float], Awaitable[None]]
    clock: Callable[[], datetime]
    random: random.Random


class DeliveryWorker:
    """`run` works until `stop` is set; then it finishes the group in hand, gives its batch back and returns."""

    def __init__(self, tools: DeliveryTools) -> None:
        self._tools = tools
        self._kits: dict[int, RunKit] = {}
        self.stop = asyncio.Event()

    async def run(self) -> None:
        """Claim and send until stopped."""
        async with asyncio.TaskGroup() as tasks:
            house = tasks.create_task(self._keep_house())
            while not self.stop.is_set():
                try:
                    await self._turn()
                except self._tools.unavailable as fault:
                    # Without the database nothing can be marked, so nothing goes out; leases take care of the rest.
                    log.warning("the database does not answer", fault=str(fault))
                    await self._pause(POLL_SECONDS)
            house.cancel()

    async def _turn(self) -> None:
        batch = await asyncio.to_thread(self._tools.claim, secrets.token_hex(16))
        if batch is None:
            await self._rest()
            return
        try:
            await self._work(batch)
        except LeaseLost:
            log.warning("lease lost", run=batch.run_id, batch=batch.number)

    async def _rest(self) -> None:
        """Wait until something falls due, a release wakes us, or it is time to look again."""
        due = await asyncio.to_thread(self._tools.next_due)
        seconds = POLL_SECONDS
        if due is not None:
            seconds = min(seconds, max((due - self._tools.clock()).total_seconds(), 0.02))
        await self._pause(seconds)

    async def _pause(self, seconds: float) -> None:
        waiting = asyncio.ensure_future(self._tools.wait(seconds))
        stopping = asyncio.ensure_future(self.stop.wait())
        _, rest = await asyncio.wait({waiting, stopping}, return_when=asyncio.FIRST_COMPLETED)
        for task in rest:
            task.cancel()

    async def _keep_house(self) -> None:
        """Take back what dead workers held; a third of a lease is soon enough."""
        while True:
            with suppress(self._tools.unavailable):
                lost = await asyncio.to_thread(self._tools.recover)
                if lost:
                    log.warning("deliveries became unknown", count=lost)
            await asyncio.sleep(LEASE.total_seconds() / 3)

    async def _work(self, batch: ClaimedBatch) -> None:
        try:
            kit = self._kits.get(batch.run_id)
            if kit is None:
                kit = await asyncio.to_thread(self._tools.load_kit, batch.run_id)
        except SecretLost as fault:
            return await self._give_back(batch, self._tools.clock() + RELAY_REST, fault.trouble)
        # A few runs are under way at a time; older ones are loaded again when they come back.
        self._kits = {**dict(list(self._kits.items())[-7:]), batch.run_id: kit}
        lines = [self._tools.connect(kit.relay) for _ in range(max(1, kit.relay.connections))]
        try:
            await lines[0].open()
        except RelayUnreachable as fault:
            # The relay may have been changed in Set-up meanwhile: read it anew next time.
            self._kits.pop(batch.run_id, None)
            return await self._give_back(batch, self._tools.clock() + RELAY_REST, fault.trouble)
        try:
            again_at = await self._send_batch(batch, kit, lines)
            await self._give_back(batch, again_at, None)
        finally:
            await asyncio.gather(*(line.close() for line in lines if line.is_open))

    async def _give_back(self, batch: ClaimedBatch, again_at: datetime | None, trouble: RelayTrouble | None) -> None:
        await asyncio.to_thread(self._tools.give_back, batch, again_at, trouble)

    async def _send_batch(self, batch: ClaimedBatch, kit: RunKit, lines: list[Connection]) -> datetime | None:
        """Send group by group; when the rest may be tried again, None for at once or for nothing left."""
        pending = list(batch.delivery_ids)
        while pending and not self.stop.is_set():
            group = await asyncio.to_thread(self._tools.mark, batch, kit, pending[:MOST_IN_HAND])
            if not group.permitted:
                return group.later or self._tools.clock() + PERMIT_REST
            if group.marked:
                told = await self._send_group(batch, kit, group.marked, lines)
                await asyncio.to_thread(self._tools.settle, batch, kit, told)
                for one in told:
                    _DELIVERIES.labels(one.answer.kind if one.answer else "unknown").inc()
            elif not await asyncio.to_thread(self._tools.still_going, batch.run_id):
                return None
            pending = pending[group.permitted :]
        return None

    async def _send_group(
        self, batch: ClaimedBatch, kit: RunKit, marked: Sequence[MarkedDelivery], lines: list[Connection]
    ) -> list[Told]:
        waiting = list(reversed(marked))
        told: list[Told] = []
        working = min(len(lines), len(marked))

        async def work(line: Connection) -> None:
            nonlocal working
            try:
                await send_waiting(line)
            finally:
                working -= 1

        async def send_waiting(line: Connection) -> None:
            while waiting:
                # The line comes first: whoever is taken for a line that cannot be had would lose an attempt to a relay
                # that takes fewer connections than we would like, while a line that is at work could have sent theirs.
                no_line = await self._open(line)
                if no_line is not None and working > 1:
                    return
                if not waiting:
                    return
                delivery = waiting.pop()
                try:
                    composed = await asyncio.to_thread(_compose, kit, delivery)
                except Exception as fault:
                    # Rendering a checked message never raises; should it all the same, one person's message must not
                    # take the others' worker along, time after time.
                    log.exception("a message could not be made", delivery=delivery.id)
                    told.append(_not_made(delivery, fault, self._tools.random.random()))
                    continue
                answer = no_line or await line.send(kit.from_address, composed.to_address, composed.raw)
                digest = hashlib.sha256(composed.raw).hexdigest()
                told.append(Told(delivery=delivery, answer=answer, digest=digest, jitter=self._tools.random.random()))

        keeper = asyncio.create_task(self._keep_lease(batch))
        try:
            async with asyncio.TaskGroup() as tasks:
                for line in lines[: len(marked)]:
                    tasks.create_task(work(line))
        finally:
            keeper.cancel()
        assert len(told) == len(marked), "every marked delivery is settled"
        return told

    async def _open(self, line: Connection) -> Answer | None:
        """Open a line that is not open; what its next delivery is told when that does not work."""
        if line.is_open:
            return None
        try:
            await line.open()
        except RelayUnreachable as fault:
            return no_answer(Meaning.UNREACHABLE, str(fault))
        return None

    async def _keep_lease(self, batch: ClaimedBatch) -> None:
        """A slow relay must not cost the lease."""
        try:
            with suppress(LeaseLost, self._tools.unavailable):
                while True:
                    await asyncio.sleep(LEASE.total_seconds() / 3)
                    await asyncio.to_thread(self._tools.keep_lease, batch)
        except Exception:
            # What was marked is still settled as long as the lease lasts, and becomes unknown after that.
            log.exception("a lease could not be renewed", run=batch.run_id, batch=batch.number)


def _not_made(delivery: MarkedDelivery, fault: Exception, jitter: float) -> Told:
    answer = Answer(
        kind=AnswerKind.REFUSED_SENDER, code=0, enhanced=None, text=as_kept(repr(fault)), meaning=Meaning.NOT_MADE
    )
    return Told(delivery=delivery, answer=answer, digest="", jitter=jitter)


def _compose(kit: RunKit, delivery: MarkedDelivery) -> Composed:
    return kit.composer.compose(
        delivery_id=delivery.id,
        address=delivery.address,
        record_json=delivery.record,
        consent_since=delivery.consent_since,
        marked_at=delivery.marked_at,
    )
