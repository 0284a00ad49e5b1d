"""The simulated world."""

import asyncio
from pathlib import Path

import uvicorn

from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.rehearsal.acting import People
from uvarovite.rehearsal.inbox import inbox_app
from uvarovite.rehearsal.mailbox import Mailbox
from uvarovite.rehearsal.names import serve_names
from uvarovite.rehearsal.providers import World
from uvarovite.rehearsal.server import Handler, serve_smtp
from uvarovite.settings import Settings


async def _rehearse(settings: Settings, directory: Path, seed: int, speed: float) -> None:
    mailbox = Mailbox(directory)
    people = People(seed=seed, speed=speed)
    published: dict[str, str] = {}
    names = await serve_names(settings.host, settings.names_port, published)
    smtp = await serve_smtp(settings.host, settings.smtp_port, Handler(World(seed=seed, speed=speed), mailbox, people))
    config = uvicorn.Config(
        inbox_app(mailbox, published),
        host=settings.host,
        port=settings.inbox_port,
        log_level="warning",
        access_log=False,
    )
    server = uvicorn.Server(config)
    try:
        async with asyncio.TaskGroup() as tasks:
            acting = tasks.create_task(people.run())
            await server.serve()
            acting.cancel()
    finally:
        smtp.close()
        names.close()


def run_rehearsal(settings: Settings, directory: Path, *, seed: int, speed: float) -> None:
    """Play the world until told to stop."""
    set_up_logs("rehearsal")
    asyncio.run(_rehearse(settings, directory, seed, speed))
