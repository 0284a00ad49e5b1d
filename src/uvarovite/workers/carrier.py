"""The lines to one relay: opened as there is something to send, kept from batch to batch, closed when they idle.

A parcel is a marked message of a job. Whatever happens to a line or to the relay, each parcel is told once what became of
it; none of that is raised.
"""

import asyncio
import hashlib
from collections import deque
from collections.abc import Callable, Iterable
from functools import partial
from typing import Protocol

import structlog

from uvarovite.core.delivery import AnswerKind
from uvarovite.core.delivery.answers import OF_THE_RELAY, Meaning, no_answer
from uvarovite.core.delivery.outcomes import Broken, NotMade, Outcome, Told
from uvarovite.core.delivery.troubles import RelayTrouble, RelayUnreachable, relay_trouble
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit
from uvarovite.services.organisation.relays import RelayAccess

log = structlog.get_logger()

# How long a line is kept that nothing goes through.
IDLE_SECONDS = 15.0
# A relay that takes fewer lines than we would like is asked for more only now and then.
FEWER_SECONDS = 60.0
# So many lines that break, one after another and without an answer to any message, are the relay's trouble; one more for
# each that is still open.
MOST_BREAKS = 3
# So many refusals one after another, none of which is about an address, are too.
MOST_REFUSALS = 20


class Line(Protocol):
    """One conversation with a relay; net.smtp.RelayLine is one."""

    @property
    def is_open(self) -> bool: ...
    @property
    def has_room(self) -> bool: ...
    @property
    def trouble(self) -> RelayTrouble | None: ...
    async def open(self) -> None: ...
    async def close(self) -> None: ...
    def hand_over(self, sender: str, recipient: str, raw: bytes, then: Callable[[Outcome], None]) -> None: ...


class Owner(Protocol):
    """Who sends parcels. Once its lease has run out, what it marked is another's business: none of it goes out."""

    @property
    def holds_lease(self) -> bool: ...
    def told(self, parcel: "Parcel", outcome: Outcome) -> None:
        """What became of a parcel, once for each."""


class Parcel:
    """A marked message on its way; `digest` is of the bytes that were handed over."""

    __slots__ = ("delivery", "digest", "kit", "letter", "owner")

    def __init__(self, owner: Owner, kit: RunKit, delivery: MarkedDelivery) -> None:
        self.owner = owner
        self.kit = kit
        self.delivery = delivery
        self.digest = ""
        self.letter: tuple[str, bytes] | None = None

    def make(self) -> None:
        """Render its message. Raises whatever rendering raises, which a checked message never does."""
        letter = self.kit.made(self.delivery)
        self.digest = hashlib.sha256(letter[1]).hexdigest()
        self.letter = letter


class _Held:
    """A line and what went through it."""

    __slots__ = ("idle_since", "in_hand", "is_broken", "line", "sent")

    def __init__(self, line: Line, now: float) -> None:
        self.line = line
        self.in_hand = 0
        self.is_broken = False
        self.sent = 0
        self.idle_since = now


class Carrier:
    """`trouble` is why nothing goes through the relay; whoever wants to try again sets it to None.

    Of those that a line breaks under, only the first may be why: the others, and all while the relay has answered nobody
    since it was last in trouble, are told that it could not be reached.
    """

    def __init__(self, relay: RelayAccess, connect: Callable[[RelayAccess], Line]) -> None:
        self.trouble: RelayTrouble | None = None
        self._relay = relay
        self._connect = connect
        self._ready: deque[Parcel] = deque()
        self._lines: list[_Held] = []
        self._opening: set[asyncio.Task[None]] = set()
        self._closing: set[asyncio.Task[None]] = set()
        self._most = max(1, relay.connections)
        self._fewer_until = 0.0
        self._answers = False
        self._breaks = 0
        self._refusals = 0

    @property
    def is_idle(self) -> bool:
        """Is there neither a line nor anything for one?"""
        return not (self._lines or self._ready or self._opening)

    def put(self, parcels: Iterable[Parcel]) -> None:
        """Send these, as soon as there is a line for them."""
        self._ready.extend(parcels)
        if self.trouble is not None:
            return self._give_up(self.trouble)
        fed = True
        while self._ready and fed:
            fed = False
            for held in [*self._lines]:
                if self._ready and self._takes(held):
                    self._hand(held, self._ready.popleft())
                    fed = True
        return self._open_more()

    def take_back(self, owner: Owner) -> list[Parcel]:
        """Somebody's parcels that no line has yet: they are not sent, and told nothing."""
        back = [parcel for parcel in self._ready if parcel.owner is owner]
        self._ready = deque(parcel for parcel in self._ready if parcel.owner is not owner)
        return back

    def sweep(self, *, everything: bool = False) -> None:
        """Close the lines that idle."""
        now = asyncio.get_running_loop().time()
        for held in [*self._lines]:
            if held.in_hand == 0 and (everything or now - held.idle_since > IDLE_SECONDS):
                self._close(held)

    async def close(self) -> None:
        """Close every line, and wait for that."""
        for task in self._opening:
            task.cancel()
        self.sweep(everything=True)
        if self._opening or self._closing:
            await asyncio.wait([*self._opening, *self._closing])

    def _takes(self, held: _Held) -> bool:
        return held.line.has_room and held.sent < self._relay.messages_per_connection

    def _hand(self, held: _Held, parcel: Parcel) -> None:
        if not parcel.owner.holds_lease:
            parcel.owner.told(parcel, Broken(no_answer(Meaning.UNREACHABLE, "not sent")))
            return
        try:
            if parcel.letter is None:
                parcel.make()
            assert parcel.letter is not None
        except Exception as fault:
            # One person's message that cannot be made must not take the others' worker along, time after time.
            log.exception("a message could not be made", delivery=parcel.delivery.id)
            parcel.owner.told(parcel, NotMade(repr(fault)))
            return
        to_address, raw = parcel.letter
        held.in_hand += 1
        held.sent += 1
        sender = parcel.kit.envelope_sender(parcel.delivery.id)
        held.line.hand_over(sender, to_address, raw, partial(self._told, held, parcel))

    def _told(self, held: _Held, parcel: Parcel, outcome: Outcome) -> None:
        held.in_hand -= 1
        if isinstance(outcome, Told):
            self._breaks = 0
            self._answers = True
            outcome = self._unless_it_refuses_us(outcome)
        elif isinstance(outcome, Broken):
            if held.is_broken or not self._answers:
                outcome = Broken(no_answer(Meaning.UNREACHABLE, outcome.answer.text))
            held.is_broken = True
        parcel.owner.told(parcel, outcome)
        while self._ready and self._takes(held):
            self._hand(held, self._ready.popleft())
        if held.in_hand:
            return
        if not held.line.is_open:
            self._ended(held)
        elif held.sent >= self._relay.messages_per_connection:
            self._close(held)
            self._open_more()
        else:
            held.idle_since = asyncio.get_running_loop().time()

    def _unless_it_refuses_us(self, told: Told) -> Outcome:
        """An answer; one that whoever comes next would get too is the relay's trouble, and this one's message was not sent.

        So it is when many in a row are refused, and not for their address: what each is told is the relay's word about us.
        """
        refused = told.answer.kind is AnswerKind.REFUSED_SENDER
        self._refusals = self._refusals + 1 if refused else 0
        if told.answer.meaning not in OF_THE_RELAY and self._refusals <= MOST_REFUSALS:
            return told
        said = f"{told.answer.code} {told.answer.text}".strip()
        self._give_up(relay_trouble("refuses_us", where=self._where(), said=said))
        return Broken(no_answer(Meaning.UNREACHABLE, said))

    def _ended(self, held: _Held) -> None:
        """A line is gone, and not by our doing."""
        if held in self._lines:
            self._lines.remove(held)
        self._breaks += 1
        if self._breaks >= MOST_BREAKS + len(self._lines):
            self._give_up(held.line.trouble or relay_trouble("broke", where=self._where(), said="for no known reason"))
        else:
            self._open_more()

    def _open_more(self) -> None:
        now = asyncio.get_running_loop().time()
        if self._fewer_until and now > self._fewer_until:
            self._fewer_until, self._most = 0.0, max(1, self._relay.connections)
        wanted = min(self._most - len(self._lines), len(self._ready)) - len(self._opening)
        for _ in range(wanted):
            task = asyncio.create_task(self._open())
            self._opening.add(task)
            task.add_done_callback(self._opening.discard)

    async def _open(self) -> None:
        line = self._connect(self._relay)
        try:
            await line.open()
        except RelayUnreachable as fault:
            return self._not_opened(fault.trouble)
        except Exception as fault:
            # Whatever it is, it ends no worker.
            log.exception("a line could not be opened", relay=self._relay.name)
            return self._not_opened(relay_trouble("no_connection", where=self._where(), said=repr(fault)))
        self._lines.append(_Held(line, asyncio.get_running_loop().time()))
        return self.put(())

    def _not_opened(self, trouble: RelayTrouble) -> None:
        others = len(self._opening) - 1
        if self._lines or others > 0:
            # It takes fewer lines than we would like; that costs nobody anything.
            self._most = max(1, len(self._lines) + others)
            self._fewer_until = asyncio.get_running_loop().time() + FEWER_SECONDS
        else:
            self._give_up(trouble)

    def _give_up(self, trouble: RelayTrouble) -> None:
        self.trouble = trouble
        self._answers = False
        self._breaks = 0
        ready, self._ready = self._ready, deque()
        for parcel in ready:
            parcel.owner.told(parcel, Broken(no_answer(Meaning.UNREACHABLE, trouble.message)))

    def _close(self, held: _Held) -> None:
        self._lines.remove(held)
        task = asyncio.create_task(held.line.close())
        self._closing.add(task)
        task.add_done_callback(self._closing.discard)

    def _where(self) -> str:
        return f"{self._relay.host}:{self._relay.port}"
