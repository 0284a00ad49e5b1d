"""Trying a relay step by step, with all that is said on the wire, to a message to oneself."""

import asyncio
import time
from dataclasses import dataclass, field
from typing import Any

from uvarovite.core.delivery.outcomes import is_accepted, outcome_words
from uvarovite.core.delivery.smtp import Said
from uvarovite.core.delivery.troubles import RelayUnreachable
from uvarovite.net.smtp import Relay, RelayLine

NAME, CONNECT, TLS, GREETING, LOG_IN, ENVELOPE, MESSAGE = (
    "find the host", "connect", "TLS and certificate", "greeting", "log-in", "envelope", "message to you",
)  # fmt: skip
_BEGINS = {"STARTTLS": TLS, "AUTH": LOG_IN, "MAIL": ENVELOPE, "RCPT": ENVELOPE, "DATA": MESSAGE}


@dataclass(frozen=True, slots=True, kw_only=True)
class Letter:
    """A message for trying a relay with."""

    sender: str
    recipient: str
    raw: bytes


@dataclass(slots=True, kw_only=True)
class TryStep:
    """One step of trying a relay. `wire` is what was said in it, secrets masked."""

    name: str
    worked: bool = True
    words: str = ""
    milliseconds: int = 0
    wire: list[Said] = field(default_factory=list)


@dataclass(slots=True)
class TryReport:
    """How trying a relay went, step by step; the first step that fails is the last.

    `largest_bytes` is how large it says that messages may be, None where it does not say.
    """

    steps: list[TryStep] = field(default_factory=list)
    largest_bytes: int | None = None

    @property
    def worked(self) -> bool:
        """Did every step work?"""
        return all(step.worked for step in self.steps)


class _Trial:
    """What is said is a step's own: our words begin it, the replies to them belong to it."""

    def __init__(self, relay: Relay) -> None:
        self.report = TryReport()
        self.line = RelayLine(relay, step_by_step=self.look)
        self._tls_first = relay.security == "tls"
        self._told = 0
        self._since = time.monotonic()
        self._conversation = self.line.conversation

    def begin(self, name: str) -> TryStep:
        """The step of that name, which begins now if it has not yet; the one before it has ended."""
        if not self.report.steps or self.report.steps[-1].name != name:
            self.end()
            self.report.steps.append(TryStep(name=name))
        return self.report.steps[-1]

    def named(self, name: str) -> TryStep:
        """The step of that name, which has ended."""
        return next(step for step in self.report.steps if step.name == name)

    def end(self) -> None:
        """The current step has taken until now."""
        now = time.monotonic()
        if self.report.steps and not self.report.steps[-1].milliseconds:
            self.report.steps[-1].milliseconds = round((now - self._since) * 1_000)
        self._since = now

    def look(self) -> None:
        """Put what was said since the last look where it belongs."""
        conversation = self.line.conversation
        if conversation is not self._conversation:
            # There is a connection; where TLS comes first, it is what comes now.
            self._conversation, self._told = conversation, 0
            if self._tls_first:
                self.begin(TLS)
        for said in conversation.said[self._told :]:
            self.begin(self._step_of(said)).wire.append(said)
        self._told = len(conversation.said)

    def _step_of(self, said: Said) -> str:
        """What we say begins a step, or goes on with one; what the relay says answers it."""
        steps = self.report.steps
        word = said.words.partition(" ")[0]
        if not said.ours:
            return steps[-1].name if steps[-1].name not in (CONNECT, TLS) or steps[-1].wire else GREETING
        if word in ("EHLO", "HELO"):
            # After STARTTLS it is said anew, as if nothing had been said before.
            return TLS if steps[-1].name == TLS and not self._tls_first else GREETING
        return _BEGINS.get(word, steps[-1].name)


async def try_relay(relay: Relay, letter: Letter | None = None) -> TryReport:
    """Resolve the name, connect, protect, greet and log in; then send a message, where there is one, and take leave."""
    trial = _Trial(relay)
    report = trial.report
    step = trial.begin(NAME)
    try:
        found = await asyncio.get_running_loop().getaddrinfo(relay.host, relay.port)
    except OSError:
        step.worked, step.words = False, f"There is no host called {relay.host}. Check the spelling."
        trial.end()
        return report
    address = found[0][4][0]
    step.words = "it is an address already" if address == relay.host else f"{relay.host} is {address}"
    trial.begin(CONNECT).words = f"port {relay.port} answers"
    try:
        await trial.line.open()
    except RelayUnreachable as fault:
        trial.look()
        step = trial.begin(
            {"certificate": TLS, "no_tls": TLS, "no_starttls": TLS}.get(fault.trouble.code, report.steps[-1].name)
        )
        step.worked, step.words = False, fault.trouble.message
        trial.end()
        return report
    trial.look()
    _describe(trial, relay)
    if letter is not None:
        trial.begin(ENVELOPE)
        outcome = await trial.line.send(letter.sender, letter.recipient, letter.raw)
        trial.look()
        report.steps[-1].worked, report.steps[-1].words = is_accepted(outcome), outcome_words(outcome)
        if report.steps[-1].name == MESSAGE:
            trial.named(ENVELOPE).words = f"from {letter.sender} to {letter.recipient}"
    trial.end()
    await trial.line.close()
    return report


def _describe(trial: _Trial, relay: Relay) -> None:
    """Say of each step that worked what came of it."""
    can = trial.line.conversation.capabilities
    trial.report.largest_bytes = can.largest_bytes
    size = f", takes messages of up to {can.largest_bytes >> 20:,} MB" if can.largest_bytes else ""
    secured = trial.line.tls
    if secured is None:
        trial.report.steps[1].words += ", unprotected"
    else:
        certificate: Any = secured.getpeercert() or {}
        name = next(
            (told for part in certificate.get("subject", ()) for key, told in part if key == "commonName"), relay.host
        )
        until = certificate.get("notAfter", "")
        trial.named(TLS).words = f"{secured.version()}, certificate of {name}, good until {until}"
    for step in trial.report.steps:
        if step.name == GREETING:
            step.words = f"it speaks SMTP{size}"
        elif step.name == LOG_IN:
            step.words = f"logged in as {relay.username}"
