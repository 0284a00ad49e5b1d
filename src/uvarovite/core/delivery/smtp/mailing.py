"""Messages on a connection that is ready, each with one recipient.

Where the relay offers PIPELINING, a message's MAIL, RCPT and DATA go in one group, behind the text of the message before
it (RFC 2920 section 3.1), so that a message costs one round trip. The text itself never goes before its 354.
"""

from collections import deque
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

from uvarovite.core.delivery.answers import Answer, AnswerKind, Meaning, Stage, classify_answer, no_answer
from uvarovite.core.delivery.outcomes import Broken, Outcome, Told, Unknowable
from uvarovite.core.delivery.smtp import commands
from uvarovite.core.delivery.smtp.capabilities import Capabilities
from uvarovite.core.delivery.smtp.replies import Reply
from uvarovite.core.delivery.smtp.steps import MAIL, MailEvent, MailStep
from uvarovite.core.delivery.smtp.text import END, wire_text
from uvarovite.core.delivery.smtp.wire import Wire

# A text goes out in pieces of this size, its end with the last: a break before that is known to be harmless.
PIECE_BYTES = 1 << 17
# One whose text is out, one whose envelope is out behind it, and one whose envelope goes behind the text of that.
MOST_IN_HAND = 3

_NEXT = MAIL.moves


class Settled(NamedTuple):
    """What became of the message that was handed over as `tag`."""

    tag: object
    outcome: Outcome


class _Mail:
    """A message in hand."""

    __slots__ = ("eight_bit", "raw", "recipient", "sender", "step", "tag", "utf8")

    def __init__(self, tag: object, sender: str, recipient: str, raw: bytes) -> None:
        self.tag = tag
        self.sender = commands.path(sender)
        self.recipient = commands.path(recipient)
        self.utf8 = not (sender.isascii() and recipient.isascii())
        self.eight_bit = not raw.isascii()
        self.raw = raw
        self.step = MailStep.QUEUED

    def on(self, event: MailEvent) -> None:
        self.step = _NEXT[self.step, event]


@dataclass(slots=True)
class _Text:
    """A text on its way, without the line that ends it, and how much of it is out."""

    mail: _Mail
    whole: bytes
    out: int = 0


class Mailing:
    """`settled` collects what became of messages; whoever reads it empties it. `room`: so many more may be handed over."""

    def __init__(self, wire: Wire, capabilities: Capabilities) -> None:
        self.settled: list[Settled] = []
        self.room = MOST_IN_HAND
        self._wire = wire
        self._can = capabilities
        self._waiting: deque[_Mail] = deque()
        self._under_way: deque[_Mail] = deque()
        self._text: _Text | None = None
        # The relay still has an envelope of ours open that nothing came of.
        self._left_open = False

    @property
    def is_writing(self) -> bool:
        """Is a text on its way out?"""
        return self._text is not None

    @property
    def step(self) -> MailStep | None:
        """How far the message is that was begun first, None for none."""
        return self._under_way[0].step if self._under_way else None

    def hand_over(self, tag: object, sender: str, recipient: str, raw: bytes) -> None:
        """Take a message. Raises CommandFault when its addresses cannot be put on the wire."""
        assert self.room > 0, "a message for a connection that has no room"
        self._waiting.append(_Mail(tag, sender, recipient, raw))
        self.room -= 1
        self._begin_next()

    def piece(self) -> bytes:
        """The next piece of the text that is on its way; with the last of it goes its end, and what may follow behind."""
        text = self._text
        if text is None:
            return b""
        if len(text.whole) - text.out > PIECE_BYTES:
            begin, text.out = text.out, text.out + PIECE_BYTES
            return text.whole[begin : text.out]
        self._text = None
        # From here on the relay may have it.
        text.mail.on(MailEvent.WRITTEN)
        self._wire.awaited.append(partial(self._answered_text, text.mail))
        self._begin_next()
        pieces = (text.whole[text.out :] if text.out else text.whole, END, *self._wire.out)
        self._wire.out.clear()
        return b"".join(pieces)

    def break_off(self, meaning: Meaning, said: str) -> None:
        """The connection is gone: what is in hand is broken, or unknowable where its end has gone out."""
        for mail in (*self._under_way, *self._waiting):
            if mail.step is MailStep.TOLD:
                continue
            mail.on(MailEvent.BREAK)
            outcome = Unknowable() if mail.step is MailStep.UNKNOWABLE else Broken(no_answer(meaning, said))
            self.settled.append(Settled(mail.tag, outcome))
        self._under_way.clear()
        self._waiting.clear()
        self.room = 0
        self._text = None

    def _begin_next(self) -> None:
        """Write the envelope of a message that waits, if its turn has come."""
        while self._waiting:
            if self._under_way and (self._under_way[-1].step is not MailStep.END or not self._can.pipelining):
                # It may go behind the text of the one before it, and behind nothing else.
                return
            mail = self._waiting.popleft()
            if mail.utf8 and not self._can.smtputf8:
                self._refuse_here(mail, Meaning.NEEDS_SMTPUTF8, "The relay does not offer SMTPUTF8.")
            elif mail.eight_bit and not self._can.eight_bit:
                self._refuse_here(mail, Meaning.CANNOT_TAKE_IT, "The relay does not offer 8BITMIME.")
            else:
                self._under_way.append(mail)
                self._begin(mail)

    def _begin(self, mail: _Mail) -> None:
        wire = self._wire
        if self._left_open:
            self._left_open = False
            wire.write(b"RSET\r\n", self._answered_reset)
        mail.on(MailEvent.BEGIN)
        command = commands.mail_from(mail.sender, len(mail.raw), self._can, utf8=mail.utf8, eight_bit=mail.eight_bit)
        wire.write(command, partial(self._answered_mail, mail))
        if self._can.pipelining:
            self._write_recipient(mail)
            self._write_data(mail)

    def _refuse_here(self, mail: _Mail, meaning: Meaning, words: str) -> None:
        mail.on(MailEvent.REFUSE)
        answer = Answer(kind=AnswerKind.REFUSED_SENDER, code=0, enhanced=None, text=words, meaning=meaning)
        self.settled.append(Settled(mail.tag, Told(answer)))
        self.room += 1

    def _write_recipient(self, mail: _Mail) -> None:
        self._wire.write(b"RCPT TO:" + mail.recipient + b"\r\n", partial(self._answered_recipient, mail))

    def _write_data(self, mail: _Mail) -> None:
        self._wire.write(b"DATA\r\n", partial(self._answered_data, mail))

    def _answered_reset(self, reply: Reply) -> None:
        if reply.code != 250:
            raise self._wire.nonsense(reply.said)

    def _answered_mail(self, mail: _Mail, reply: Reply) -> None:
        if reply.code == 250:
            mail.on(MailEvent.AGREE)
            if not self._can.pipelining:
                self._write_recipient(mail)
        elif reply.code == 421:
            # It closes; that is about the connection and nobody's message (RFC 5321 section 4.2.3).
            raise self._wire.closed(reply)
        else:
            self._refused(mail, reply, Stage.MAIL)

    def _answered_recipient(self, mail: _Mail, reply: Reply) -> None:
        if mail.step is MailStep.TOLD:
            # MAIL was refused, and this went behind it; what it says is of no use to anybody.
            return
        if reply.code in (250, 251):
            mail.on(MailEvent.AGREE)
            if not self._can.pipelining:
                self._write_data(mail)
        else:
            self._left_open = True
            self._refused(mail, reply, Stage.RCPT)

    def _answered_data(self, mail: _Mail, reply: Reply) -> None:
        if mail.step is MailStep.TOLD:
            if reply.code == 354:
                # It waits for a text to nobody (RFC 2920 section 3.1): an empty one; what it says to that is no matter.
                self._left_open = False
                self._wire.write(END, lambda _: self._done(mail))
            else:
                self._done(mail)
        elif reply.code == 354:
            mail.on(MailEvent.AGREE)
            self._text = _Text(mail, wire_text(mail.raw))
            if self._wire.said is not None:
                self._wire.note(f"(the message, {len(mail.raw):,} bytes)\n.", ours=True)
        else:
            self._left_open = True
            self._refused(mail, reply, Stage.TEXT)

    def _answered_text(self, mail: _Mail, reply: Reply) -> None:
        if reply.code == 250:
            mail.on(MailEvent.AGREE)
            self.settled.append(Settled(mail.tag, Told(classify_answer(reply.code, reply.text, Stage.TEXT))))
            self._done(mail)
        else:
            self._refused(mail, reply, Stage.TEXT)

    def _refused(self, mail: _Mail, reply: Reply, stage: Stage) -> None:
        """Settle a message that is refused; its place is free once all that was written for it is answered."""
        if not reply.refuses:
            raise self._wire.nonsense(reply.said)
        more_to_come = self._can.pipelining and mail.step in (MailStep.MAIL, MailStep.RCPT)
        mail.on(MailEvent.REFUSE)
        self.settled.append(Settled(mail.tag, Told(classify_answer(reply.code, reply.text, stage))))
        if reply.code == 421:
            raise self._wire.closed(reply)
        if not more_to_come:
            self._done(mail)

    def _done(self, mail: _Mail) -> None:
        self._under_way.remove(mail)
        self.room += 1
        if self._waiting:
            self._begin_next()
