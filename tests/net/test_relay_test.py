"""Trying a relay: each step with what was said in it, and what went wrong where it did."""

import asyncio
from pathlib import Path

import pytest

from tests.net.test_smtp import Access
from tests.support.certificates import Certificates, make_certificates
from tests.support.ports import free_port
from tests.support.relays import DROP, Script, relay
from uvarovite.net.relay_test import Letter, TryReport, try_relay

LETTER = Letter(sender="walks@museum.example", recipient="signe@museum.example", raw=b"Subject: x\r\n\r\nHello\r\n")
PLAIN = ["find the host", "connect", "greeting", "envelope", "message to you"]
OFFERS = {"EHLO": "250-relay.example\r\n250-STARTTLS\r\n250-PIPELINING\r\n250-SIZE 20971520\r\n250 AUTH PLAIN",
          "STARTTLS": "220 Go on", "AUTH": "235 2.7.0 Welcome"}  # fmt: skip


@pytest.fixture(scope="module")
def certificates(tmp_path_factory: pytest.TempPathFactory) -> Certificates:
    return make_certificates(tmp_path_factory.mktemp("certificates"))


def tried(script: Script, letter: Letter | None = LETTER, **access: object) -> TryReport:
    async def attempt() -> TryReport:
        async with relay(script) as port:
            return await try_relay(Access(port, **access), letter)  # type: ignore[arg-type]

    return asyncio.run(asyncio.wait_for(attempt(), 30))


def names(report: TryReport) -> list[str]:
    return [step.name for step in report.steps]


def test_each_step_says_what_came_of_it_and_what_was_said() -> None:
    script = Script(replies={"EHLO": OFFERS["EHLO"]})
    report = tried(script)
    assert names(report) == PLAIN
    assert report.worked
    assert report.largest_bytes == 20_971_520
    wire = {step.name: [(said.ours, said.words) for said in step.wire] for step in report.steps}
    assert wire["greeting"][0] == (False, "220 relay.example ready")
    assert wire["greeting"][1][1].startswith("EHLO ")
    assert (False, "250-PIPELINING") in wire["greeting"]
    assert [words for _, words in wire["envelope"]] == [
        "MAIL FROM:<walks@museum.example> SIZE=21", "250 2.1.0 Ok", "RCPT TO:<signe@museum.example>", "250 2.1.5 Ok",
    ]  # fmt: skip
    assert wire["message to you"][0] == (True, "DATA")
    assert wire["message to you"][-3:] == [(False, "250 2.0.0 Ok: queued"), (True, "QUIT"), (False, "221 2.0.0 Bye")]
    assert report.steps[-1].words == "The relay said: 250 2.0.0 Ok: queued"
    assert "unprotected" in report.steps[1].words
    assert len(script.messages) == 1


def test_without_a_letter_nothing_is_sent() -> None:
    script = Script()
    assert names(tried(script, None)) == PLAIN[:3]
    assert not {"MAIL", "RCPT", "DATA"} & set(script.seen)


@pytest.mark.parametrize("security", ["starttls", "tls"])
def test_under_tls_the_certificate_is_told_and_no_secret(certificates: Certificates, security: str) -> None:
    script = Script(replies=OFFERS, tls=certificates.server("localhost"), tls_first=security == "tls")
    authority = certificates.authority.read_text()
    access = {"host": "localhost", "username": "museum", "password": "s3cret", "authority": authority}
    report = tried(script, security=security, **access)
    protected = ["TLS and certificate", "greeting"] if security == "tls" else ["greeting", "TLS and certificate"]
    assert names(report) == ["find the host", "connect", *protected, "log-in", "envelope", "message to you"]
    assert report.worked
    told = next(step.words for step in report.steps if step.name == "TLS and certificate")
    assert "TLSv1." in told
    assert "certificate of localhost, good until" in told
    said = "\n".join(line.words for step in report.steps for line in step.wire)
    assert "AUTH PLAIN ****" in said
    assert "s3cret" not in said
    assert "AG11c2V1bQBzM2NyZXQ=" not in said


def test_the_step_that_fails_is_the_last_and_says_what_to_try(certificates: Certificates, tmp_path: Path) -> None:
    def last(script: Script, **access: object) -> tuple[str, str]:
        report = tried(script, **access)
        assert [step.worked for step in report.steps] == [True] * (len(report.steps) - 1) + [False]
        return report.steps[-1].name, report.steps[-1].words

    wrong = {"EHLO": "250-relay.example\r\n250 AUTH PLAIN", "AUTH": "535 5.7.8 Wrong"}
    name, words = last(Script(replies=wrong), username="museum", password="wrong")
    assert (name, "Check user and password" in words) == ("log-in", True)
    name, words = last(Script(), security="starttls")
    assert (name, "offers no STARTTLS" in words) == ("TLS and certificate", True)
    unknown = Script(replies=OFFERS, tls=certificates.server("localhost"))
    name, words = last(unknown, security="starttls", host="localhost")
    assert (name, "cannot be trusted" in words) == ("TLS and certificate", True)
    name, words = last(Script(replies={"RCPT": "550 5.1.1 Who?"}))
    assert (name, "550 5.1.1 Who?" in words) == ("envelope", True)
    name, words = last(Script(replies={".": DROP}))
    assert (name, "it may have arrived or not" in words) == ("message to you", True)
    name, words = last(Script(greeting="554 5.7.1 Go away"))
    assert (name, "Go away" in words) == ("greeting", True)

    def missing(access: Access) -> list[bool]:
        return [step.worked for step in asyncio.run(try_relay(access, LETTER)).steps]

    assert missing(Access(25, host="no-such-host.invalid")) == [False]
    assert missing(Access(free_port())) == [True, False]
    assert missing(Access(free_port(), security="tls")) == [True, False]
