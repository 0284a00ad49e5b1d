"""The web server: the application, the pages for recipients, and the built front end."""

import functools
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from types import FrameType
from typing import Any

import uvicorn
from fastapi import Depends, FastAPI
from starlette.types import ASGIApp, Receive, Scope, Send

from uvarovite.api.context import ApiContext, SourceDoor
from uvarovite.api.described import describe
from uvarovite.api.front_end import serve_front_end
from uvarovite.api.guard import Guard, guard_headers
from uvarovite.api.once import OnceEach
from uvarovite.api.probes import probes
from uvarovite.api.problems import add_problem_handlers
from uvarovite.api.requests import Requests
from uvarovite.api.routes import ROUTERS
from uvarovite.api.unstorable import refuse_unstorable
from uvarovite.bootstrap.clocks import Clock, recorded_at, system_clock
from uvarovite.bootstrap.database import open_database
from uvarovite.bootstrap.health import is_ready, serve_health
from uvarovite.bootstrap.jobs import Jobs
from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.single_mails import send_answer, send_table, send_test, try_relay
from uvarovite.bootstrap.sources import preview_source, pull_tools, source_rules, tables_of
from uvarovite.core.messages.attachments import LARGEST_BYTES as LARGEST_ATTACHMENT_BYTES
from uvarovite.core.messages.from_files import LARGEST_BYTES as LARGEST_WRITING_BYTES
from uvarovite.core.messages.pictures import LARGEST_BYTES as LARGEST_PICTURE_BYTES
from uvarovite.core.responses import Keyring
from uvarovite.net.names import NameLookUp
from uvarovite.public.door import PublicDoor
from uvarovite.public.recording import Recorder
from uvarovite.public.routes import public_router
from uvarovite.public.tracking import Tracking
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.services.accounts.asker import who_is_it
from uvarovite.services.bounded import BoundedWork
from uvarovite.services.consent.suppressions import LARGEST_LIST_BYTES
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.contacts.verification import check_domain
from uvarovite.services.imports.files import LARGEST_UPLOAD_BYTES
from uvarovite.services.imports.jobs import recover_jobs
from uvarovite.settings import Settings
from uvarovite.store.database import Database, DatabaseBusy, DatabaseLost, RuleBroken, SchemaGone, is_taken
from uvarovite.store.live import LiveChanges


def build_web(settings: Settings, database: Database, clock: Clock = system_clock) -> FastAPI:
    """The web application: /api, the pages for recipients, and the built front end for everything else."""
    keyring = settings.keyring()
    public = _public_door(settings, keyring, clock)
    recorder = Recorder(public)

    @asynccontextmanager
    async def alive(_: FastAPI) -> AsyncIterator[None]:
        yield
        await recorder.close()
        public.database.close()

    app = _Application(
        title="Uvarovite",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        # What is read and what is sent back are one type to whoever edits it.
        separate_input_output_schemas=False,
        lifespan=alive,
    )
    describe(app)
    app.state.api = ApiContext(
        database=database,
        keyring=keyring,
        rehearsed_keyring=settings.keyring(rehearsed=True),
        scenarios={one.name: one.about for one in SCENARIOS.values() if one.is_quick},
        secret=settings.sealing(),
        public_url=settings.base_url(),
        inbox_url=settings.inbox_url,
        clock=clock,
        recorded_at=lambda: recorded_at(clock),
        jobs=Jobs(max_workers=3, thread_name_prefix="job"),
        hash_address=address_hasher(settings.secret()),
        send_test=functools.partial(send_test, database, settings.sealing(), keyring, clock),
        send_answer=functools.partial(send_answer, database, settings.sealing(), clock),
        send_table=functools.partial(send_table, database, settings.sealing(), clock),
        try_relay=functools.partial(try_relay, database, settings.sealing(), clock),
        check_domain=functools.partial(check_domain, database, look_up=NameLookUp(settings.name_server), clock=clock),
        texts_at=NameLookUp(settings.name_server).texts,
        sources=SourceDoor(
            tables=functools.partial(tables_of, source_rules(settings)),
            preview=functools.partial(preview_source, source_rules(settings)),
            pulling=pull_tools(settings, clock),
        ),
        # Argon2 takes 64 MB for each password that is looked at.
        sign_ins=BoundedWork("sign-in", threads=2, waiting=20),
        live=LiveChanges(settings.database()),
    )
    over_tls = settings.base_url().startswith("https:")
    add_problem_handlers(
        app,
        unavailable=(DatabaseLost, DatabaseBusy),
        gone=SchemaGone,
        rule_broken=RuleBroken,
        is_taken=is_taken,
        guard=lambda request, answer: guard_headers(answer.headers, path=request.url.path, over_tls=over_tls),
    )

    for router in ROUTERS:
        app.include_router(router, dependencies=[Depends(refuse_unstorable)])
    app.include_router(public_router(public, address_hasher(settings.secret()), recorder))
    app.include_router(probes(lambda: is_ready(database)))
    serve_front_end(app, settings.web_dist)

    app.add_middleware(OnceEach, database=database, clock=clock)
    app.add_middleware(
        Guard,
        who=lambda cookie, bearer: who_is_it(database, cookie=cookie, bearer=bearer, now=clock()),
        large=_LARGE,
        over_tls=over_tls,
    )
    app.add_middleware(Requests)
    app.first = Tracking(functools.partial(FastAPI.__call__, app), door=public, recorder=recorder)
    app.state.recorder = recorder
    return app


class _Application(FastAPI):
    """The application, with what is asked `first`: nothing of the framework costs a pixel anything."""

    first: ASGIApp

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        await self.first(scope, receive, send)


# What takes files and pasted cells, with what a form puts around them.
_LARGE = {
    "/api/imports": LARGEST_UPLOAD_BYTES + (1 << 16),
    "/api/imports/cells": 32 << 20,
    "/api/suppressions/file": LARGEST_LIST_BYTES + (1 << 16),
    "/api/messages/from-file": LARGEST_WRITING_BYTES + (1 << 16),
    "/api/pictures": LARGEST_PICTURE_BYTES + (1 << 16),
    "/api/attachments": LARGEST_ATTACHMENT_BYTES + (1 << 16),
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
        recorded_at=lambda: recorded_at(clock),
        lost=(DatabaseLost, DatabaseBusy),
    )


def serve_web(settings: Settings) -> None:
    """Run the web server until it is told to stop."""
    set_up_logs("web")
    database = open_database(settings)
    serve_health(settings, database)
    recover_jobs(database)
    app = build_web(settings, database)
    config = uvicorn.Config(
        app,
        host=settings.host,
        port=settings.web_port,
        log_config=None,
        access_log=False,
        server_header=False,
        # Where a request came from is believed of a proxy that is set up, of nobody else.
        proxy_headers=bool(settings.proxies),
        forwarded_allow_ips=settings.proxies or None,
    )
    _Server(config).run()
    database.close()


class _Server(uvicorn.Server):
    """It lets those go who only look, before it waits for the others to be answered."""

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """Told to stop."""
        app: Any = self.config.app
        app.state.api.live.close()
        super().handle_exit(sig, frame)
