"""The simulated world."""

import asyncio
from datetime import UTC, datetime
from pathlib import Path

import uvicorn

from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.rehearsal.account import Account
from uvarovite.rehearsal.acting import People
from uvarovite.rehearsal.certificates import contexts
from uvarovite.rehearsal.inbox import inbox_app
from uvarovite.rehearsal.mailbox import Mailbox
from uvarovite.rehearsal.names import serve_names
from uvarovite.rehearsal.posting import Posting
from uvarovite.rehearsal.returning import Returns
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.rehearsal.server import Relay, serve_smtp
from uvarovite.rehearsal.world import World
from uvarovite.settings import Settings


async def _rehearse(settings: Settings, directory: Path, seed: int, speed: float, scenario: str) -> None:
    mailbox, account = Mailbox(directory), Account()
    world = World(seed=seed, speed=speed, scenario=SCENARIOS[scenario])
    posting = Posting(account, settings.host, settings.inbound_port)
    people, returns = People(world, posting), Returns(world, posting)
    published: dict[str, str] = {}
    names = await serve_names(settings.host, settings.names_port, published)

    def receive(sender: str, recipient: str, raw: bytes) -> int:
        returns.arrive(sender, recipient, raw)
        captured = mailbox.add(recipient, raw, datetime.now(UTC))
        people.arrive(sender, captured)
        return captured.number

    relay = Relay(world, account, contexts(directory / "certificates", settings.host), receive)
    smtp = await serve_smtp(settings.host, settings.smtp_port, relay)
    config = uvicorn.Config(
        inbox_app(mailbox, world, account, published),
        host=settings.host,
        port=settings.inbox_port,
        log_level="warning",
        access_log=False,
    )
    server = uvicorn.Server(config)
    try:
        async with asyncio.TaskGroup() as tasks:
            acting = [tasks.create_task(people.run()), tasks.create_task(returns.run())]
            await server.serve()
            for one in acting:
                one.cancel()
    finally:
        smtp.close()
        names.close()


def run_rehearsal(settings: Settings, directory: Path, *, seed: int, speed: float, scenario: str) -> None:
    """Play the world until told to stop, beginning with a scenario of rehearsal.scenarios."""
    set_up_logs("rehearsal")
    asyncio.run(_rehearse(settings, directory, seed, speed, scenario))
