"""The rehearsal's SMTP server: a relay that takes messages for everybody, each provider in its own manner."""

import asyncio
import time
from datetime import UTC, datetime
from typing import Any

from aiosmtpd.smtp import SMTP, Envelope, Session

from uvarovite.rehearsal.acting import People
from uvarovite.rehearsal.mailbox import Mailbox
from uvarovite.rehearsal.providers import World


class Handler:
    """What aiosmtpd asks at each step of a conversation."""

    def __init__(self, world: World, mailbox: Mailbox, people: People) -> None:
        self._world = world
        self._mailbox = mailbox
        self._people = people

    async def handle_RCPT(  # noqa: N802 - aiosmtpd finds it by this name
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        answer = self._world.answer_recipient(envelope.mail_from or "", address, time.monotonic())
        if answer.startswith("250"):
            envelope.rcpt_tos.append(address)
        return answer

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        content = envelope.original_content or b""
        numbers = []
        for recipient in envelope.rcpt_tos:
            captured = self._mailbox.add(recipient, content, datetime.now(UTC))
            self._people.arrive(captured)
            numbers.append(f"{captured.number:X}")
        return f"250 2.0.0 Ok: queued as {'-'.join(numbers)}"


async def serve_smtp(host: str, port: int, handler: Handler) -> asyncio.Server:
    """Listen. Raises OSError when the port is taken."""

    def conversation() -> Any:
        return SMTP(handler, hostname="relay.rehearsal.example", enable_SMTPUTF8=True, data_size_limit=40_000_000)

    return await asyncio.get_running_loop().create_server(conversation, host, port)
