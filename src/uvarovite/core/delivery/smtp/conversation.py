"""An SMTP conversation without a network: what arrives and what is to be sent go in, bytes and events come out.

Source: RFC 5321, with 1870 (SIZE), 2034 (enhanced codes), 2920 (PIPELINING), 3207 (STARTTLS), 4954 (AUTH), 6152 and 6531.
"""

from dataclasses import dataclass

from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.delivery.smtp.capabilities import Capabilities
from uvarovite.core.delivery.smtp.mailing import MOST_IN_HAND, Mailing, Settled
from uvarovite.core.delivery.smtp.opening import Opening, Settings
from uvarovite.core.delivery.smtp.replies import Reply, ReplyFault, ReplyReader
from uvarovite.core.delivery.smtp.steps import ConnectionEvent, ConnectionStep, MailStep
from uvarovite.core.delivery.smtp.wire import Ended, Said, Wire
from uvarovite.core.delivery.troubles import RelayTrouble, relay_trouble


@dataclass(frozen=True, slots=True)
class Secure:
    """The relay waits for TLS: secure the connection, then say `secured`."""


@dataclass(frozen=True, slots=True)
class Ready:
    """Messages may be handed over."""


@dataclass(frozen=True, slots=True)
class Over:
    """Nothing more will come of this connection; close it. `trouble` is None after a leave that was ours."""

    trouble: RelayTrouble | None


Event = Secure | Ready | Settled | Over


class Conversation:
    """One connection, from its greeting on; `replies` counts those that have come.

    Call `receive` with what arrives and `lost` when the connection ends, and do what the events say; after each call, and
    whenever more can be written, write what `pull` gives until it gives nothing.
    """

    def __init__(self, settings: Settings, *, keep_wire: bool = False) -> None:
        self.replies = 0
        self._wire = Wire(settings.where, keep=keep_wire)
        self._reader = ReplyReader()
        self._opening = Opening(settings, self._wire)
        self._mailing: Mailing | None = None

    @property
    def step(self) -> ConnectionStep:
        """How far it is."""
        return self._opening.step

    @property
    def mail_step(self) -> MailStep | None:
        """How far the message is that was begun first, None for none."""
        return self._mailing.step if self._mailing else None

    @property
    def capabilities(self) -> Capabilities:
        """What the relay says that it can."""
        return self._opening.capabilities

    @property
    def said(self) -> list[Said]:
        """What was said so far, where that is kept."""
        return self._wire.said or []

    @property
    def is_waiting(self) -> bool:
        """Is it the relay's turn, to answer or to take the rest of a text?"""
        return bool(self._wire.awaited) or (self._mailing is not None and self._mailing.is_writing)

    @property
    def has_room(self) -> bool:
        """May a message be handed over?"""
        return self._mailing is not None and self._mailing.room > 0

    def pull(self) -> bytes:
        """What is to be written now; empty when there is nothing."""
        out = self._wire.out
        if out:
            told = b"".join(out)
            out.clear()
            return told
        return self._mailing.piece() if self._mailing is not None else b""

    def receive(self, data: bytes) -> list[Event]:
        """Bytes that have arrived; what follows from them."""
        if self.step is ConnectionStep.OVER:
            return []
        try:
            return self._receive(data)
        except ReplyFault as fault:
            nonsense = self._wire.nonsense(str(fault))
            return self._end(nonsense.trouble, nonsense.meaning)
        except Ended as end:
            return self._end(end.trouble, end.meaning)

    def _receive(self, data: bytes) -> list[Event]:
        replies = self._reader.feed(data)
        self.replies += len(replies)
        if self._mailing is None:
            return self._open(replies)
        wire = self._wire
        for reply in replies:
            if wire.awaited and wire.said is None:
                wire.awaited.popleft()(reply)
            else:
                self._take(reply)
        return self._settled()

    def _take(self, reply: Reply) -> None:
        wire = self._wire
        if wire.said is not None:
            wire.note_reply(reply)
        if wire.awaited:
            return wire.awaited.popleft()(reply)
        # Nothing was asked. A relay that closes says so (RFC 5321 section 3.8); all else is none of SMTP.
        raise wire.closed(reply) if reply.code == 421 else wire.nonsense(reply.said)

    def _open(self, replies: list[Reply]) -> list[Event]:
        opening = self._opening
        for place, reply in enumerate(replies, 1):
            self._take(reply)
            if opening.step is ConnectionStep.SECURING and (place < len(replies) or self._reader.holds_anything):
                # What stands behind the go-ahead for TLS was said by whoever could, and not under TLS.
                raise self._injected()
        if opening.step is ConnectionStep.SECURING:
            if not replies:
                raise self._injected()
            return [Secure()]
        return self._ready() if opening.step is ConnectionStep.READY else []

    def _injected(self) -> Ended:
        return Ended(relay_trouble("injected", where=self._wire.where))

    def _ready(self) -> list[Event]:
        self._mailing = Mailing(self._wire, self.capabilities)
        return [Ready()]

    def _settled(self) -> list[Event]:
        if self._mailing is None or not self._mailing.settled:
            return []
        settled, self._mailing.settled = self._mailing.settled, []
        return [*settled]

    def secured(self) -> None:
        """TLS has been established."""
        self._reader = ReplyReader()
        self._opening.secured()

    def hand_over(self, tag: object, sender: str, recipient: str, raw: bytes) -> list[Event]:
        """Take a message, while there is room. Raises CommandFault when its addresses cannot be put on the wire."""
        assert self._mailing is not None, "a message for a connection that is not ready"
        self._mailing.hand_over(tag, sender, recipient, raw)
        return self._settled()

    def leave(self) -> None:
        """Say QUIT, once nothing is in hand."""
        mailing = self._mailing
        if self.step is ConnectionStep.READY and mailing is not None and mailing.room == MOST_IN_HAND:
            mailing.room = 0
            self._opening.on(ConnectionEvent.LEAVE)
            self._wire.write(b"QUIT\r\n", _left)

    def lost(self, trouble: RelayTrouble) -> list[Event]:
        """The connection is gone, or is given up, for this trouble."""
        if self.step is ConnectionStep.OVER:
            return []
        return self._end(None if self.step is ConnectionStep.LEAVING else trouble)

    def _end(self, trouble: RelayTrouble | None, meaning: Meaning = Meaning.BROKE_BEFORE) -> list[Event]:
        self._opening.on(ConnectionEvent.END)
        self._wire.clear()
        if self._mailing is not None:
            self._mailing.break_off(meaning, str(trouble.facts.get("said", "")) if trouble else "")
        return [*self._settled(), Over(trouble)]


def _left(_: object) -> None:
    raise Ended(None)
