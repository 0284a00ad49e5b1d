"""The worker: it delivers, with a housekeeper beside it."""

import asyncio
import os
import random
import signal
import socket

from uvarovite.bootstrap.clocks import Clock, recorded_at, system_clock
from uvarovite.bootstrap.database import open_database
from uvarovite.bootstrap.health import serve_health
from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.sources import pull_tools
from uvarovite.core.responses import derive_keyring
from uvarovite.net.names import NameLookUp
from uvarovite.net.smtp import RelayConnection
from uvarovite.services.accounts.signing_in import purge_sign_ins
from uvarovite.services.campaigns.printing import let_go_of_letters
from uvarovite.services.contacts.retention import let_go_of_deleted
from uvarovite.services.contacts.verification import check_domains
from uvarovite.services.delivery import dispatch
from uvarovite.services.delivery.watching import fold_run_counts
from uvarovite.services.saving.once import purge_keys
from uvarovite.services.sources.jobs import pull_due
from uvarovite.settings import Settings
from uvarovite.store.contacts.indexes import tend_indexes
from uvarovite.store.database import Database, DatabaseLost
from uvarovite.store.delivery.waking import Waker
from uvarovite.workers.delivery import DeliveryTools, DeliveryWorker
from uvarovite.workers.housekeeper import Chore, Housekeeper


def build_worker(settings: Settings, database: Database, clock: Clock = system_clock) -> tuple[DeliveryWorker, Waker]:
    """A delivery worker, and what wakes it."""
    secret, waker = settings.secret(), Waker(settings.database())
    keyring = derive_keyring(secret)
    name = f"{socket.gethostname()}:{os.getpid()}"
    tools = DeliveryTools(
        claim=lambda token: dispatch.claim(database, worker=name, lease_token=token, now=clock()),
        next_due=lambda: dispatch.next_due(database),
        load_kit=lambda run_id: dispatch.load_run_kit(database, run_id, keyring=keyring, secret=secret),
        mark=lambda batch, kit, ids: dispatch.mark_group(database, batch, kit, ids, recorded_at(clock)),
        settle=lambda batch, kit, told: dispatch.settle_group(database, batch, kit, told, recorded_at(clock)),
        keep_lease=lambda batch: dispatch.keep_lease(database, batch, clock()),
        still_going=lambda run_id: dispatch.still_going(database, run_id),
        give_back=lambda batch, again_at, trouble: dispatch.give_back(
            database, batch, now=clock(), again_at=again_at, trouble=trouble
        ),
        recover=lambda: dispatch.recover(database, clock()),
        connect=RelayConnection,
        unavailable=DatabaseLost,
        wait=waker.wait,
        clock=clock,
        random=random.Random(),
    )
    return DeliveryWorker(tools), waker


# How often a housekeeper looks whether there is something to do. A source's hour may be met a quarter of a minute late;
# asking which domains are new takes half a second among a million contacts.
_SOURCES_SECONDS, _INDEX_SECONDS, _COUNTS_SECONDS, _DOMAINS_SECONDS, _RETENTION_SECONDS = (
    15.0,
    15.0,
    20.0,
    60.0,
    3_600.0,
)


def build_housekeeper(settings: Settings, database: Database, clock: Clock = system_clock) -> Housekeeper:
    """A housekeeper with its chores."""
    tools, look_up = pull_tools(settings, clock), NameLookUp(settings.name_server)

    async def pull() -> int:
        return int(await asyncio.to_thread(pull_due, database, tools))

    async def ask() -> int:
        return await check_domains(database, look_up, clock)

    async def let_go() -> int:
        return await asyncio.to_thread(let_go_of_deleted, database, clock())

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
    asyncio.run(_until_stopped(*build_worker(settings, database), build_housekeeper(settings, database)))
    database.close()
