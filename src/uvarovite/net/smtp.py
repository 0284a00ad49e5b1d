"""Handing messages to a relay (RFC 5321), one conversation a connection, and finding out why that does not work.

What a relay says is a value. What can be known of a message decides between two kinds of silence: when the connection
broke before the message's last line was sent, it was not taken; when it broke after, nobody can know.
"""

import asyncio
import socket
import ssl
import time
from dataclasses import dataclass, field
from types import TracebackType
from typing import Protocol, Self

import aiosmtplib
from aiosmtplib import SMTP, SMTPException, SMTPResponseException

from uvarovite.core.delivery import Answer, classify_answer
from uvarovite.core.delivery.answers import Meaning, no_answer
from uvarovite.core.delivery.troubles import RelayUnreachable


class Relay(Protocol):
    """How a relay is reached; services.dispatch.RelayAccess is one."""

    @property
    def host(self) -> str: ...
    @property
    def port(self) -> int: ...
    @property
    def security(self) -> str: ...
    @property
    def username(self) -> str | None: ...
    @property
    def password(self) -> str | None: ...
    @property
    def timeout_seconds(self) -> int: ...


class RelayConnection:
    """One connection, opened by `async with`; `send` may be called any number of times. Raises RelayUnreachable."""

    def __init__(self, relay: Relay) -> None:
        self._relay = relay
        self._smtp = _client(relay)

    async def __aenter__(self) -> Self:
        await self.open()
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, fault: BaseException | None, trace: TracebackType | None
    ) -> None:
        await self.close()

    async def open(self) -> None:
        """Connect, protect, greet and log in. Raises RelayUnreachable with what to change."""
        relay = self._relay
        where = f"{relay.host}:{relay.port}"
        try:
            await self._smtp.connect()
        except aiosmtplib.SMTPAuthenticationError as fault:
            said = f"{fault.code} {fault.message}"
            raise RelayUnreachable("log_in", where=where, user=relay.username or "", said=said) from fault
        except ssl.SSLCertVerificationError as fault:
            raise RelayUnreachable("certificate", where=where, said=str(fault)) from fault
        except aiosmtplib.SMTPConnectTimeoutError as fault:
            raise RelayUnreachable("no_answer", where=where) from fault
        except (SMTPException, OSError) as fault:
            raise _no_connection(where, fault) from fault

    async def close(self) -> None:
        """Take leave politely, if there is anybody left to take leave of."""
        try:
            if self._smtp.is_connected:
                await self._smtp.quit()
        except (SMTPException, OSError):
            self._smtp.close()

    @property
    def is_open(self) -> bool:
        return self._smtp.is_connected

    async def largest_bytes(self) -> int | None:
        """How large it says that a message may be (SIZE, RFC 1870, section 4), None where it does not say or sets no limit."""
        try:
            if not self._smtp.esmtp_extensions:
                await self._smtp.ehlo()
        except (SMTPException, OSError):
            return None
        told = self._smtp.esmtp_extensions.get("size", "")
        return int(told) if told.isascii() and told.isdigit() and 0 < int(told) < 1 << 62 else None

    async def send(self, from_address: str, to_address: str, raw: bytes) -> Answer | None:
        """Hand over one message. The relay's answer; None when nobody can know whether it took the message.

        That is so where the connection broke, or no answer of SMTP came, after the message was under way.
        """
        try:
            options = [] if to_address.isascii() else ["SMTPUTF8"]
            await self._smtp.mail(from_address, options=options, encoding="utf-8" if options else "ascii")
            await self._smtp.rcpt(to_address, encoding="utf-8" if options else "ascii")
        except SMTPResponseException as answer:
            if _is_refusal(answer.code):
                await self._reset()
                return classify_answer(answer.code, answer.message)
            self._smtp.close()
            return no_answer(Meaning.NO_ANSWER, f"{answer.code} {answer.message}")
        except (SMTPException, OSError, UnicodeEncodeError) as fault:
            self._smtp.close()
            return no_answer(Meaning.BROKE_BEFORE, str(fault))
        try:
            taken = await self._smtp.data(raw)
        except SMTPResponseException as answer:
            if _is_refusal(answer.code):
                await self._reset()
                return classify_answer(answer.code, answer.message)
            self._smtp.close()
            return None
        except (SMTPException, OSError):
            self._smtp.close()
            return None
        return classify_answer(taken.code, taken.message)

    async def _reset(self) -> None:
        try:
            await self._smtp.rset()
        except (SMTPException, OSError):
            self._smtp.close()


def _is_refusal(code: int) -> bool:
    # RFC 5321 section 4.2.1: 4 and 5 refuse, and 250 takes. A relay that says anything else where one of the three is
    # due has not understood us, or is none: whether it took the message then is not known from its number.
    return 400 <= code <= 599


def _client(relay: Relay) -> SMTP:
    return SMTP(
        hostname=relay.host,
        port=relay.port,
        use_tls=relay.security == "tls",
        start_tls=relay.security == "starttls",
        username=relay.username,
        password=relay.password,
        timeout=relay.timeout_seconds,
    )


def _no_connection(where: str, fault: Exception) -> RelayUnreachable:
    # aiosmtplib wraps what the system said; the kinds of the causes tell more than their texts.
    causes: list[BaseException] = [fault]
    while (cause := causes[-1].__cause__ or causes[-1].__context__) is not None:
        causes.append(cause)
    if any(isinstance(cause, ConnectionRefusedError) for cause in causes):
        return RelayUnreachable("nothing_listens", where=where)
    if any(isinstance(cause, socket.gaierror) for cause in causes):
        return RelayUnreachable("no_host", where=where)
    if "STARTTLS" in str(fault):
        return RelayUnreachable("no_starttls", where=where)
    if said := next((cause for cause in causes if isinstance(cause, SMTPResponseException)), None):
        return RelayUnreachable("turned_away", where=where, said=f"{said.code} {said.message}")
    return RelayUnreachable("no_connection", where=where, said=str(fault))


# The steps that have a name of their own when trying a relay fails there.
_STEPS = {"log_in": "log-in", "certificate": "certificate"}


@dataclass(frozen=True, slots=True, kw_only=True)
class TryStep:
    """One step of trying a relay."""

    name: str
    worked: bool
    words: str
    milliseconds: int


@dataclass(slots=True)
class TryReport:
    """How trying a relay went, step by step; the first step that fails is the last.

    `largest_bytes` is how large it says that messages may be, None where it does not say.
    """

    steps: list[TryStep] = field(default_factory=list)
    largest_bytes: int | None = None

    @property
    def worked(self) -> bool:
        return all(step.worked for step in self.steps)


async def try_relay(relay: Relay) -> TryReport:
    """Resolve the name, connect and log in, and take leave; nothing is sent."""
    report = TryReport()
    began = time.monotonic()

    def note(name: str, worked: bool, words: str) -> None:
        nonlocal began
        now = time.monotonic()
        report.steps.append(TryStep(name=name, worked=worked, words=words, milliseconds=round((now - began) * 1000)))
        began = now

    try:
        found = await asyncio.get_running_loop().getaddrinfo(relay.host, relay.port)
        note("find the host", True, f"{relay.host} is {found[0][4][0]}")
    except OSError:
        note("find the host", False, f"There is no host called {relay.host}. Check the spelling.")
        return report
    connection = RelayConnection(relay)
    try:
        await connection.open()
        secured = {"tls": " with TLS", "starttls": " with STARTTLS"}.get(relay.security, ", unprotected")
        logged_in = f", logged in as {relay.username}" if relay.username else ""
        note("connect and greet", True, f"connected to port {relay.port}{secured}{logged_in}")
        report.largest_bytes = await connection.largest_bytes()
        if report.largest_bytes:
            note("ask how large", True, f"takes messages of up to {report.largest_bytes >> 20:,} MB")
        await connection.close()
    except RelayUnreachable as fault:
        note(_STEPS.get(fault.trouble.code, "connect and greet"), False, fault.trouble.message)
    return report
