"""The only place where the parts are put together."""

import asyncio
import functools
import os
import random
import signal
import socket
from collections.abc import AsyncIterator, Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import uvicorn
from fastapi import Depends, FastAPI, Request, Response
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles

from uvarovite.api import (
    accounts,
    audiences,
    bulk,
    campaigns,
    contacts,
    drafts,
    duplicates,
    imports,
    messages,
    organisation,
    people,
    setting_up,
    sources,
)
from uvarovite.api import dispatch as dispatch_api
from uvarovite.api.context import ApiContext, SourceDoor
from uvarovite.api.described import describe
from uvarovite.api.guard import Guard, guard_headers
from uvarovite.api.once import OnceEach
from uvarovite.api.problems import add_problem_handlers, problem
from uvarovite.api.unstorable import refuse_unstorable
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourceFault, SourcePreview
from uvarovite.core.delivery import AnswerKind
from uvarovite.core.responses import Keyring, derive_keyring
from uvarovite.net import source_process
from uvarovite.net.names import NameLookUp
from uvarovite.net.smtp import RelayConnection, RelayUnreachable, TryReport, try_relay
from uvarovite.net.source_hosts import SourceRules
from uvarovite.public.routes import PublicDoor, public_router
from uvarovite.rehearsal.acting import People
from uvarovite.rehearsal.inbox import inbox_app
from uvarovite.rehearsal.mailbox import Mailbox
from uvarovite.rehearsal.names import serve_names
from uvarovite.rehearsal.providers import World
from uvarovite.rehearsal.server import Handler, serve_smtp
from uvarovite.services import dispatch, sent_tests
from uvarovite.services.accounts import SignedIn, purge_sign_ins, who_is_it
from uvarovite.services.bounded import BoundedWork
from uvarovite.services.erasures import address_hasher
from uvarovite.services.errors import BadInput, ServiceRefusal
from uvarovite.services.import_files import LARGEST_UPLOAD_BYTES
from uvarovite.services.import_jobs import recover_jobs
from uvarovite.services.once import purge_keys
from uvarovite.services.retention import let_go_of_deleted
from uvarovite.services.sent_tests import PreparedMail
from uvarovite.services.source_jobs import PullTools, pull_due
from uvarovite.services.suppressions import LARGEST_LIST_BYTES
from uvarovite.services.table_mail import log_table, prepare_table
from uvarovite.services.verification import check_domain, check_domains
from uvarovite.settings import Settings
from uvarovite.store import roles
from uvarovite.store.cluster import Cluster as Cluster
from uvarovite.store.cluster import ClusterFault as ClusterFault
from uvarovite.store.cluster import place_for_cluster
from uvarovite.store.database import Database as Database
from uvarovite.store.database import DatabaseBusy, DatabaseLost, RuleBroken, is_taken
from uvarovite.store.database import DatabaseUnreachable as DatabaseUnreachable
from uvarovite.store.schema import upgrade
from uvarovite.store.table_indexes import tend_indexes
from uvarovite.store.waking import Waker
from uvarovite.workers.housekeeper import Chore, Housekeeper
from uvarovite.workers.sender import SenderTools, SenderWorker

Clock = Callable[[], datetime]


def system_clock() -> datetime:
    """The time now, in UTC."""
    return datetime.now(UTC)


def _told(clock: Clock) -> datetime | None:
    """What a clock other than the system's tells; of instants that are recorded, the database's own counts else."""
    return None if clock is system_clock else clock()


def open_database(settings: Settings, *, migrate: bool = True) -> Database:
    """The database with its schema up to date. Raises DatabaseUnreachable."""
    database = Database(settings.database(), reader_url=settings.reader_url.get_secret_value())
    database.check()
    if migrate:
        upgrade(settings.database())
    return database


def prepare_roles(settings: Settings) -> None:
    """Make the roles with the passwords of their URLs, and put what could do harm out of the reader's reach.

    Raises ValueError where a URL is missing or names another role, DatabaseUnreachable.
    """
    roles.prepare(
        keeper_url=settings.keeper_url.get_secret_value(),
        application_url=settings.database(),
        reader_url=settings.reader_url.get_secret_value(),
    )


def private_cluster(directory: Path, port: int) -> Cluster:
    """A PostgreSQL cluster of our own, at `directory` or where its user gets to."""
    return Cluster(place_for_cluster(directory), port)


# ---------------------------------------------------------------- the web server


def build_web(settings: Settings, database: Database, clock: Clock = system_clock) -> FastAPI:
    """The web application: /api, the pages for recipients, and the built front end for everything else."""
    keyring = derive_keyring(settings.secret())
    public = _public_door(settings, keyring, clock)

    @asynccontextmanager
    async def alive(_: FastAPI) -> AsyncIterator[None]:
        yield
        public.database.close()

    app = FastAPI(title="Uvarovite", docs_url=None, redoc_url=None, openapi_url="/api/openapi.json", lifespan=alive)
    describe(app)
    app.state.api = ApiContext(
        database=database,
        keyring=keyring,
        secret=settings.secret(),
        public_url=settings.base_url(),
        inbox_url=settings.inbox_url,
        clock=clock,
        recorded_at=lambda: _told(clock),
        jobs=ThreadPoolExecutor(max_workers=3, thread_name_prefix="job"),
        hash_address=address_hasher(settings.secret()),
        send_test=functools.partial(_send_test, database, settings.secret(), keyring, clock),
        send_table=functools.partial(_send_table, database, settings.secret(), clock),
        try_relay=functools.partial(_try_relay, database, settings.secret()),
        check_domain=functools.partial(check_domain, database, look_up=NameLookUp(settings.name_server), clock=clock),
        sources=SourceDoor(
            tables=functools.partial(_tables_of, source_rules(settings)),
            preview=functools.partial(_preview_source, source_rules(settings)),
            pulling=pull_tools(settings, clock),
        ),
        # Argon2 takes 64 MB for each password that is looked at.
        sign_ins=BoundedWork("sign-in", threads=2, waiting=20),
    )
    over_tls = settings.base_url().startswith("https:")
    add_problem_handlers(
        app,
        unavailable=(DatabaseLost, DatabaseBusy),
        guard=lambda request, answer: guard_headers(answer.headers, path=request.url.path, over_tls=over_tls),
    )

    @app.exception_handler(RuleBroken)
    async def taken(request: Request, fault: RuleBroken) -> Response:
        if not is_taken(fault):
            raise fault
        return problem(
            422, "taken", "This name was taken a moment ago. Choose another, or look at the one that is there."
        )

    for module in (
        accounts,
        audiences,
        bulk,
        campaigns,
        duplicates,
        people,
        contacts,
        imports,
        setting_up,
        sources,
        dispatch_api,
        messages,
        organisation,
        drafts,
    ):
        app.include_router(module.router, dependencies=[Depends(refuse_unstorable)])
    app.include_router(public_router(public))
    _serve_front_end(app, settings.web_dist)

    app.add_middleware(OnceEach, database=database, clock=clock)
    app.add_middleware(
        Guard,
        who=lambda token: who_is_it(database, token=token, now=clock()),
        large=_LARGE,
        over_tls=over_tls,
    )
    return app


# What takes files and pasted cells, with what a form puts around them.
_LARGE = {
    "/api/imports": LARGEST_UPLOAD_BYTES + (1 << 16),
    "/api/imports/cells": 32 << 20,
    "/api/suppressions/file": LARGEST_LIST_BYTES + (1 << 16),
}
_PUBLIC_THREADS = 8


def _public_door(settings: Settings, keyring: Keyring, clock: Clock) -> PublicDoor:
    """Whoever leaves, opens or clicks has connections and threads that nothing else uses, and is not kept waiting."""
    return PublicDoor(
        database=Database(
            settings.database(),
            connections=_PUBLIC_THREADS,
            settings=("statement_timeout=10s", "lock_timeout=8s", "idle_in_transaction_session_timeout=20s"),
            patience_seconds=5,
        ),
        work=BoundedWork("public", threads=_PUBLIC_THREADS, waiting=200),
        keyring=keyring,
        clock=clock,
        recorded_at=lambda: _told(clock),
        lost=(DatabaseLost, DatabaseBusy),
    )


def _serve_front_end(app: FastAPI, dist: Path) -> None:
    if (dist / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=dist / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return problem(404, "not_found", "There is nothing at this address.")
        if (dist / "index.html").is_file():
            return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})
        return problem(503, "no_front_end", "The front end is not built yet: run “make setup”.")


async def _send_test(
    database: Database,
    secret: bytes,
    keyring: Keyring,
    clock: Clock,
    *,
    message_id: int | None,
    user_id: int,
    **asked: Any,
) -> tuple[bool, str]:
    prepared = await asyncio.to_thread(sent_tests.prepare_test, database, keyring=keyring, now=clock(), **asked)
    accepted, words = await _hand_over(prepared, secret, "The test was not sent.")
    told = {key: asked[key] for key in ("content", "contact_id", "to_address")}
    await asyncio.to_thread(
        sent_tests.note_test,
        database,
        message_id=message_id,
        user_id=user_id,
        accepted=accepted,
        now=clock(),
        **told,
    )
    return accepted, words


async def _send_table(
    database: Database, secret: bytes, clock: Clock, *, user: SignedIn, **asked: Any
) -> tuple[bool, str]:
    sent = await asyncio.to_thread(prepare_table, database, user=user, now=clock(), **asked)
    accepted, words = await _hand_over(sent.mail, secret, "Nothing was sent.")
    await asyncio.to_thread(
        log_table, database, sent, accepted=accepted, answer=words, user_id=user.user_id, now=clock()
    )
    return accepted, words


async def _hand_over(mail: PreparedMail, secret: bytes, failed: str) -> tuple[bool, str]:
    """Hand a single message to its relay; (accepted, what the relay said). Raises ServiceRefusal: it was not sent."""
    relay = dispatch.relay_access(mail.relay, secret)
    try:
        async with RelayConnection(relay) as line:
            answer = await line.send(mail.from_address, mail.to_address, mail.raw)
    except RelayUnreachable as fault:
        raise ServiceRefusal("relay", f"{failed} {fault.message}") from fault
    if answer is None:
        return False, "The connection broke before the relay answered; it may have arrived or not."
    said = f"{answer.code} {answer.text}".strip()
    if answer.kind is AnswerKind.ACCEPTED:
        return True, f"Sent to {mail.to_address}. The relay said: {said}"
    return False, f"The relay did not take it ({answer.words}). It said: {said}"


def pull_tools(settings: Settings, clock: Clock = system_clock) -> PullTools:
    """What pulling a live source needs."""
    return PullTools(
        read=functools.partial(source_process.read_source, rules=source_rules(settings)),
        secret=settings.secret(),
        directory=settings.sources_dir,
        hasher=address_hasher(settings.secret()),
        clock=clock,
    )


def source_rules(settings: Settings) -> SourceRules:
    """Which databases may be a live source."""
    allowed = tuple(host.strip() for host in settings.source_hosts.split(",") if host.strip())
    return SourceRules(allowed=allowed, own=settings.database())


def _tables_of(rules: SourceRules, access: SourceAccess) -> list[str]:
    try:
        return source_process.tables_of(access, rules=rules)
    except SourceFault as fault:
        raise BadInput(f"source_{fault.code}", fault.message) from fault


def _preview_source(rules: SourceRules, access: SourceAccess, ask: SourceAsk) -> SourcePreview:
    try:
        return source_process.preview_source(access, ask, rules=rules)
    except SourceFault as fault:
        raise BadInput(f"source_{fault.code}", fault.message) from fault


async def _try_relay(database: Database, secret: bytes, relay_id: int) -> TryReport:
    relay = await asyncio.to_thread(dispatch.get_relay, database, relay_id, secret)
    return await try_relay(relay)


def port_is_free(host: str, port: int, kind: socket.SocketKind = socket.SOCK_STREAM) -> bool:
    """Can a server listen there now? `kind` is SOCK_DGRAM for UDP."""
    with socket.socket(type=kind) as probe:
        if kind is socket.SOCK_STREAM:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
    return True


def serve_web(settings: Settings) -> None:
    """Run the web server until it is told to stop."""
    database = open_database(settings)
    recover_jobs(database)
    app = build_web(settings, database)
    uvicorn.run(
        app,
        host=settings.host,
        port=settings.web_port,
        log_level="warning",
        access_log=False,
        server_header=False,
        # Where a request came from is believed of a proxy that is set up, of nobody else.
        proxy_headers=bool(settings.proxies),
        forwarded_allow_ips=settings.proxies or None,
    )
    database.close()


# ---------------------------------------------------------------- the worker


def build_worker(settings: Settings, database: Database, clock: Clock = system_clock) -> tuple[SenderWorker, Waker]:
    """A relay worker, and what wakes it."""
    secret, waker = settings.secret(), Waker(settings.database())
    keyring = derive_keyring(secret)
    name = f"{socket.gethostname()}:{os.getpid()}"
    tools = SenderTools(
        claim=lambda token: dispatch.claim(database, worker=name, lease_token=token, now=clock()),
        next_due=lambda: dispatch.next_due(database),
        load_kit=lambda run_id: dispatch.load_run_kit(database, run_id, keyring=keyring, secret=secret),
        mark=lambda batch, kit, ids: dispatch.mark_group(database, batch, kit, ids, _told(clock)),
        settle=lambda batch, kit, told: dispatch.settle_group(database, batch, kit, told, _told(clock)),
        keep_lease=lambda batch: dispatch.keep_lease(database, batch, clock()),
        still_going=lambda run_id: dispatch.still_going(database, run_id),
        give_back=lambda batch, again_at, trouble: dispatch.give_back(
            database, batch, now=clock(), again_at=again_at, trouble=trouble
        ),
        recover=lambda: dispatch.recover(database, clock()),
        connect=RelayConnection,
        unreachable=RelayUnreachable,
        unavailable=DatabaseLost,
        wait=waker.wait,
        clock=clock,
        random=random.Random(),
    )
    return SenderWorker(tools), waker


# How often a housekeeper looks whether there is something to do. A source's hour may be met a quarter of a minute late;
# asking which domains are new takes half a second among a million contacts.
_SOURCES_SECONDS, _INDEX_SECONDS, _DOMAINS_SECONDS, _RETENTION_SECONDS = 15.0, 15.0, 60.0, 3_600.0


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

    async def purge() -> int:
        await asyncio.to_thread(purge_sign_ins, database, clock())
        await asyncio.to_thread(purge_keys, database, clock())
        return 0

    return Housekeeper(
        [
            Chore(name="pull live sources", rest_seconds=_SOURCES_SECONDS, do=pull),
            Chore(name="ask name servers", rest_seconds=_DOMAINS_SECONDS, do=ask),
            Chore(name="tend indexes for sorting", rest_seconds=_INDEX_SECONDS, do=tend),
            Chore(name="let go of what was deleted", rest_seconds=_RETENTION_SECONDS, do=let_go),
            Chore(name="purge what has ended", rest_seconds=_RETENTION_SECONDS, do=purge),
        ]
    )


async def _until_stopped(worker: SenderWorker, waker: Waker, housekeeper: Housekeeper) -> None:
    def stop() -> None:
        worker.stop.set()
        housekeeper.stop.set()

    loop = asyncio.get_running_loop()
    for sign in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(sign, stop)
    listening = asyncio.create_task(waker.listen())
    try:
        async with asyncio.TaskGroup() as tasks:
            tasks.create_task(worker.run())
            tasks.create_task(housekeeper.run())
    finally:
        listening.cancel()


def run_worker(settings: Settings) -> None:
    """Send until told to stop; the group in hand is finished first."""
    database = open_database(settings, migrate=False)
    asyncio.run(_until_stopped(*build_worker(settings, database), build_housekeeper(settings, database)))
    database.close()


# ---------------------------------------------------------------- the rehearsal


async def _rehearse(settings: Settings, directory: Path, seed: int, speed: float) -> None:
    mailbox = Mailbox(directory)
    people = People(seed=seed, speed=speed)
    names = await serve_names(settings.host, settings.names_port)
    smtp = await serve_smtp(settings.host, settings.smtp_port, Handler(World(seed=seed, speed=speed), mailbox, people))
    config = uvicorn.Config(
        inbox_app(mailbox), host=settings.host, port=settings.inbox_port, log_level="warning", access_log=False
    )
    server = uvicorn.Server(config)
    acting = asyncio.create_task(people.run())
    try:
        await server.serve()
    finally:
        acting.cancel()
        smtp.close()
        names.close()


def run_rehearsal(settings: Settings, directory: Path, *, seed: int, speed: float) -> None:
    """Play the world until told to stop."""
    asyncio.run(_rehearse(settings, directory, seed, speed))
