"""Trying a relay step by step; nothing is sent."""

import asyncio
import time
from dataclasses import dataclass, field

from uvarovite.core.delivery.troubles import RelayUnreachable
from uvarovite.net.smtp import Relay, RelayLine

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
    line = RelayLine(relay)
    try:
        await line.open()
        secured = {"tls": " with TLS", "starttls": " with STARTTLS"}.get(relay.security, ", unprotected")
        logged_in = f", logged in as {relay.username}" if relay.username else ""
        note("connect and greet", True, f"connected to port {relay.port}{secured}{logged_in}")
        report.largest_bytes = line.conversation.capabilities.largest_bytes
        if report.largest_bytes:
            note("ask how large", True, f"takes messages of up to {report.largest_bytes >> 20:,} MB")
        await line.close()
    except RelayUnreachable as fault:
        note(_STEPS.get(fault.trouble.code, "connect and greet"), False, fault.trouble.message)
    return report
