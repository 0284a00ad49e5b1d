"""What takes mail in: a listener, and the reader of a mailbox."""

import asyncio
import signal

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.database import open_database
from uvarovite.bootstrap.health import serve_health
from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.mailbox import MailboxReader
from uvarovite.net.mailbox import MailboxAccess
from uvarovite.net.receiving import Bounds, Door, receive_smtp
from uvarovite.services.responses.inbound import is_ours, take_in
from uvarovite.settings import Settings
from uvarovite.store.database import Database, DatabaseLost


def door_to(settings: Settings, database: Database, bounds: Bounds) -> Door:
    """What the listener asks of the database."""
    keyring = settings.keyring()

    async def ours(address: str) -> bool:
        return await asyncio.to_thread(is_ours, database, address, keyring=keyring)

    async def keep(sender: str, recipients: list[str], raw: bytes) -> None:
        await asyncio.to_thread(take_in, database, raw=raw, sender=sender, recipients=recipients, now=system_clock())

    return Door(is_ours=ours, keep=keep, unavailable=DatabaseLost, bounds=bounds)


def mailbox_of(settings: Settings) -> MailboxAccess | None:
    """The mailbox that mail comes back to, if there is one."""
    if not settings.mailbox_host:
        return None
    return MailboxAccess(
        host=settings.mailbox_host,
        port=settings.mailbox_port,
        security=settings.mailbox_security,
        username=settings.mailbox_user,
        password=settings.mailbox_password.get_secret_value(),
        folder=settings.mailbox_folder,
    )


async def _receive(settings: Settings, database: Database) -> None:
    stopped = asyncio.Event()
    loop = asyncio.get_running_loop()
    for sign in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(sign, stopped.set)
    server = await receive_smtp(settings.host, settings.inbound_port, door_to(settings, database, Bounds()))
    reader = MailboxReader(access, database, system_clock) if (access := mailbox_of(settings)) else None
    reading = asyncio.create_task(asyncio.to_thread(reader.run)) if reader else None
    await stopped.wait()
    server.close()
    if reader and reading:
        reader.stop.set()
        await reading


def run_receiver(settings: Settings) -> None:
    """Take mail in until told to stop."""
    set_up_logs("receive")
    database = open_database(settings, migrate=False)
    serve_health(settings, database)
    asyncio.run(_receive(settings, database))
    database.close()
