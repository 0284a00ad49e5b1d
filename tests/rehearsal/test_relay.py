"""The simulated relay in each of its manners, talked to by the standard library's own client."""

import asyncio
import smtplib
import ssl
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import pytest

from uvarovite.rehearsal.account import Account
from uvarovite.rehearsal.certificates import AUTHORITY, contexts
from uvarovite.rehearsal.mailbox import Mailbox
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.rehearsal.server import Relay, serve_smtp
from uvarovite.rehearsal.world import World

MUSEUM = "walks@skarnmuseum.example"
TEXT = "From: walks@skarnmuseum.example\r\nMessage-ID: <{}@m>\r\nSubject: Walks\r\n\r\nWords\r\n"


class Playing:
    """A relay that plays a scenario on a port."""

    def __init__(self, relay: Relay, port: int, directory: Path) -> None:
        self.world = relay.world
        self.account = relay.account
        self.port = port
        self.authority = directory / AUTHORITY

    def client(self) -> smtplib.SMTP:
        return smtplib.SMTP("127.0.0.1", self.port, local_hostname="museum.example", timeout=20)

    def send(self, client: smtplib.SMTP, name: str, text: str = TEXT) -> None:
        client.sendmail(MUSEUM, [f"{name}@slatepost.example"], text.format(name).encode())

    def trusting(self) -> ssl.SSLContext:
        return ssl.create_default_context(cafile=str(self.authority))


@contextmanager
def playing(scenario: str, directory: Path) -> Iterator[Playing]:
    """A relay in a thread of its own."""
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever)
    thread.start()
    world = World(seed=8040, speed=600, scenario=SCENARIOS[scenario])
    mailbox = Mailbox(directory / "mail")

    def receive(sender: str, recipient: str, raw: bytes) -> int:
        return mailbox.add(recipient, raw, datetime.now(UTC)).number

    relay = Relay(world, Account(), contexts(directory, "127.0.0.1"), receive)
    server = asyncio.run_coroutine_threadsafe(serve_smtp("127.0.0.1", 0, relay), loop).result(20)
    try:
        yield Playing(relay, server.sockets[0].getsockname()[1], directory)
    finally:
        loop.call_soon_threadsafe(server.close)
        loop.call_soon_threadsafe(loop.stop)
        thread.join()
        loop.close()


@contextmanager
def told(code: int, words: str = "") -> Iterator[None]:
    """The relay says so, here."""
    with pytest.raises((smtplib.SMTPResponseException, smtplib.SMTPRecipientsRefused)) as caught:
        yield
    fault = caught.value
    if isinstance(fault, smtplib.SMTPRecipientsRefused):
        answer = next(iter(fault.recipients.values()))
    else:
        answer = (fault.smtp_code, fault.smtp_error)
    assert answer[0] == code
    assert words in str(answer[1])


def test_on_a_calm_day_everything_is_taken_and_counted_once(tmp_path: Path) -> None:
    with playing("calm", tmp_path) as relay, relay.client() as client:
        for name in ("ada", "bo", "ada"):
            relay.send(client, name)
        assert {"pipelining", "smtputf8", "8bitmime", "size"} <= set(client.esmtp_features)
        assert relay.account.told()["taken"] == 3
        # The same message for the same person is what this account is there to find.
        assert relay.account.told()["twice"] == 1
        assert relay.account.told()["replies"] == {"250 2.0.0": 3}


def test_a_crowded_relay_takes_two_connections_and_twenty_messages_on_each(tmp_path: Path) -> None:
    with playing("crowded", tmp_path) as relay, relay.client() as first, relay.client():
        with told(421, "Too many connections"):
            relay.client()
        for number in range(20):
            relay.send(first, f"p{number}")
        with told(421, "Enough for one connection"):
            relay.send(first, "late")
        assert relay.account.told()["taken"] == 20


def test_limits_hold_for_a_minute_and_for_an_hour(tmp_path: Path) -> None:
    world = World(seed=1, scenario=SCENARIOS["crowded"])
    asked = (MUSEUM, "ada@slatepost.example")
    for at in range(10):
        answers = [world.answer_recipient(*asked, now=at * 61.0, source="ours")[:3] for _ in range(61)]
        assert answers == ["250"] * 60 + ["450" if at < 9 else "452"]
    assert world.answer_recipient(*asked, now=611.0, source="another").startswith("250")
    assert world.answer_recipient(*asked, now=3_661.0, source="ours").startswith("250")


def test_an_old_relay_offers_little_and_takes_little(tmp_path: Path) -> None:
    with playing("old", tmp_path) as relay, relay.client() as client:
        client.ehlo()
        assert not {"pipelining", "smtputf8"} & set(client.esmtp_features)
        assert client.esmtp_features["size"] == "60000"
        with told(552):
            relay.send(client, "ada", TEXT + "x" * 70 + ("\r\n" + "x" * 70) * 900)


def test_a_relay_that_wants_tls_takes_nothing_without(tmp_path: Path) -> None:
    with playing("encrypted", tmp_path) as relay, relay.client() as client:
        with told(530):
            relay.send(client, "ada")
        client.starttls(context=relay.trusting())
        relay.send(client, "ada")
        assert relay.account.told()["taken"] == 1


@pytest.mark.parametrize(("scenario", "words"), [("other-name", "doesn't match|not valid for"), ("expired", "expired")])
def test_a_wrong_certificate_is_seen_by_whoever_looks(scenario: str, words: str, tmp_path: Path) -> None:
    with (
        playing(scenario, tmp_path) as relay,
        relay.client() as client,
        pytest.raises(ssl.SSLCertVerificationError, match=words),
    ):
        client.starttls(context=relay.trusting())


def test_refusals_come_for_us_for_mailboxes_and_for_texts(tmp_path: Path) -> None:
    with playing("turned-away", tmp_path) as relay, relay.client() as client:
        with told(550, "nobody wants"):
            relay.send(client, "ada")
        # It may change at any moment, for connections that begin then.
        relay.world.scenario = SCENARIOS["full"]
        with relay.client() as other:
            for number in range(200):
                try:
                    relay.send(other, f"p{number}")
                except (smtplib.SMTPRecipientsRefused, smtplib.SMTPDataError):
                    other.rset()
        replies = relay.account.told()["replies"]
        assert isinstance(replies, dict)
        assert set(replies) == {"250 2.0.0", "452 4.2.2", "550 5.1.1", "550 5.7.1"}
        assert replies["250 2.0.0"] == relay.account.told()["taken"]


def _tries(relay: Playing, name: str) -> bool:
    try:
        with relay.client() as client:
            relay.send(client, name)
    except (smtplib.SMTPException, OSError):
        return False
    return True


def test_a_shaky_relay_drops_at_every_stage_and_counts_what_it_took_all_the_same(tmp_path: Path) -> None:
    with playing("shaky", tmp_path) as relay:
        worked = sum(_tries(relay, f"p{number}") for number in range(500))
        told_by_it = relay.account.told()
        dropped = told_by_it["dropped"]
        assert isinstance(dropped, dict)
        assert set(dropped) == {"greeting", "hello", "mail", "recipient", "text", "end", "reply"}
        # Those dropped before the reply were taken: whoever asks only their own client believes they were not.
        assert told_by_it["taken"] == worked + dropped["reply"]


def test_a_scenario_and_a_seed_give_the_same_world() -> None:
    def answers(seed: int) -> list[str]:
        world = World(seed=seed, scenario=SCENARIOS["full"])
        ask: Callable[[str], str] = lambda who: world.answer_recipient(MUSEUM, who, now=0.0)  # noqa: E731
        return [ask(f"p{number}@slatepost.example") for number in range(300)]

    assert answers(1) == answers(1)
    assert answers(1) != answers(2)
