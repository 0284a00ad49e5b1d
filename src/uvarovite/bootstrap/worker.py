"""The worker: it delivers, with a housekeeper beside it."""

import asyncio
import random
import signal

import uvloop

from uvarovite.bootstrap.clocks import Clock, system_clock
from uvarovite.bootstrap.database import open_database
from uvarovite.bootstrap.health import serve_health
from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.queue import DeliveryQueue, open_queue
from uvarovite.bootstrap.rehearsers import Rehearser
from uvarovite.bootstrap.single_mails import ask_next, forward_next
from uvarovite.bootstrap.sources import pull_tools
from uvarovite.net.names import NameLookUp
from uvarovite.net.smtp import RelayLine
from uvarovite.services.accounts.signing_in import purge_sign_ins
from uvarovite.services.campaigns.planned import release_due
from uvarovite.services.campaigns.printing import let_go_of_letters
from uvarovite.services.contacts.retention import let_go_of_deleted
from uvarovite.services.contacts.verification import check_domains
from uvarovite.services.delivery.watching import fold_run_counts
from uvarovite.services.rehearsals.asking import let_go_of_rehearsals
from uvarovite.services.responses.inbound import act_on_next, let_go_of_raw
from uvarovite.services.responses.signing_up import let_go_of_sign_ups
from uvarovite.services.saving.once import purge_keys
from uvarovite.services.sources.jobs import pull_before_run, pull_due
from uvarovite.settings import Settings
from uvarovite.store.contacts.indexes import tend_indexes
from uvarovite.store.database import Database
from uvarovite.store.delivery.waking import Waker
from uvarovite.workers.delivery import DeliveryWorker
from uvarovite.workers.housekeeper import Chore, Housekeeper


def build_worker(settings: Settings, database: Database, clock: Clock = system_clock) -> tuple[DeliveryWorker, Waker]:
    """A delivery worker, and what wakes it."""
    waker = Waker(settings.database())
    queue = DeliveryQueue(settings, database, clock)
    return DeliveryWorker(queue, RelayLine, waker.wait, random.Random(), most_in_hand=settings.most_in_hand), waker


# How often a housekeeper looks whether there is something to do. A release that is planned for ten goes within two
# seconds of ten; a source's hour may be met a quarter of a minute late; asking which domains are new takes half a second
# among a million contacts.
_RELEASES_SECONDS, _SOURCES_SECONDS, _INDEX_SECONDS, _COUNTS_SECONDS = 2.0, 15.0, 15.0, 20.0
_REHEARSALS_SECONDS = 1.0
_INBOUND_SECONDS = 2.0
_DOMAINS_SECONDS, _RETENTION_SECONDS = 60.0, 3_600.0


def build_housekeeper(
    settings: Settings, database: Database, rehearser: Rehearser, clock: Clock = system_clock
) -> Housekeeper:
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
            keyring=settings.keyring(),
            now=clock(),
        )

    async def tend() -> int:
        return len(await asyncio.to_thread(tend_indexes, database, clock()))

    async def fold() -> int:
        return await asyncio.to_thread(fold_run_counts, database)

    async def act() -> int:
        return await asyncio.to_thread(act_on_next, database, keyring=settings.keyring(), now=clock())

    async def forward() -> int:
        return await forward_next(database, settings.sealing(), clock)

    async def ask_who_signed_up() -> int:
        keyring, public_url = settings.keyring(), settings.base_url()
        return await ask_next(database, settings.sealing(), keyring, public_url, clock)

    async def purge() -> int:
        await asyncio.to_thread(let_go_of_raw, database, clock())
        await asyncio.to_thread(let_go_of_sign_ups, database, clock())
        await asyncio.to_thread(purge_sign_ins, database, clock())
        await asyncio.to_thread(purge_keys, database, clock())
        await asyncio.to_thread(let_go_of_rehearsals, database, clock())
        return await asyncio.to_thread(let_go_of_letters, database, clock())

    return Housekeeper(
        [
            Chore(name="release what is due", rest_seconds=_RELEASES_SECONDS, do=release),
            Chore(name="act on mail that came in", rest_seconds=_INBOUND_SECONDS, do=act),
            Chore(name="forward replies", rest_seconds=_INBOUND_SECONDS, do=forward),
            Chore(name="ask who signed up", rest_seconds=_INBOUND_SECONDS, do=ask_who_signed_up),
            Chore(name="begin rehearsals", rest_seconds=_REHEARSALS_SECONDS, do=rehearser.look),
            Chore(name="pull live sources", rest_seconds=_SOURCES_SECONDS, do=pull),
            Chore(name="ask name servers", rest_seconds=_DOMAINS_SECONDS, do=ask),
            Chore(name="tend indexes for sorting", rest_seconds=_INDEX_SECONDS, do=tend),
            Chore(name="add up the counts of runs", rest_seconds=_COUNTS_SECONDS, do=fold),
            Chore(name="let go of what was deleted", rest_seconds=_RETENTION_SECONDS, do=let_go),
            Chore(name="purge what has ended", rest_seconds=_RETENTION_SECONDS, do=purge),
        ]
    )


async def _until_stopped(worker: DeliveryWorker, waker: Waker, housekeeper: Housekeeper, rehearser: Rehearser) -> None:
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
        await rehearser.stop()
        listening.cancel()


def run_worker(settings: Settings) -> None:
    """Send until told to stop; the group in hand is finished first."""
    set_up_logs("worker")
    database = open_database(settings, migrate=False)
    serve_health(settings, database)
    queue = open_queue(settings)
    rehearser = Rehearser(database)
    housekeeper = build_housekeeper(settings, database, rehearser)
    uvloop.run(_until_stopped(*build_worker(settings, queue), housekeeper, rehearser))
    queue.close()
    database.close()
