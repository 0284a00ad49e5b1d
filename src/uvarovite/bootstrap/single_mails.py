"""Single messages, a test, a table, an answer, handed to their relay between two transactions."""

import asyncio
from secrets import token_hex
from typing import Any

from uvarovite.bootstrap.clocks import Clock
from uvarovite.core.accounts import Actor
from uvarovite.core.delivery.troubles import RelayUnreachable
from uvarovite.core.responses import Keyring
from uvarovite.net import relay_test
from uvarovite.net.relay_test import Letter, TryReport
from uvarovite.net.smtp import RelayLine
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.messages import tests
from uvarovite.services.organisation.relays import note_largest, prepare_relay_test
from uvarovite.services.organisation.single_mails import (
    HandedOver,
    PreparedMail,
    handed_over,
    not_handed_over,
    on_the_wire,
)
from uvarovite.services.responses import answering, forwarding, sign_up_mails
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
    sent = await _hand_over(database, prepared, secret, clock)
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
    sent = await _hand_over(database, table.mail, secret, clock)
    await asyncio.to_thread(log_table, database, actor, table, accepted=sent.accepted, answer=sent.words, now=clock())
    return sent


async def send_answer(
    database: Database, secret: bytes, clock: Clock, actor: Actor, mail_id: int, words: str, *, answer_id: str
) -> HandedOver:
    """Send an answer to a reply and note it. Raises ServiceRefusal: it was not sent."""
    mail = await asyncio.to_thread(
        answering.prepare_answer, database, actor, mail_id, words, answer_id=answer_id, now=clock()
    )
    sent = await _hand_over(database, mail, secret, clock)
    if sent.accepted:
        await asyncio.to_thread(answering.note_answer, database, actor, mail_id, words, mail.to_address, now=clock())
    return sent


async def forward_next(database: Database, secret: bytes, clock: Clock) -> int:
    """Forward the next reply that is meant for a colleague; how many. What fails is tried again later."""
    forward = await asyncio.to_thread(forwarding.next_forward, database, forward_id=token_hex(8), now=clock())
    if forward is None:
        return 0
    try:
        sent = await _hand_over(database, forward.mail, secret, clock)
    except ServiceRefusal as fault:
        sent = HandedOver(accepted=False, words=fault.message)
    await asyncio.to_thread(
        forwarding.note_forward, database, forward, accepted=sent.accepted, words=sent.words, now=clock()
    )
    return 1


async def ask_next(database: Database, secret: bytes, keyring: Keyring, public_url: str, clock: Clock) -> int:
    """Ask the next who signed up whether they meant it; how many. What fails is tried again later."""
    ask = await asyncio.to_thread(sign_up_mails.next_ask, database, public_url=public_url, keyring=keyring, now=clock())
    if ask is None:
        return 0
    try:
        sent = await _hand_over(database, ask.mail, secret, clock)
    except ServiceRefusal as fault:
        sent = HandedOver(accepted=False, words=fault.message)
    await asyncio.to_thread(sign_up_mails.note_ask, database, ask, accepted=sent.accepted, now=clock())
    return 1


async def _hand_over(database: Database, mail: PreparedMail, secret: bytes, clock: Clock) -> HandedOver:
    relay, raw = await asyncio.to_thread(on_the_wire, database, mail, secret=secret, now=clock())
    line = RelayLine(relay)
    try:
        await line.open()
    except RelayUnreachable as fault:
        raise not_handed_over(mail, fault.trouble.message) from fault
    try:
        return handed_over(mail, await line.send(mail.from_address, mail.to_address, raw))
    finally:
        await line.close()


async def try_relay(
    database: Database, secret: bytes, clock: Clock, actor: Actor, relay_id: int, *, with_letter: bool
) -> TryReport:
    """Try a relay step by step, with a letter to whoever tries it if that is wanted. How large messages may be is noted.

    Raises NotFound.
    """
    test = await asyncio.to_thread(
        prepare_relay_test, database, actor, relay_id, secret=secret, mail_id=token_hex(8), now=clock()
    )
    letter = None
    if with_letter and test.raw is not None:
        letter = Letter(sender=test.from_address, recipient=test.to_address, raw=test.raw)
    report = await relay_test.try_relay(test.relay, letter)
    if report.worked:
        await asyncio.to_thread(note_largest, database, actor, relay_id, report.largest_bytes)
    return report
