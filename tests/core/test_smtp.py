"""The conversation with a relay, against a server of the test's own that answers, breaks off and splits its bytes at will."""

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import product

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from uvarovite.core.delivery.answers import AnswerKind, Meaning
from uvarovite.core.delivery.outcomes import Broken, Outcome, Told, Unknowable
from uvarovite.core.delivery.smtp import (
    CONNECTION,
    MAIL,
    MOST_IN_HAND,
    PIECE_BYTES,
    CommandFault,
    ConnectionStep,
    Conversation,
    Event,
    MailEvent,
    MailStep,
    Over,
    Ready,
    Secure,
    Settings,
    Settled,
)
from uvarovite.core.delivery.smtp.commands import path
from uvarovite.core.delivery.smtp.replies import LONGEST_LINE, MOST_LINES, ReplyFault, ReplyReader
from uvarovite.core.delivery.smtp.text import wire_text
from uvarovite.core.delivery.troubles import relay_trouble

SENDER = "walks@skarnmuseum.example"
DROP = "drop"
GONE = relay_trouble("broke", where="relay.example:25", said="gone")


def settings(**changed: object) -> Settings:
    return Settings(**{"where": "relay.example:25", "hello_name": "museum.example", **changed})  # type: ignore[arg-type]


@dataclass
class Server:
    """A strict server. `answers` is asked for the reply to each command: a code, or DROP; it keeps its own account."""

    answers: Callable[[str], int | str]
    offers: tuple[str, ...] = ()
    taken: dict[str, int | str] = field(default_factory=dict)
    texts: list[bytes] = field(default_factory=list)
    _unread: bytes = b""
    _envelope: list[str] = field(default_factory=list)
    _in_text: bool = False
    gone: bool = False

    def greet(self) -> bytes:
        return b"220 relay.example\r\n"

    def receive(self, data: bytes) -> bytes:
        """What it says to some bytes; after a DROP nothing more."""
        self._unread += data
        said = b""
        while not self.gone and (step := self._step()) is not None:
            said += step
        return said

    def _step(self) -> bytes | None:
        if self._in_text:
            text, end, rest = self._unread.partition(b"\r\n.\r\n")
            if self._unread.startswith(b".\r\n"):
                text, end, rest = b"", b".\r\n", self._unread[3:]
            if not end:
                return None
            self._unread, self._in_text = rest, False
            recipient = self._envelope[1] if len(self._envelope) > 1 else None
            self._envelope = []
            if recipient is None:
                assert text == b"", "a text for nobody"
                return b"554 5.5.1 No valid recipients\r\n"
            assert recipient not in self.taken, "a message twice"
            self.texts.append(text + b"\r\n")
            return self._say(recipient, "END")
        line, end, rest = self._unread.partition(b"\r\n")
        if not end:
            return None
        self._unread = rest
        return self._command(line.decode())

    def _command(self, line: str) -> bytes:
        word = line[:4]
        if word == "EHLO":
            return "".join(f"250-{one}\r\n" for one in ("relay.example", *self.offers)).encode() + b"250 8BITMIME\r\n"
        if word == "MAIL":
            assert not self._envelope, "MAIL within a transaction"
            return self._say(None, word, then=lambda: self._envelope.append(line))
        if word == "RCPT":
            if not self._envelope:
                return b"503 5.5.1 MAIL first\r\n"
            address = line.removeprefix("RCPT TO:<").partition(">")[0]
            return self._say(None, word, then=lambda: self._envelope.append(address))
        if word == "DATA":
            if not self._envelope:
                return b"503 5.5.1 MAIL first\r\n"
            if len(self._envelope) < 2:
                # Some servers wait for a text even so (RFC 2920 section 3.1).
                answer = self.answers("DATA")
                self._in_text = answer == 354
                return b"354 Go on\r\n" if self._in_text else b"554 5.5.1 No valid recipients\r\n"
            return self._say(None, word, then=self._begin_text)
        if word == "RSET":
            self._envelope = []
            return b"250 2.0.0 Ok\r\n"
        assert word == "QUIT", line
        return b"221 2.0.0 Bye\r\n"

    def _begin_text(self) -> None:
        self._in_text = True

    def _say(self, recipient: str | None, word: str, then: Callable[[], object] = lambda: None) -> bytes:
        answer = self.answers(word)
        if recipient is not None:
            self.taken[recipient] = answer
        if answer == DROP:
            self.gone = True
            return b""
        if answer in (250, 354):
            then()
        if answer == 421:
            self.gone = True
        return f"{answer} said to {word}\r\n".encode()


GOOD = {"MAIL": 250, "RCPT": 250, "DATA": 354, "END": 250}


def play(
    server: Server, messages: int, cut: Callable[[bytes], list[bytes]] = lambda said: [said]
) -> dict[int, Outcome]:
    """A conversation until all is told or the connection is over; what became of the messages that were handed over."""
    conversation = Conversation(settings())
    told: dict[int, Outcome] = {}
    handed = 0
    arriving = cut(server.greet())
    over = False

    def take(events: list[Event]) -> None:
        nonlocal over
        for event in events:
            if isinstance(event, Settled):
                assert isinstance(event.tag, int)
                assert event.tag not in told, "settled twice"
                told[event.tag] = event.outcome
            elif isinstance(event, Over):
                over = True

    while not over:
        while arriving and not over:
            take(conversation.receive(arriving.pop(0)))
            while not over and conversation.has_room and handed < messages:
                take(conversation.hand_over(handed, SENDER, recipient(handed), RAW))
                handed += 1
            while data := conversation.pull():
                arriving += cut(server.receive(data))
        if over or (not server.gone and len(told) == messages):
            break
        assert server.gone, "both wait for the other"
        take(conversation.lost(GONE))
    assert len(told) == handed, "everything handed over is settled"
    return told


def recipient(number: int) -> str:
    return f"p{number}@slatepost.example"


RAW = b"Subject: x\r\n\r\n.one dot\r\nand a line\r\n"


@given(st.data(), st.booleans(), st.integers(1, 6))
def test_what_is_told_is_what_the_server_knows(data: st.DataObject, pipelining: bool, messages: int) -> None:
    def answers(word: str) -> int | str:
        good = GOOD[word]
        return data.draw(st.sampled_from([good, good, good, 450, 550, 421, 299, DROP]), label=word)

    def cut(said: bytes) -> list[bytes]:
        at = data.draw(st.integers(0, len(said)))
        return [piece for piece in (said[:at], said[at:]) if piece]

    server = Server(answers, ("PIPELINING",) if pipelining else ())
    told = play(server, messages, cut)
    for number, outcome in told.items():
        known = server.taken.get(recipient(number))
        match outcome:
            case Told(answer) if answer.kind is AnswerKind.ACCEPTED:
                assert known == 250
            case Told(answer):
                assert known in (None, answer.code)
            case Broken():
                assert known is None, "broken, and yet the server has it"
            case Unknowable():
                assert known in (DROP, 299, None)
            case _:
                raise AssertionError(outcome)
        if known is not None and known != DROP:
            assert not isinstance(outcome, Broken)
    assert set(server.texts) <= {wire_text(RAW)}


@pytest.mark.parametrize(("pipelining", "word"), list(product([True, False], ["MAIL", "RCPT", "DATA", "END"])))
def test_a_break_tells_exactly_whether_the_message_can_have_been_taken(pipelining: bool, word: str) -> None:
    server = Server(lambda said: DROP if said == word else GOOD[said], ("PIPELINING",) if pipelining else ())
    first = play(server, 3)[0]
    assert isinstance(first, Unknowable if word == "END" else Broken)


def opened(*offers: str, **changed: object) -> Conversation:
    conversation = Conversation(settings(**changed), keep_wire=True)
    conversation.receive(b"220 hi\r\n")
    conversation.pull()
    lines = ["relay.example", *offers]
    said = "".join(f"250{'-' if place < len(lines) - 1 else ' '}{line}\r\n" for place, line in enumerate(lines))
    conversation.receive(said.encode())
    return conversation


def test_the_next_envelope_goes_behind_the_text_in_one_piece() -> None:
    conversation = opened("PIPELINING", "SIZE 1000")
    for number in range(MOST_IN_HAND):
        conversation.hand_over(number, SENDER, recipient(number), RAW)
    assert not conversation.has_room
    first = conversation.pull()
    assert first.split(b"\r\n") == [
        b"MAIL FROM:<walks@skarnmuseum.example> SIZE=%d" % len(RAW), b"RCPT TO:<p0@slatepost.example>", b"DATA", b"",
    ]  # fmt: skip
    conversation.receive(b"250 ok\r\n250 ok\r\n354 go on\r\n")
    piece = conversation.pull()
    assert piece.startswith(b"Subject: x\r\n\r\n..one dot\r\n")
    assert b"\r\n.\r\nMAIL FROM:<walks@skarnmuseum.example> SIZE=" in piece
    assert piece.endswith(b"RCPT TO:<p1@slatepost.example>\r\nDATA\r\n")
    assert conversation.pull() == b""


def test_a_large_text_may_have_been_taken_only_once_its_last_piece_is_out() -> None:
    def broken_after(pieces: int) -> Outcome:
        conversation = opened("PIPELINING")
        conversation.hand_over(1, SENDER, recipient(1), b"x" * 60 + b"\r\n" + b"y" * 2 * PIECE_BYTES)
        conversation.pull()
        conversation.receive(b"250 ok\r\n250 ok\r\n354 go on\r\n")
        for _ in range(pieces):
            assert conversation.pull()
        settled = conversation.lost(GONE)[0]
        assert isinstance(settled, Settled)
        return settled.outcome

    assert isinstance(broken_after(2), Broken)
    assert isinstance(broken_after(3), Unknowable)


@given(st.binary(max_size=300))
@example(b".\r\n.\r\nQUIT\r\n")
@example(b"a\n.\nb\r.\rc")
def test_a_text_has_crlf_alone_and_cannot_end_early(raw: bytes) -> None:
    text = wire_text(raw)
    assert text.count(b"\r") == text.count(b"\n") == text.count(b"\r\n")
    assert text.endswith(b"\r\n")
    assert b"\r\n.\r\n" not in b"\r\n" + text
    plain = b"\r\n".join(line.removeprefix(b".") for line in text.split(b"\r\n"))
    assert plain.replace(b"\r\n", b"\n").rstrip(b"\n") == b"\n".join(raw.replace(b"\r\n", b"\n").split(b"\r")).rstrip(
        b"\n"
    )


@given(st.text(max_size=40))
@example("ada@slatepost.example>\r\nRCPT TO:<eve@slatepost.example")
@example('"a b"@slatepost.example')
@example("@slatepost.example")
def test_no_address_can_end_its_command(address: str) -> None:
    try:
        told = path(address).decode()
    except CommandFault:
        return
    assert told == f"<{address}>"
    assert not set(told) & set(map(chr, range(32)))
    assert " " not in told or '"' in told


def test_an_address_for_no_envelope_is_our_fault_and_leaves_the_line_as_it_was() -> None:
    conversation = opened()
    with pytest.raises(CommandFault):
        conversation.hand_over(1, SENDER, "ada\r\nDATA@slatepost.example", RAW)
    assert conversation.pull() == b""
    assert conversation.has_room
    conversation.hand_over(2, SENDER, recipient(2), RAW)
    assert conversation.pull().startswith(b"MAIL FROM")


@given(st.lists(st.binary(max_size=50), max_size=20))
def test_whatever_a_server_says_the_conversation_ends_or_goes_on(pieces: list[bytes]) -> None:
    conversation = Conversation(settings(username="museum", password="x", protect=True))
    ended = []
    for piece in pieces:
        ended += [event for event in conversation.receive(piece) if isinstance(event, Over)]
    assert len(ended) == (conversation.step is ConnectionStep.OVER)


def fault_of(conversation: Conversation, said: bytes) -> str:
    over = conversation.receive(said)[-1]
    assert isinstance(over, Over)
    assert over.trouble is not None
    assert conversation.pull() == b""
    return over.trouble.code


def test_a_hostile_server_is_left_and_keeps_nothing() -> None:
    assert fault_of(Conversation(settings()), b"2" * (LONGEST_LINE + 1)) == "nonsense"
    assert fault_of(Conversation(settings()), b"220-on and on\r\n" * (MOST_LINES + 1)) == "nonsense"
    assert fault_of(Conversation(settings()), b"220-x\r\n250 y\r\n") == "nonsense"
    assert fault_of(Conversation(settings()), b"\0\0\0\r\n") == "nonsense"
    assert fault_of(Conversation(settings()), b"220 hi\r\n250 but nobody asked\r\n250 nor now\r\n") == "nonsense"
    assert fault_of(opened(), b"421 4.3.2 Going down\r\n") == "closed"
    assert fault_of(opened(), b"354 go on, then\r\n") == "nonsense"


def test_nothing_is_believed_that_comes_before_tls() -> None:
    def asked() -> Conversation:
        conversation = opened("STARTTLS", "AUTH PLAIN", protect=True, username="museum", password="s3cret")
        assert conversation.pull() == b"STARTTLS\r\n"
        return conversation

    assert fault_of(asked(), b"220 go on\r\n250 AUTH PLAIN\r\n") == "injected"
    assert fault_of(asked(), b"220 go on\r\n25") == "injected"
    conversation = asked()
    assert conversation.receive(b"220 go on\r\n") == [Secure()]
    assert fault_of(conversation, b"235 you are in\r\n") in ("injected", "nonsense")
    conversation = asked()
    conversation.receive(b"220 go on\r\n")
    conversation.secured()
    assert not conversation.capabilities.log_ins
    assert conversation.pull() == b"EHLO museum.example\r\n"
    conversation.receive(b"250-relay.example\r\n250 AUTH LOGIN\r\n")
    assert conversation.pull() == b"AUTH LOGIN\r\n"
    conversation.receive(b"334 VXNlcm5hbWU6\r\n")
    assert conversation.pull() == b"bXVzZXVt\r\n"
    conversation.receive(b"334 UGFzc3dvcmQ6\r\n")
    assert conversation.pull() == b"czNjcmV0\r\n"
    assert conversation.receive(b"235 2.7.0 Welcome\r\n") == [Ready()]
    said = "\n".join(one.words for one in conversation.said)
    assert "czNjcmV0" not in said
    assert "s3cret" not in said


def test_a_log_in_that_does_not_work_says_why() -> None:
    conversation = Conversation(settings(username="m", password="x"))
    conversation.receive(b"220 hi\r\n")
    assert fault_of(conversation, b"250-relay.example\r\n250 AUTH CRAM-MD5\r\n") == "no_log_in"
    conversation = opened("AUTH PLAIN", username="m", password="x")
    assert conversation.pull() == b"AUTH PLAIN AG0AeA==\r\n"
    assert fault_of(conversation, b"535 5.7.8 Wrong\r\n") == "log_in"
    conversation = opened("AUTH PLAIN", username="m", password="x")
    assert fault_of(conversation, b"454 4.7.0 Not now\r\n") == "turned_away"


def test_a_server_of_old_times_is_greeted_as_it_knows_it() -> None:
    conversation = Conversation(settings())
    conversation.receive(b"220 hi\r\n")
    assert conversation.pull() == b"EHLO museum.example\r\n"
    conversation.receive(b"502 what?\r\n")
    assert conversation.pull() == b"HELO museum.example\r\n"
    assert conversation.receive(b"250 relay.example\r\n") == [Ready()]


def refused(conversation: Conversation, to: str, raw: bytes = RAW) -> Meaning:
    settled = conversation.hand_over(1, SENDER, to, raw)[0]
    assert isinstance(settled, Settled)
    assert isinstance(settled.outcome, Told)
    assert settled.outcome.answer.kind is AnswerKind.REFUSED_SENDER
    assert conversation.has_room
    return settled.outcome.answer.meaning


def test_what_a_relay_cannot_take_is_not_tried_on_it() -> None:
    assert refused(opened(), "ünal@slatepost.example") is Meaning.NEEDS_SMTPUTF8
    assert refused(opened(), recipient(1), "Grüße".encode()) is Meaning.CANNOT_TAKE_IT
    conversation = opened("SMTPUTF8", "8BITMIME")
    conversation.hand_over(1, SENDER, "ünal@slatepost.example", "Grüße".encode())
    assert conversation.pull() == b"MAIL FROM:<walks@skarnmuseum.example> BODY=8BITMIME SMTPUTF8\r\n"


@given(
    st.lists(st.sampled_from([b"250 ok\r\n", b"250-more\r\n250 end\r\n", b"354\r\n", b"550 5.1.1 No\xff\r\n"])),
    st.data(),
)
def test_replies_are_the_same_however_they_arrive(said: list[bytes], data: st.DataObject) -> None:
    whole = ReplyReader().feed(b"".join(said))
    reader, pieces, rest = ReplyReader(), [], b"".join(said)
    while rest:
        at = data.draw(st.integers(1, len(rest)))
        pieces += reader.feed(rest[:at])
        rest = rest[at:]
    assert pieces == whole
    assert len(whole) == len(said)


def test_a_reply_that_is_none_is_named() -> None:
    with pytest.raises(ReplyFault, match="hello"):
        ReplyReader().feed(b"hello\r\n")


def test_every_step_of_a_message_can_break_and_only_the_last_leaves_it_open() -> None:
    for step in MAIL.open:
        broken = MAIL.next(step, MailEvent.BREAK)
        assert broken is (MailStep.UNKNOWABLE if step is MailStep.END else MailStep.BROKEN)
    assert MAIL.final == {MailStep.TOLD, MailStep.BROKEN, MailStep.UNKNOWABLE}
    assert CONNECTION.final == {ConnectionStep.OVER}
