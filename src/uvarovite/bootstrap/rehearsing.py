"""Playing rehearsals: a worker and a simulated world in a process of their own, with a clock that skips what is waited for.

Nothing else goes faster than it would: a message takes as long as it takes. When nothing is in hand, the clock is wound to
the moment at which the next batch is due.
"""

import asyncio
import itertools
import random
import time
from collections.abc import Callable
from datetime import datetime, timedelta

import structlog

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.queue import DeliveryQueue
from uvarovite.net.smtp import RelayLine
from uvarovite.rehearsal.account import Account
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.rehearsal.server import Relay, serve_smtp
from uvarovite.rehearsal.world import World
from uvarovite.services.delivery.sending import LEASE
from uvarovite.services.rehearsals.playing import (
    LONGEST,
    BegunRehearsal,
    Ending,
    begin_rehearsal,
    end_rehearsal,
    given_up,
    hear_of_rehearsal,
    left_in,
)
from uvarovite.settings import Settings
from uvarovite.store.database import Database, DatabaseLost
from uvarovite.workers.delivery import DeliveryWorker

log = structlog.get_logger()

# The same people are unknown in every rehearsal, so that two can be compared.
_SEED = 8040
_HOST = "127.0.0.1"
_TELL_SECONDS = 1.0
# A batch that was given up on is found when its lease has run out; so often, and then something is wrong.
_MOST_LOST = 3


class WoundClock:
    """A clock that is set to an instant, goes on as time does, and can be wound on."""

    def __init__(self, shows: datetime, monotonic: Callable[[], float] = time.monotonic) -> None:
        self._monotonic = monotonic
        self.set(shows)

    def __call__(self) -> datetime:
        """The time on it."""
        return self._shows + timedelta(seconds=self._monotonic() - self._since)

    def set(self, shows: datetime) -> None:
        """It shows this now."""
        self._shows = shows
        self._since = self._monotonic()

    def wind(self, by: timedelta) -> None:
        """Skip so much."""
        self._shows += by


class _WoundQueue(DeliveryQueue):
    """A queue whose clock is wound when nothing is in hand and nothing due; `over` is told when nothing comes any more."""

    def __init__(
        self, settings: Settings, begun: BegunRehearsal, clock: WoundClock, over: Callable[[Ending | None, str], None]
    ) -> None:
        super().__init__(settings, begun.there, clock, rehearsed=True)
        self._begun = begun
        self._wound = clock
        self._over = over
        self._lost = 0
        self.is_idle: Callable[[], bool] = lambda: False

    def next_due(self) -> timedelta | None:
        """How long it is until the next batch is due: no time at all, where it could be skipped."""
        due = super().next_due()
        if not self.is_idle():
            return due
        if due is None:
            return self._find_lost()
        if self._wound() + due > self._begun.starts_at + LONGEST:
            self._over(Ending.STILL_WAITING, "")
            return None
        if trouble := given_up(self._begun, self._wound()):
            self._over(Ending.NOT_GETTING_ON, trouble)
            return None
        self._wound.wind(max(due, timedelta()))
        return timedelta()

    def _find_lost(self) -> timedelta | None:
        if not left_in(self._begun):
            self._over(None, "")
            return None
        self._lost += 1
        if self._lost > _MOST_LOST:
            self._over(Ending.GIVEN_UP, "")
            return None
        self._wound.wind(LEASE + timedelta(seconds=1))
        self.recover()
        return timedelta()


def play_rehearsal(settings: Settings, database: Database, rehearsal_id: int) -> None:
    """Play one that was asked for, to its end, or until it is thrown away. Nothing, where somebody else plays it."""
    try:
        asyncio.run(_play(settings, database, rehearsal_id))
    except BaseException as fault:
        if not hear_of_rehearsal(database, rehearsal_id, now=system_clock()):
            # Somebody threw it away: its tables went, and with them what was being done.
            log.info("a rehearsal was thrown away", rehearsal=rehearsal_id)
            return
        ending = Ending.STOPPED if isinstance(fault, KeyboardInterrupt | SystemExit) else Ending.FAULT
        end_rehearsal(database, rehearsal_id, ending, now=system_clock())
        raise


async def _play(settings: Settings, database: Database, rehearsal_id: int) -> None:
    clock = WoundClock(system_clock())
    world, numbers = World(seed=_SEED), itertools.count(1)
    # What the world takes is counted, and kept nowhere: a million messages are gigabytes.
    relay = Relay(world, Account(), {}, lambda sender, recipient, raw: next(numbers), lambda: clock().timestamp())
    server = await serve_smtp(_HOST, 0, relay)
    try:
        begun = await asyncio.to_thread(
            begin_rehearsal,
            database,
            rehearsal_id,
            relay_port=server.sockets[0].getsockname()[1],
            public_url=settings.base_url(),
            keyring=settings.keyring(rehearsed=True),
            now=system_clock(),
        )
        if begun is None:
            return
        world.scenario = SCENARIOS[begun.scenario]
        clock.set(begun.starts_at)
        ending, said = await _send(settings, database, begun, clock)
        await asyncio.to_thread(_tell, database, begun, clock)
        await asyncio.to_thread(end_rehearsal, database, rehearsal_id, ending, said, now=system_clock())
    finally:
        server.close()


async def _send(
    settings: Settings, database: Database, begun: BegunRehearsal, clock: WoundClock
) -> tuple[Ending | None, str]:
    """Send a rehearsal's run; why it came to no end, if so."""
    loop, told = asyncio.get_running_loop(), list[tuple[Ending | None, str]]()

    def over(ending: Ending | None, said: str) -> None:
        told.append((ending, said))
        loop.call_soon_threadsafe(worker.stop.set)

    queue = _WoundQueue(settings, begun, clock, over)
    # Whoever gets no permit at once gives its batch back: what it waits for is skipped.
    worker = DeliveryWorker(
        queue, RelayLine, asyncio.sleep, random.Random(_SEED), most_in_hand=settings.most_in_hand, patience_seconds=0
    )
    queue.is_idle = lambda: worker.is_idle

    async def tell() -> None:
        while await asyncio.to_thread(_tell, database, begun, clock):
            await asyncio.sleep(_TELL_SECONDS)
        worker.stop.set()

    async with asyncio.TaskGroup() as tasks:
        telling = tasks.create_task(tell())
        await worker.run()
        telling.cancel()
    return told[0] if told else (None, "")


def _tell(database: Database, begun: BegunRehearsal, clock: WoundClock) -> bool:
    """Say how far it is; False when it is not wanted any more."""
    try:
        return hear_of_rehearsal(database, begun.id, its_time=clock(), now=system_clock())
    except DatabaseLost:
        return True
