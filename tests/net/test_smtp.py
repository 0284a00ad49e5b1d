"""Talking to relays: what they answer is a value, and what can be known of a message decides what follows."""

import asyncio
import re
from collections.abc import Coroutine
from dataclasses import dataclass
from typing import Any

import pytest

from tests.support.ports import free_port
from tests.support.relays import DROP, SILENCE, Script, relay
from uvarovite.core.delivery import Answer, AnswerKind
from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.delivery.troubles import RelayUnreachable
from uvarovite.net.smtp import RelayConnection, try_relay

MESSAGE = b"Subject: x\r\n\r\nDear Ada,\r\n.\r\n..two dots\r\n"


@dataclass(frozen=True)
class Access:
    port: int
    host: str = "127.0.0.1"
    security: str = "none"
    username: str | None = None
    password: str | None = None
    timeout_seconds: int = 2


def play(work: Coroutine[Any, Any, Any]) -> Any:
    return asyncio.run(asyncio.wait_for(work, 30))


async def send_one(script: Script, to: str = "ada@slatepost.example") -> Answer | None:
    async with relay(script) as port, RelayConnection(Access(port)) as line:
        return await line.send("walks@museum.example", to, MESSAGE)


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
    answer = play(send_one(Script(replies=replies)))
    assert (answer.kind, answer.code) == (kind, code)


@pytest.mark.parametrize("moment", ["MAIL", "RCPT"])
@pytest.mark.parametrize("how", [DROP, SILENCE])
def test_a_break_before_the_message_is_handed_over_is_known_to_be_harmless(moment: str, how: str) -> None:
    script = Script(replies={moment: how})
    answer = play(send_one(script))
    assert (answer.kind, answer.code) == (AnswerKind.CONNECTION, 0)
    assert script.messages == []


@pytest.mark.parametrize("how", [DROP, SILENCE])
def test_a_break_after_the_message_was_sent_can_be_known_by_nobody(how: str) -> None:
    script = Script(replies={".": how})
    assert play(send_one(script)) is None
    assert len(script.messages) == 1


@pytest.mark.parametrize("word", ["MAIL", "RCPT"])
@pytest.mark.parametrize("said", ["hello", "252 2.5.2 Perhaps", "354 Go on", "120 Soon", "700 No"])
def test_what_is_no_answer_before_the_message_takes_nothing_and_refuses_nobody(word: str, said: str) -> None:
    script = Script(replies={word: said})
    answer = play(send_one(script))
    assert (answer.kind, answer.meaning) == (AnswerKind.CONNECTION, Meaning.NO_ANSWER)
    assert script.messages == []


@pytest.mark.parametrize("word", ["DATA", "."])
@pytest.mark.parametrize("said", ["hello", "252 2.5.2 Perhaps", "120 Soon", "700 No"])
def test_what_is_no_answer_to_the_message_leaves_open_whether_it_was_taken(word: str, said: str) -> None:
    assert play(send_one(Script(replies={word: said}))) is None


def test_a_connection_is_used_again_after_a_refusal_and_opened_again_after_a_break() -> None:
    async def several() -> tuple[list[Any], Script]:
        script = Script(replies={"RCPT": "550 5.1.1 Nobody"})
        async with relay(script) as port, RelayConnection(Access(port)) as line:
            told = [await line.send("a@museum.example", "b@slatepost.example", MESSAGE)]
            assert line.is_open
            script.replies = {"RCPT": DROP}
            told.append(await line.send("a@museum.example", "b@slatepost.example", MESSAGE))
            assert not line.is_open
            script.replies = {}
            await line.open()
            told.append(await line.send("a@museum.example", "b@slatepost.example", MESSAGE))
        return [answer.kind for answer in told], script

    kinds, script = play(several())
    assert kinds == [AnswerKind.REFUSED_ADDRESS, AnswerKind.CONNECTION, AnswerKind.ACCEPTED]
    assert script.connections == 2


def test_dots_and_line_ends_arrive_as_they_were_sent() -> None:
    script = Script()
    play(send_one(script))
    assert script.messages == [b"Subject: x\r\n\r\nDear Ada,\r\n..\r\n...two dots\r\n.\r\n"]


def test_an_address_in_other_letters_asks_for_smtputf8_only_then() -> None:
    script = Script()
    assert play(send_one(script, "ünal@slatepost.example")).kind is AnswerKind.ACCEPTED
    plain = Script(replies={"EHLO": "250 relay.example", "MAIL": "555 5.6.7 SMTPUTF8 not offered"})
    assert play(send_one(plain, "ünal@slatepost.example")).kind is AnswerKind.REFUSED_ADDRESS


async def fail_to_open(access: Access) -> str:
    with pytest.raises(RelayUnreachable) as fault:
        await RelayConnection(access).open()
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
        log_in = Script(replies={"EHLO": "250-relay.example\r\n250 AUTH PLAIN", "AUTH": "535 5.7.8 Wrong"})
        async with relay(log_in) as port:
            words.append(await fail_to_open(Access(port, username="museum", password="wrong")))
        return words

    refused, unknown, silent, away, plain, log_in = play(told())
    assert refused.startswith("nothing_listens: Nothing listens at 127.0.0.1:")
    assert "There is no host of that name" in unknown
    assert "did not answer in time" in silent
    assert re.fullmatch(r"turned_away: 127\.0\.0\.1:\d+ turned us away with “554 5\.7\.1 Go away”\.", away)
    assert "STARTTLS" in plain
    assert log_in.startswith("log_in: ")
    assert "Check user and password" in log_in
    assert "wrong" not in log_in.replace("Wrong", "")


def test_trying_a_relay_sends_nothing_and_says_each_step() -> None:
    async def attempt() -> tuple[Any, Script]:
        script = Script()
        async with relay(script) as port:
            return await try_relay(Access(port)), script

    report, script = play(attempt())
    assert report.worked
    assert [step.name for step in report.steps] == ["find the host", "connect and greet"]
    assert "unprotected" in report.steps[1].words
    assert "MAIL" not in script.seen
    log_in = Script(replies={"EHLO": "250-relay.example\r\n250 AUTH PLAIN", "AUTH": "535 5.7.8 Wrong"})

    async def refused() -> Any:
        async with relay(log_in) as port:
            return await try_relay(Access(port, username="museum", password="wrong"))

    assert [(step.name, step.worked) for step in play(refused()).steps] == [("find the host", True), ("log-in", False)]
    missing = play(try_relay(Access(25, host="no-such-host.invalid")))
    assert [step.worked for step in missing.steps] == [False]
