"""Single messages, a test or a table, handed to their relay between two transactions."""

import asyncio
from typing import Any

from uvarovite.bootstrap.clocks import Clock
from uvarovite.core.accounts import Actor
from uvarovite.core.delivery.troubles import RelayUnreachable
from uvarovite.core.responses import Keyring
from uvarovite.net import relay_test
from uvarovite.net.relay_test import TryReport
from uvarovite.net.smtp import RelayLine
from uvarovite.services.messages import tests
from uvarovite.services.organisation.relays import get_relay, note_largest, relay_access
from uvarovite.services.organisation.single_mails import HandedOver, PreparedMail, handed_over, not_handed_over
from uvarovite.services.selection.table_mail import log_table, prepare_table
from uvarovite.store.database import Database


async def send_test(
    database: Database,
    secret: bytes,
    keyring: Keyring,
    clock: Clock,
    actor: Actor,
    *,
    message_id: int | None,
    **asked: Any,
) -> HandedOver:
    """Send a test and note it. Raises ServiceRefusal: it was not sent."""
    prepared = await asyncio.to_thread(tests.prepare_test, database, actor, keyring=keyring, now=clock(), **asked)
    sent = await _hand_over(prepared, secret)
    noted = {key: asked[key] for key in ("content", "contact_id", "to_address")}
    await asyncio.to_thread(
        tests.note_test,
        database,
        actor,
        message_id=message_id,
        accepted=sent.accepted,
        now=clock(),
        **noted,
    )
    return sent


async def send_table(database: Database, secret: bytes, clock: Clock, actor: Actor, **asked: Any) -> HandedOver:
    """Send a table to a colleague and log it. Raises ServiceRefusal: it was not sent."""
    table = await asyncio.to_thread(prepare_table, database, actor, now=clock(), **asked)
    sent = await _hand_over(table.mail, secret)
    await asyncio.to_thread(log_table, database, actor, table, accepted=sent.accepted, answer=sent.words, now=clock())
    return sent


async def _hand_over(mail: PreparedMail, secret: bytes) -> HandedOver:
    line = RelayLine(relay_access(mail.relay, secret))
    try:
        await line.open()
    except RelayUnreachable as fault:
        raise not_handed_over(mail, fault.trouble.message) from fault
    try:
        return handed_over(mail, await line.send(mail.from_address, mail.to_address, mail.raw))
    finally:
        await line.close()


async def try_relay(database: Database, secret: bytes, actor: Actor, relay_id: int) -> TryReport:
    """Connect to a relay step by step; nothing is sent. How large messages may be is noted. Raises NotFound."""
    relay = await asyncio.to_thread(get_relay, database, actor, relay_id, secret)
    report = await relay_test.try_relay(relay)
    if report.worked:
        await asyncio.to_thread(note_largest, database, actor, relay_id, report.largest_bytes)
    return report
