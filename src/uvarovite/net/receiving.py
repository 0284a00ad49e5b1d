"""A server for mail that comes in, by SMTP (RFC 5321) or by LMTP (RFC 2033), by a library that is made for it, with bounds of
our own.

It takes mail for the addresses that are ours and relays nothing. A message is answered with 250 when it is kept, and no
sooner; one that cannot be kept now is put off, so that the sender comes again.
"""

import asyncio
from collections.abc import Awaitable, Callable
from dataclasses import dataclass

import structlog
from aiosmtpd.smtp import SMTP, Envelope, Session, syntax

log = structlog.get_logger()


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounds:
    """How much is borne: of connections at once, of bytes and recipients a message, of seconds without a word."""

    connections: int = 50
    bytes: int = 30_000_000
    recipients: int = 20
    seconds: float = 60.0


@dataclass(slots=True, kw_only=True)
class Door:
    """`is_ours` says whether mail for an address is taken, `keep` keeps a message: (sender, recipients, bytes).

    Either raises one of `unavailable` while the database does not answer.
    """

    is_ours: Callable[[str], Awaitable[bool]]
    keep: Callable[[str, list[str], bytes], Awaitable[None]]
    unavailable: type[Exception]
    bounds: Bounds
    at_once: int = 0


class Receiver(SMTP):
    """One connection. Whoever greets with LHLO speaks LMTP, and is told of each recipient by itself what became of the message."""

    def __init__(self, door: Door) -> None:
        self._door = door
        self._speaks_lmtp = False
        # So many answers follow the message that is being read.
        self._answers = 1
        super().__init__(
            _Answers(door),
            hostname="uvarovite",
            ident="ready",
            enable_SMTPUTF8=True,
            data_size_limit=door.bounds.bytes,
            timeout=door.bounds.seconds,
        )

    @syntax("LHLO hostname")
    async def smtp_LHLO(self, hostname: str) -> None:  # noqa: N802 - the library finds it by this name
        """The greeting of LMTP (RFC 2033, section 4.1)."""
        self._speaks_lmtp = True
        await self.smtp_EHLO(hostname)

    async def push(self, status: str | bytes) -> None:
        """Answer; what is answered behind a message is answered once for each of its recipients (RFC 2033, section 4.2)."""
        told = status if isinstance(status, str) else status.decode("utf-8", "replace")
        if told.startswith("354") and self._speaks_lmtp and self.envelope is not None:
            self._answers = len(self.envelope.rcpt_tos)
            await super().push(told)
            return
        times, self._answers = self._answers, 1
        await super().push("\r\n".join([told] * times))

    async def _handle_client(self) -> None:
        door = self._door
        door.at_once += 1
        try:
            if door.at_once > door.bounds.connections:
                await self.push("421 4.3.2 Too many connections, come again")
                assert self.transport is not None
                self.transport.close()
            else:
                await super()._handle_client()
        finally:
            door.at_once -= 1


class _Answers:
    """What the library asks at each step."""

    def __init__(self, door: Door) -> None:
        self._door = door

    async def handle_RCPT(  # noqa: N802 - the library finds it by this name
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        if len(envelope.rcpt_tos) >= self._door.bounds.recipients:
            return "452 4.5.3 Too many recipients"
        try:
            if not await self._door.is_ours(address):
                return "550 5.1.1 There is nobody of that address here"
        except self._door.unavailable:
            return "451 4.3.0 Not now, come again"
        envelope.rcpt_tos.append(address)
        return "250 2.1.5 Ok"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        raw = envelope.original_content or b""
        # The library tells the null reverse-path in its brackets.
        sender = (envelope.mail_from or "").removeprefix("<").removesuffix(">")
        try:
            await self._door.keep(sender, list(envelope.rcpt_tos), raw)
        except self._door.unavailable as fault:
            log.warning("a message could not be kept", fault=str(fault))
            return "451 4.3.0 It could not be kept, come again"
        return "250 2.0.0 Kept"


async def receive_smtp(host: str, port: int, door: Door) -> asyncio.Server:
    """Listen. Raises OSError when the port is taken."""
    return await asyncio.get_running_loop().create_server(lambda: Receiver(door), host, port)
