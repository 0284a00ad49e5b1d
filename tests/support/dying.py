"""A worker that kills itself, as SIGKILL does it, at a chosen step of the road."""

import asyncio
import os
import random
import signal
from collections.abc import Callable, Collection, Sequence
from datetime import timedelta
from enum import StrEnum

from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.queue import DeliveryQueue, open_queue
from uvarovite.core.delivery.outcomes import Outcome
from uvarovite.net.smtp import RelayLine
from uvarovite.services.delivery.kits import RunKit
from uvarovite.services.delivery.sending import ClaimedBatch, MarkedGroup, Sent
from uvarovite.settings import load_settings
from uvarovite.store.delivery.waking import Waker
from uvarovite.workers.delivery import DeliveryWorker


class Fault(StrEnum):
    """Where it dies: after this has happened, or BEFORE_… it."""

    CLAIMED = "claimed"
    KIT_LOADED = "kit_loaded"
    MARKED = "marked"
    HANDED_OVER = "handed_over"
    ANSWERED = "answered"
    BEFORE_WRITING = "before_writing"
    WRITTEN = "written"
    BEFORE_GIVING_BACK = "before_giving_back"
    GIVEN_BACK = "given_back"
    RECOVERED = "recovered"


class _Death:
    """Comes the `passes`th time that somebody passes the fault."""

    def __init__(self, fault: Fault, passes: int) -> None:
        self._fault, self._left = fault, passes

    def passing(self, fault: Fault) -> None:
        if fault is self._fault:
            self._left -= 1
            if self._left <= 0:
                os.kill(os.getpid(), signal.SIGKILL)


class _DyingQueue(DeliveryQueue):
    death: _Death

    def claim(self, lease_token: str, but_relays: Collection[int]) -> ClaimedBatch | None:
        batch = super().claim(lease_token, but_relays)
        if batch is not None:
            self.death.passing(Fault.CLAIMED)
        return batch

    def load_kit(self, batch: ClaimedBatch) -> RunKit:
        kit = super().load_kit(batch)
        self.death.passing(Fault.KIT_LOADED)
        return kit

    def advance(self, batch: ClaimedBatch, kit: RunKit, sent: Sequence[Sent], wanted: Sequence[int]) -> MarkedGroup:
        if sent:
            self.death.passing(Fault.BEFORE_WRITING)
        group = super().advance(batch, kit, sent, wanted)
        if sent:
            self.death.passing(Fault.WRITTEN)
        if group.marked:
            self.death.passing(Fault.MARKED)
        return group

    def give_back(self, batch: ClaimedBatch, wait: timedelta | None) -> None:
        self.death.passing(Fault.BEFORE_GIVING_BACK)
        super().give_back(batch, wait)
        self.death.passing(Fault.GIVEN_BACK)

    def recover(self) -> int:
        lost = super().recover()
        self.death.passing(Fault.RECOVERED)
        return lost


class _DyingLine(RelayLine):
    death: _Death

    def hand_over(self, sender: str, recipient: str, raw: bytes, then: Callable[[Outcome], None]) -> None:
        def answered(outcome: Outcome) -> None:
            self.death.passing(Fault.ANSWERED)
            then(outcome)

        super().hand_over(sender, recipient, raw, answered)
        self.death.passing(Fault.HANDED_OVER)


def run_dying_worker(fault: str, passes: int) -> None:
    """Send until it dies at a fault, passed so many times."""
    set_up_logs("worker")
    settings = load_settings()
    database = open_queue(settings)
    death = _Death(Fault(fault), passes)
    _DyingQueue.death = _DyingLine.death = death
    waker = Waker(settings.database())
    worker = DeliveryWorker(
        _DyingQueue(settings, database),
        _DyingLine,
        waker.wait,
        random.Random(passes),
        most_in_hand=settings.most_in_hand,
    )
    asyncio.run(worker.run())
