"""The rehearsal's SMTP server: a relay that takes messages for everybody, in the manner of the scenario."""

import asyncio
import ssl
import time
from collections.abc import Callable, Mapping
from email import message_from_bytes, policy
from typing import Any

from aiosmtpd.smtp import SMTP, Envelope, Session

from uvarovite.rehearsal.account import Account, Taken
from uvarovite.rehearsal.providers import Certificate, Stage
from uvarovite.rehearsal.world import World


class Relay:
    """What aiosmtpd asks at each step of a conversation, and everything that all conversations share.

    `receive` takes a message (sender, recipient, bytes), and says the number that it is queued by. `clock` is in seconds.
    """

    def __init__(
        self,
        world: World,
        account: Account,
        tls: Mapping[Certificate, ssl.SSLContext],
        receive: Callable[[str, str, bytes], int],
        clock: Callable[[], float] = time.time,
    ) -> None:
        self.world = world
        self.account = account
        self.tls = tls
        self._receive = receive
        self._clock = clock

    async def handle_EHLO(  # noqa: N802 - aiosmtpd finds it by this name
        self, server: "Conversation", session: Session, envelope: Envelope, name: str, offers: list[str]
    ) -> list[str]:
        session.host_name = name
        return [*offers[:-1], "250-PIPELINING", offers[-1]] if server.manner.pipelining else offers

    async def handle_MAIL(  # noqa: N802
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        if refusal := self.world.answer_sender():
            self.account.said(refusal)
            return refusal
        envelope.mail_from = address
        envelope.mail_options.extend(options)
        return "250 2.1.0 Ok"

    async def handle_RCPT(  # noqa: N802
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        source = str((session.peer or ("",))[0])
        answer = self.world.answer_recipient(envelope.mail_from or "", address, self._clock(), source)
        if answer.startswith("250"):
            envelope.rcpt_tos.append(address)
        else:
            self.account.said(answer)
        return answer

    async def handle_DATA(  # noqa: N802
        self, server: "Conversation", session: Session, envelope: Envelope
    ) -> str:
        content, who = envelope.original_content or b"", " ".join(envelope.rcpt_tos)
        if server.drop(Stage.END, who):
            return ""
        if refusal := next(filter(None, map(self.world.answer_text, envelope.rcpt_tos)), None):
            self.account.said(refusal)
            return refusal
        head = message_from_bytes(content.split(b"\r\n\r\n", 1)[0], policy=policy.compat32)
        numbers = []
        for recipient in envelope.rcpt_tos:
            self.account.taken.append(Taken(self._clock(), recipient, str(head["Message-ID"])))
            numbers.append(f"{self._receive(envelope.mail_from or '', recipient, content):X}")
        if server.drop(Stage.REPLY, who):
            return ""
        said = f"250 2.0.0 Ok: queued as {'-'.join(numbers)}"
        self.account.said(said)
        return said


class Conversation(SMTP):
    """One connection, in the manner that was in force when it began."""

    def __init__(self, relay: Relay) -> None:
        self.manner = relay.world.scenario.manner
        self._relay = relay
        self._messages = 0
        super().__init__(
            relay,
            hostname="relay.rehearsal.example",
            enable_SMTPUTF8=self.manner.smtputf8,
            data_size_limit=self.manner.largest_bytes,
            tls_context=relay.tls.get(self.manner.certificate),
            require_starttls=self.manner.must_encrypt,
        )

    def drop(self, stage: Stage, who: str = "") -> bool:
        """Drop the connection, if the world says so; was it?"""
        if not self._relay.world.drops(stage, who):
            return False
        self._relay.account.dropped[stage.value] += 1
        self._hang_up()
        return True

    def _hang_up(self) -> None:
        if isinstance(self.transport, asyncio.Transport):
            self.transport.abort()

    async def _say_goodbye(self, words: str) -> None:
        self._relay.account.said(words)
        await self.push(words)
        if self.transport is not None:
            self.transport.close()

    async def _handle_client(self) -> None:
        account, most = self._relay.account, self.manner.connections
        account.connected()
        try:
            if most is not None and account.at_once > most:
                await self._say_goodbye("421 4.7.0 Too many connections from you")
            elif not self.drop(Stage.GREETING):
                await super()._handle_client()
        finally:
            account.disconnected()

    async def push(self, status: Any) -> None:
        if self.manner.delay_seconds:
            await asyncio.sleep(self.manner.delay_seconds)
        if self.transport is None or self.transport.is_closing():
            return
        await super().push(status)
        if str(status).startswith("354"):
            self.drop(Stage.TEXT, " ".join(self.envelope.rcpt_tos) if self.envelope else "")

    async def smtp_EHLO(self, hostname: str) -> None:  # noqa: N802
        if not self.drop(Stage.HELLO):
            await super().smtp_EHLO(hostname)

    async def smtp_MAIL(self, arg: str | None) -> None:  # noqa: N802
        most = self.manner.messages_a_connection
        if most is not None and self._messages >= most:
            return await self._say_goodbye("421 4.7.0 Enough for one connection")
        self._messages += 1
        if not self.drop(Stage.MAIL, arg or ""):
            await super().smtp_MAIL(arg)
        return None

    async def smtp_RCPT(self, arg: str | None) -> None:  # noqa: N802
        if not self.drop(Stage.RECIPIENT, arg or ""):
            await super().smtp_RCPT(arg)


async def serve_smtp(host: str, port: int, relay: Relay) -> asyncio.Server:
    """Listen. Raises OSError when the port is taken."""
    return await asyncio.get_running_loop().create_server(lambda: Conversation(relay), host, port)
