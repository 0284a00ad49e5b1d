"""Talking to relays: what they answer is a value, and what can be known of a message decides what follows."""

import asyncio
import re
from collections.abc import Coroutine
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from typing import Any

import pytest

from tests.support.certificates import Certificates, make_certificates
from tests.support.ports import free_port
from tests.support.relays import DROP, SILENCE, Script, relay
from uvarovite.core.delivery import AnswerKind
from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.delivery.outcomes import Broken, Outcome, Told, Unknowable
from uvarovite.core.delivery.troubles import RelayUnreachable
from uvarovite.net.smtp import RelayLine

MESSAGE = b"Subject: x\r\n\r\nDear Ada,\r\n.\r\n..two dots\r\n"


@dataclass(frozen=True)
class Access:
    port: int
    host: str = "127.0.0.1"
    security: str = "none"
    username: str | None = None
    password: str | None = None
    timeout_seconds: int = 2
    hello_name: str | None = None
    authority: str | None = None


def play(work: Coroutine[Any, Any, Any]) -> Any:
    return asyncio.run(asyncio.wait_for(work, 30))


async def send_one(script: Script, to: str = "ada@slatepost.example") -> Outcome:
    async with relay(script) as port:
        line = RelayLine(Access(port))
        await line.open()
        try:
            return await line.send("walks@museum.example", to, MESSAGE)
        finally:
            await line.close()


ANSWERED = [
    ({}, AnswerKind.ACCEPTED, 250),
    ({"RCPT": "550 5.1.1 Nobody of that name"}, AnswerKind.REFUSED_ADDRESS, 550),
    ({"RCPT": "451 4.7.1 Greylisted"}, AnswerKind.TRY_LATER, 451),
    ({"MAIL": "550 5.7.1 You are not allowed"}, AnswerKind.REFUSED_SENDER, 550),
    ({"DATA": "452 4.3.1 Disk full"}, AnswerKind.TRY_LATER, 452),
    ({".": "554 5.7.1 Spam"}, AnswerKind.REFUSED_SENDER, 554),
    ({".": "421 4.3.2 Going down"}, AnswerKind.TRY_LATER, 421),
    ({"RCPT": "421 4.7.0 Too many"}, AnswerKind.TRY_LATER, 421),
]


@pytest.mark.parametrize(("replies", "kind", "code"), ANSWERED)
def test_what_a_relay_answers_is_a_value(replies: dict[str, str], kind: AnswerKind, code: int) -> None:
    outcome = play(send_one(Script(replies=replies)))
    assert isinstance(outcome, Told)
    assert (outcome.answer.kind, outcome.answer.code) == (kind, code)


@pytest.mark.parametrize("moment", ["MAIL", "RCPT", "DATA"])
@pytest.mark.parametrize("how", [DROP, SILENCE, "hello", "252 2.5.2 Perhaps", "120 Soon", "700 No"])
def test_a_break_before_the_message_is_handed_over_is_known_to_be_harmless(moment: str, how: str) -> None:
    script = Script(replies={moment: how})
    outcome = play(send_one(script))
    assert isinstance(outcome, Broken)
    assert (outcome.answer.kind, outcome.answer.code) == (AnswerKind.CONNECTION, 0)
    assert script.messages == []


@pytest.mark.parametrize("how", [DROP, SILENCE, "hello", "252 2.5.2 Perhaps", "120 Soon", "700 No"])
def test_a_break_after_the_message_was_sent_can_be_known_by_nobody(how: str) -> None:
    script = Script(replies={".": how})
    assert isinstance(play(send_one(script)), Unknowable)
    assert len(script.messages) == 1


def test_a_connection_is_used_again_after_a_refusal_and_opened_again_after_a_break() -> None:
    async def several() -> tuple[list[Any], Script]:
        script = Script(replies={"RCPT": "550 5.1.1 Nobody"})
        async with relay(script) as port:
            line = RelayLine(Access(port))
            await line.open()
            told = [await line.send("a@museum.example", "b@slatepost.example", MESSAGE)]
            assert line.is_open
            script.replies = {"RCPT": DROP}
            told.append(await line.send("a@museum.example", "b@slatepost.example", MESSAGE))
            assert not line.is_open
            assert line.trouble is not None
            script.replies = {}
            await line.open()
            assert line.trouble is None
            told.append(await line.send("a@museum.example", "b@slatepost.example", MESSAGE))
            await line.close()
        return [outcome.answer.kind for outcome in told], script

    kinds, script = play(several())
    assert kinds == [AnswerKind.REFUSED_ADDRESS, AnswerKind.CONNECTION, AnswerKind.ACCEPTED]
    assert script.connections == 2


def test_several_are_in_hand_and_each_is_told_its_own() -> None:
    async def all_at_once() -> list[tuple[int, Outcome]]:
        told: list[tuple[int, Outcome]] = []
        done = asyncio.get_running_loop().create_future()
        script = Script(replies={"EHLO": "250-relay.example\r\n250 PIPELINING"})
        async with relay(script) as port:
            line = RelayLine(Access(port))
            await line.open()
            waiting = list(range(20))

            def then(number: int, outcome: Outcome) -> None:
                told.append((number, outcome))
                feed()
                if len(told) == 20:
                    done.set_result(None)

            def feed() -> None:
                while waiting and line.has_room:
                    number = waiting.pop(0)
                    size = 3_000_000 if number == 7 else 10
                    raw = b"Subject: %d\r\n\r\n" % number + (b"x" * 60 + b"\r\n") * (size // 62)
                    line.hand_over("a@museum.example", f"p{number}@b.example", raw, partial(then, number))

            feed()
            await done
            await line.close()
        assert [raw.split(b"\r\n")[0] for raw in script.messages] == [b"Subject: %d" % number for number in range(20)]
        return told

    told = play(all_at_once())
    assert [number for number, _ in told] == list(range(20))
    assert all(isinstance(outcome, Told) for _, outcome in told)


def test_a_relay_that_says_a_byte_now_and_then_is_given_up() -> None:
    """Bytes that make no reply do not keep the clock from running."""

    async def dripping(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        writer.write(b"220 hi\r\n")
        await reader.readline()
        writer.write(b"250 relay.example\r\n")
        with suppress(ConnectionError):
            while True:
                writer.write(b"2")
                await writer.drain()
                await asyncio.sleep(0.05)

    async def attempt() -> Outcome:
        server = await asyncio.start_server(dripping, "127.0.0.1", 0)
        line = RelayLine(Access(server.sockets[0].getsockname()[1], timeout_seconds=1))
        await line.open()
        outcome = await line.send("a@museum.example", "b@slatepost.example", MESSAGE)
        assert line.trouble is not None
        assert line.trouble.code == "silent"
        server.close()
        return outcome

    assert isinstance(play(attempt()), Broken)


@pytest.fixture(scope="module")
def certificates(tmp_path_factory: pytest.TempPathFactory) -> Certificates:
    return make_certificates(tmp_path_factory.mktemp("certificates"))


TLS_OFFERED = {"EHLO": "250-relay.example\r\n250-STARTTLS\r\n250 AUTH PLAIN", "STARTTLS": "220 Go on", "AUTH": "235 Ok"}


@pytest.mark.parametrize("security", ["starttls", "tls"])
def test_under_tls_a_message_goes_as_it_does_without(certificates: Certificates, security: str) -> None:
    script = Script(replies=TLS_OFFERED, tls=certificates.server("localhost"), tls_first=security == "tls")

    async def attempt() -> Outcome:
        async with relay(script) as port:
            access = Access(
                port, host="localhost", security=security, username="museum", password="s3cret",
                authority=certificates.authority.read_text(),
            )  # fmt: skip
            line = RelayLine(access)
            await line.open()
            outcome = await line.send("a@museum.example", "b@slatepost.example", MESSAGE)
            await line.close()
            return outcome

    assert isinstance(play(attempt()), Told)
    assert ("STARTTLS" in script.seen) == (security == "starttls")
    assert script.seen.count("EHLO") == (2 if security == "starttls" else 1)


@pytest.mark.parametrize("security", ["starttls", "tls"])
@pytest.mark.parametrize(("name", "days", "known", "said"), [
    ("other.example", 1, True, "localhost"), ("localhost", -1, True, "expired"), ("localhost", 1, False, "certificate"),
])  # fmt: skip
def test_a_certificate_that_cannot_be_trusted_is_not(
    certificates: Certificates,
    security: str,
    name: str,
    days: int,
    known: bool,
    said: str,
) -> None:
    authority = certificates.authority.read_text() if known else None
    script = Script(replies=TLS_OFFERED, tls=certificates.server(name, days=days), tls_first=security == "tls")

    async def attempt() -> str:
        async with relay(script) as port:
            return await fail_to_open(
                Access(port, host="localhost", security=security, username="m", password="x", authority=authority)
            )

    told = play(attempt())
    assert told.startswith("certificate: ")
    assert said in told
    assert "AUTH" not in script.seen


def test_dots_and_line_ends_arrive_as_they_were_sent() -> None:
    script = Script()
    play(send_one(script))
    assert script.messages == [b"Subject: x\r\n\r\nDear Ada,\r\n..\r\n...two dots\r\n.\r\n"]


def test_an_address_in_other_letters_asks_for_smtputf8_only_then() -> None:
    script = Script()
    assert play(send_one(script, "ünal@slatepost.example")).answer.kind is AnswerKind.ACCEPTED
    plain = Script(replies={"EHLO": "250 relay.example"})
    assert play(send_one(plain, "ünal@slatepost.example")).answer.meaning is Meaning.NEEDS_SMTPUTF8
    assert "MAIL" not in plain.seen


async def fail_to_open(access: Access) -> str:
    with pytest.raises(RelayUnreachable) as fault:
        await RelayLine(access).open()
    return f"{fault.value.trouble.code}: {fault.value.trouble.message}"


def test_why_no_conversation_comes_about_is_told_in_words() -> None:
    async def told() -> list[str]:
        words = [await fail_to_open(Access(free_port()))]
        words.append(await fail_to_open(Access(25, host="no-such-host.invalid")))
        async with relay(Script(greeting=SILENCE)) as port:
            words.append(await fail_to_open(Access(port, timeout_seconds=1)))
        async with relay(Script(greeting="554 5.7.1 Go away")) as port:
            words.append(await fail_to_open(Access(port)))
        async with relay(Script()) as port:
            words.append(await fail_to_open(Access(port, security="starttls")))
        async with relay(Script()) as port:
            words.append(await fail_to_open(Access(port, security="tls")))
        log_in = Script(replies={"EHLO": "250-relay.example\r\n250 AUTH PLAIN", "AUTH": "535 5.7.8 Wrong"})
        async with relay(log_in) as port:
            words.append(await fail_to_open(Access(port, username="museum", password="wrong")))
        return words

    refused, unknown, silent, away, plain, no_tls, log_in = play(told())
    assert refused.startswith("nothing_listens: Nothing listens at 127.0.0.1:")
    assert "There is no host of that name" in unknown
    assert "did not answer in time" in silent
    assert re.fullmatch(r"turned_away: 127\.0\.0\.1:\d+ turned us away with “554 5\.7\.1 Go away”\.", away)
    assert "STARTTLS" in plain
    assert no_tls.startswith("no_tls: ")
    assert log_in.startswith("log_in: ")
    assert "Check user and password" in log_in
    assert "wrong" not in log_in.replace("Wrong", "")
