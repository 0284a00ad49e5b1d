"""The worker: it delivers, with a housekeeper beside it."""

import asyncio
import os
import random
import signal
import socket
from collections.abc import Collection, Sequence
from datetime import timedelta

import uvloop

from uvarovite.bootstrap.clocks import Clock, recorded_at, system_clock
from uvarovite.bootstrap.database import open_database
from uvarovite.bootstrap.health import serve_health
from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.sources import pull_tools
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.core.responses import derive_keyring
from uvarovite.net.names import NameLookUp
from uvarovite.net.smtp import RelayLine
from uvarovite.services.accounts.signing_in import purge_sign_ins
from uvarovite.services.campaigns.planned import release_due
from uvarovite.services.campaigns.printing import let_go_of_letters
from uvarovite.services.contacts.retention import let_go_of_deleted
from uvarovite.services.contacts.verification import check_domains
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit, load_run_kit
from uvarovite.services.delivery.sending import LEASE, ClaimedBatch, MarkedGroup, Sent
from uvarovite.services.delivery.watching import fold_run_counts
from uvarovite.services.saving.once import purge_keys
from uvarovite.services.sources.jobs import pull_before_run, pull_due
from uvarovite.settings import Settings
from uvarovite.store.contacts.indexes import tend_indexes
from uvarovite.store.database import Database, DatabaseLost
from uvarovite.store.delivery.waking import Waker
from uvarovite.workers.delivery import DeliveryWorker
from uvarovite.workers.housekeeper import Chore, Housekeeper


class DeliveryQueue:
    """The queue of services.delivery.sending, in a database. A clock other than the system's tells its own instants."""

    unavailable: type[Exception] = DatabaseLost

    def __init__(self, settings: Settings, database: Database, clock: Clock = system_clock) -> None:
        self._database = database
        self._clock = clock
        self._sealing = settings.sealing()
        self._keyring = derive_keyring(settings.secret())
        self._worker = f"{socket.gethostname()}:{os.getpid()}"

    def claim(self, lease_token: str, but_relays: Collection[int]) -> ClaimedBatch | None:
        """The batch that is due first."""
        now = recorded_at(self._clock)
        return sending.claim(
            self._database, worker=self._worker, lease_token=lease_token, but_relays=but_relays, now=now
        )

    def next_due(self) -> timedelta | None:
        """How long it is until the next one is due."""
        return sending.next_due(self._database, recorded_at(self._clock))

    def load_kit(self, batch: ClaimedBatch) -> RunKit:
        """What a run's messages are made with, and the relay that carries a batch of it. Raises NotFound."""
        return load_run_kit(self._database, batch.run_id, batch.relay_id, keyring=self._keyring, secret=self._sealing)

    def advance(self, batch: ClaimedBatch, kit: RunKit, sent: Sequence[Sent], wanted: Sequence[int]) -> MarkedGroup:
        """Write answers and mark others. Raises LeaseLost."""
        return sending.advance(self._database, batch, kit, sent, wanted, recorded_at(self._clock))

    def pick_up(self, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> tuple[MarkedDelivery, ...]:
        """Whoever was marked without our hearing of it."""
        return sending.pick_up(self._database, batch, delivery_ids)

    def going(self, batches: Collection[ClaimedBatch]) -> set[str]:
        """The lease tokens of those batches that may go on."""
        return sending.going(self._database, batches)

    def give_back(self, batch: ClaimedBatch, wait: timedelta | None) -> None:
        """Finish with a batch. Raises LeaseLost."""
        sending.give_back(self._database, batch, wait=wait, now=recorded_at(self._clock))

    def rest_relay(self, relay_id: int, trouble: RelayTrouble) -> None:
        """Leave a relay alone for a while."""
        sending.rest_relay(self._database, relay_id, trouble, recorded_at(self._clock))

    def relay_is_full(self, relay_id: int, wait: timedelta) -> None:
        """Claim nothing for a relay that has no room."""
        sending.relay_is_full(self._database, relay_id, wait, recorded_at(self._clock))

    def recover(self) -> int:
        """Take back what dead workers held."""
        return sending.recover(self._database, recorded_at(self._clock))


# A worker that hangs, or is cut off, in the middle of a step holds locks that all others wait for: PostgreSQL takes them
# away long before its lease runs out.
_QUEUE_SETTINGS = (f"idle_in_transaction_session_timeout={LEASE.total_seconds() / 3:.0f}s",)
_QUEUE_CONNECTIONS = 8


def open_queue(settings: Settings) -> Database:
    """The database for a delivery worker's short steps."""
    return Database(settings.database(), connections=_QUEUE_CONNECTIONS, settings=_QUEUE_SETTINGS)


def build_worker(settings: Settings, database: Database, clock: Clock = system_clock) -> tuple[DeliveryWorker, Waker]:
    """A delivery worker, and what wakes it."""
    waker = Waker(settings.database())
    queue = DeliveryQueue(settings, database, clock)
    return DeliveryWorker(queue, RelayLine, waker.wait, random.Random(), most_in_hand=settings.most_in_hand), waker


# How often a housekeeper looks whether there is something to do. A release that is planned for ten goes within two
# seconds of ten; a source's hour may be met a quarter of a minute late; asking which domains are new takes half a second
# among a million contacts.
_RELEASES_SECONDS, _SOURCES_SECONDS, _INDEX_SECONDS, _COUNTS_SECONDS = 2.0, 15.0, 15.0, 20.0
_DOMAINS_SECONDS, _RETENTION_SECONDS = 60.0, 3_600.0


def build_housekeeper(settings: Settings, database: Database, clock: Clock = system_clock) -> Housekeeper:
    """A housekeeper with its chores."""
    tools, look_up = pull_tools(settings, clock), NameLookUp(settings.name_server)

    async def pull() -> int:
        return int(await asyncio.to_thread(pull_due, database, tools))

    async def ask() -> int:
        return await check_domains(database, look_up, clock)

    async def let_go() -> int:
        return await asyncio.to_thread(let_go_of_deleted, database, clock())

    async def release() -> int:
        return await asyncio.to_thread(
            release_due,
            database,
            prepare=lambda: pull_before_run(database, tools),
            public_url=settings.base_url(),
            keyring=derive_keyring(settings.secret()),
            now=clock(),
        )

    async def tend() -> int:
        return len(await asyncio.to_thread(tend_indexes, database, clock()))

    async def fold() -> int:
        return await asyncio.to_thread(fold_run_counts, database)

    async def purge() -> int:
        await asyncio.to_thread(purge_sign_ins, database, clock())
        await asyncio.to_thread(purge_keys, database, clock())
        return await asyncio.to_thread(let_go_of_letters, database, clock())

    return Housekeeper(
        [
            Chore(name="release what is due", rest_seconds=_RELEASES_SECONDS, do=release),
            Chore(name="pull live sources", rest_seconds=_SOURCES_SECONDS, do=pull),
            Chore(name="ask name servers", rest_seconds=_DOMAINS_SECONDS, do=ask),
            Chore(name="tend indexes for sorting", rest_seconds=_INDEX_SECONDS, do=tend),
            Chore(name="add up the counts of runs", rest_seconds=_COUNTS_SECONDS, do=fold),
            Chore(name="let go of what was deleted", rest_seconds=_RETENTION_SECONDS, do=let_go),
            Chore(name="purge what has ended", rest_seconds=_RETENTION_SECONDS, do=purge),
        ]
    )


async def _until_stopped(worker: DeliveryWorker, waker: Waker, housekeeper: Housekeeper) -> None:
    def stop() -> None:
        worker.stop.set()
        housekeeper.stop.set()

    loop = asyncio.get_running_loop()
    for sign in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(sign, stop)
    async with asyncio.TaskGroup() as tasks:
        listening = tasks.create_task(waker.listen())
        async with asyncio.TaskGroup() as work:
            work.create_task(worker.run())
            work.create_task(housekeeper.run())
        listening.cancel()


def run_worker(settings: Settings) -> None:
    """Send until told to stop; the group in hand is finished first."""
    set_up_logs("worker")
    database = open_database(settings, migrate=False)
    serve_health(settings, database)
    queue = open_queue(settings)
    uvloop.run(_until_stopped(*build_worker(settings, queue), build_housekeeper(settings, database)))
    queue.close()
    database.close()
