"""A line to a relay: the conversation of core.delivery.smtp over a socket, with TLS and time-outs."""

import asyncio
import socket
import ssl
from collections.abc import Callable
from functools import lru_cache
from typing import Protocol, cast

from uvarovite.core.delivery.outcomes import NotMade, Outcome
from uvarovite.core.delivery.smtp import (
    CommandFault,
    ConnectionStep,
    Conversation,
    Event,
    Over,
    Secure,
    Settings,
    Settled,
)
from uvarovite.core.delivery.troubles import RelayTrouble, RelayUnreachable, relay_trouble

# How much may lie between us and the network before a text waits.
_MOST_UNSENT = 1 << 18
# How long a relay may take to say goodbye.
_LEAVE_SECONDS = 3.0


class Relay(Protocol):
    """How a relay is reached; services.organisation.relays.RelayAccess is one."""

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
    @property
    def hello_name(self) -> str | None: ...
    @property
    def authority(self) -> str | None: ...


def hello_name(transport: asyncio.BaseTransport) -> str:
    """What we greet with where nothing is set: this machine's full name, else its address (RFC 5321 section 4.1.4)."""
    name = socket.gethostname()
    if "." in name and name.isascii():
        return name
    address = str(transport.get_extra_info("sockname")[0])
    return f"[IPv6:{address}]" if ":" in address else f"[{address}]"


class RelayLine(asyncio.Protocol):
    """One connection. `open` it, `hand_over` messages while it `has_room`, `close` it; it may be opened again after that.

    Some may be in hand at once: where the relay allows it, the next one's envelope goes behind a text.
    """

    def __init__(self, relay: Relay, *, step_by_step: Callable[[], None] | None = None) -> None:
        """`step_by_step` is called after each thing that happens; then nothing is pipelined, and what is said is kept."""
        self._relay = relay
        self._step_by_step = step_by_step
        self._where = f"{relay.host}:{relay.port}"
        self._transport: asyncio.Transport | None = None
        self._ready: asyncio.Future[None] | None = None
        self._gone: asyncio.Future[None] | None = None
        self._may_write = True
        self._is_reading = False
        self._watch: asyncio.TimerHandle | None = None
        self._since = 0.0
        # Nothing has been said yet, and nothing can be handed over: the first conversation begins with the first connection.
        self._conversation = Conversation(Settings(where=self._where, hello_name="localhost"))
        self.trouble: RelayTrouble | None = None

    @property
    def conversation(self) -> Conversation:
        """What was said and what the relay can."""
        return self._conversation

    @property
    def is_open(self) -> bool:
        """May messages be handed over?"""
        return self._conversation.step is ConnectionStep.READY

    @property
    def has_room(self) -> bool:
        """May a message be handed over now?"""
        return self._conversation.has_room

    async def open(self) -> None:
        """Connect, protect, greet and log in. Raises RelayUnreachable."""
        loop = asyncio.get_running_loop()
        self.trouble = None
        self._may_write = True
        self._ready, self._gone = loop.create_future(), loop.create_future()
        try:
            async with asyncio.timeout(self._relay.timeout_seconds):
                await loop.create_connection(lambda: self, self._relay.host, self._relay.port)
                await self._ready
        except TimeoutError as fault:
            self._drop(self._broke("no answer in time"))
            raise RelayUnreachable(relay_trouble("no_answer", where=self._where)) from fault
        except OSError as fault:
            self._drop(self._broke(str(fault)))
            raise RelayUnreachable(self._no_connection(fault)) from fault
        except BaseException:
            self._drop(self._broke("given up"))
            raise
        self._since = loop.time()
        self._watch_over()

    def hand_over(self, sender: str, recipient: str, raw: bytes, then: Callable[[Outcome], None]) -> None:
        """Hand over a message, while there is room; `then` is told what became of it, once, whatever happens."""
        waited = self._conversation.is_waiting
        try:
            events = self._conversation.hand_over(then, sender, recipient, raw)
        except CommandFault as fault:
            return then(NotMade(str(fault)))
        if not waited:
            self._since = asyncio.get_running_loop().time()
        if events:
            self._do(events)
        # While replies are worked on, all that follows from them goes out together, behind them.
        if not self._is_reading:
            self._flush()
        return None

    async def send(self, sender: str, recipient: str, raw: bytes) -> Outcome:
        """Hand over one message and wait for what becomes of it."""
        told: asyncio.Future[Outcome] = asyncio.get_running_loop().create_future()
        self.hand_over(sender, recipient, raw, lambda outcome: None if told.done() else told.set_result(outcome))
        return await told

    async def close(self) -> None:
        """Take leave, if there is anybody left to take leave of. What is in hand is broken off."""
        self._conversation.leave()
        self._flush()
        gone = self._gone
        if self._conversation.step is ConnectionStep.LEAVING and gone is not None:
            await asyncio.wait([gone], timeout=_LEAVE_SECONDS)
        self._drop(self._broke("closed by us"))

    # What the loop calls

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """The socket is there. Where TLS comes first (RFC 8314), nothing is said before it."""
        relay = self._relay
        settings = Settings(
            where=self._where,
            hello_name=relay.hello_name or hello_name(transport),
            protect=relay.security == "starttls",
            username=relay.username or None,
            password=relay.password,
            pipelining=self._step_by_step is None,
        )
        self._conversation = Conversation(settings, keep_wire=self._step_by_step is not None)
        self._transport = cast(asyncio.Transport, transport)
        self._transport.set_write_buffer_limits(high=_MOST_UNSENT)
        self._note_step()
        if relay.security == "tls":
            self._secure()

    def data_received(self, data: bytes) -> None:
        """Something was said."""
        conversation = self._conversation
        before = conversation.replies
        events = conversation.receive(data)
        if conversation.replies != before:
            self._since = asyncio.get_running_loop().time()
        self._is_reading = True
        try:
            self._do(events)
        finally:
            self._is_reading = False
        self._note_step()
        self._flush()
        self._note_step()

    def pause_writing(self) -> None:
        """The network takes no more for now."""
        self._may_write = False

    def resume_writing(self) -> None:
        """The network takes more."""
        self._since = asyncio.get_running_loop().time()
        self._may_write = True
        self._flush()

    def eof_received(self) -> bool:
        """The relay will say no more: close."""
        return False

    def connection_lost(self, exc: Exception | None) -> None:
        """The connection is gone."""
        self._transport = None
        if isinstance(exc, OSError) and self._ready is not None and not self._ready.done():
            # While it is being opened, what the network or TLS says tells more than that it broke.
            self._ready.set_exception(exc)
        self._do(self._conversation.lost(self._broke(str(exc) if exc else "the relay hung up")))
        if self._gone is not None and not self._gone.done():
            self._gone.set_result(None)

    # Within

    def _note_step(self) -> None:
        if self._step_by_step is not None:
            self._step_by_step()

    @property
    def tls(self) -> ssl.SSLObject | None:
        """What protects the connection, None for nothing."""
        return self._transport.get_extra_info("ssl_object") if self._transport is not None else None

    def _flush(self) -> None:
        while self._may_write and self._transport is not None and (data := self._conversation.pull()):
            self._transport.write(data)

    def _do(self, events: list[Event]) -> None:
        for event in events:
            if isinstance(event, Settled):
                cast(Callable[[Outcome], None], event.tag)(event.outcome)
            elif isinstance(event, Over):
                self._end(event.trouble)
            elif isinstance(event, Secure):
                self._secure()
            elif self._ready is not None and not self._ready.done():
                self._ready.set_result(None)

    def _secure(self) -> None:
        """TLS over the socket that is there; nothing is read meanwhile but by it."""
        transport = self._transport
        assert transport is not None
        transport.pause_reading()
        self._securing = asyncio.get_running_loop().create_task(self._secured(transport))
        self._securing.add_done_callback(self._after_securing)

    async def _secured(self, transport: asyncio.Transport) -> None:
        loop = asyncio.get_running_loop()
        secured = await loop.start_tls(transport, self, _tls(self._relay.authority), server_hostname=self._relay.host)
        if secured is None:
            raise ConnectionResetError("the relay hung up")
        self._transport = secured
        secured.set_write_buffer_limits(high=_MOST_UNSENT)
        self._note_step()
        if self._conversation.step is ConnectionStep.SECURING:
            self._conversation.secured()
            self._flush()

    def _after_securing(self, task: asyncio.Task[None]) -> None:
        fault = None if task.cancelled() else task.exception()
        if fault is not None and self._ready is not None and not self._ready.done():
            self._ready.set_exception(fault)

    def _end(self, trouble: RelayTrouble | None) -> None:
        self.trouble = trouble
        if self._watch is not None:
            self._watch.cancel()
            self._watch = None
        if self._transport is not None:
            self._transport.close()
        if self._ready is not None and not self._ready.done() and trouble is not None:
            self._ready.set_exception(RelayUnreachable(trouble))

    def _drop(self, trouble: RelayTrouble) -> None:
        """Whatever is left of the connection goes away now, and what is still to be written with it."""
        if self._ready is not None and not self._ready.done():
            self._ready.cancel()
        transport, self._transport = self._transport, None
        self._do(self._conversation.lost(trouble))
        if transport is not None:
            transport.abort()

    def _broke(self, why: str) -> RelayTrouble:
        return relay_trouble("broke", where=self._where, said=why)

    def _watch_over(self) -> None:
        """Give up a relay that answers nothing, or takes nothing, for too long. A byte now and then is no answer."""
        loop = asyncio.get_running_loop()
        limit = self._relay.timeout_seconds
        waited = loop.time() - self._since if self._conversation.is_waiting else 0.0
        if waited >= limit:
            return self._drop(relay_trouble("silent", where=self._where, seconds=f"{limit:g}"))
        self._watch = loop.call_later(limit - waited, self._watch_over)
        return None

    def _no_connection(self, fault: OSError) -> RelayTrouble:
        match fault:
            case ssl.SSLCertVerificationError():
                return relay_trouble("certificate", where=self._where, said=fault.verify_message or str(fault))
            case ssl.SSLError():
                return relay_trouble("no_tls", where=self._where, said=fault.reason or str(fault))
            case ConnectionRefusedError():
                return relay_trouble("nothing_listens", where=self._where)
            case socket.gaierror():
                return relay_trouble("no_host", where=self._where)
            case _:
                return relay_trouble("no_connection", where=self._where, said=str(fault))


@lru_cache(maxsize=16)
def _tls(authority: str | None) -> ssl.SSLContext:
    """Certificates are verified, against the name that the relay was set up with; TLS 1.2 at least (RFC 8996).

    Reading what the machine trusts takes longer than a handshake, so it is done once.
    """
    context = ssl.create_default_context()
    if authority is not None:
        context.load_verify_locations(cadata=authority)
    context.minimum_version = ssl.TLSVersion.TLSv1_2
    return context
