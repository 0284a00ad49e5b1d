"""The listener for mail that comes in: what it takes, what it refuses, and what it bears."""

import asyncio
import smtplib
import socket
import threading
from collections.abc import Iterator

import pytest

from uvarovite.net.receiving import Bounds, Door, receive_smtp

WALKS = "walks@skarnmuseum.example"
NEWS = "news@skarnmuseum.example"
ADA = "ada@slatepost.example"


class Away(Exception):
    """The database is away."""


class House:
    """A listener with a memory instead of a database."""

    def __init__(self) -> None:
        self.kept: list[tuple[str, list[str], bytes]] = []
        self.is_away = False
        self.port = 0

    async def is_ours(self, address: str) -> bool:
        if self.is_away:
            raise Away
        return address in (WALKS, NEWS)

    async def keep(self, sender: str, recipients: list[str], raw: bytes) -> None:
        if self.is_away:
            raise Away
        self.kept.append((sender, recipients, raw))

    def client(self) -> smtplib.SMTP:
        return smtplib.SMTP("127.0.0.1", self.port, timeout=20)


@pytest.fixture
def house() -> Iterator[House]:
    made = House()
    bounds = Bounds(connections=3, bytes=5_000, recipients=2, seconds=0.5)
    door = Door(is_ours=made.is_ours, keep=made.keep, unavailable=Away, bounds=bounds)
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever)
    thread.start()
    server = asyncio.run_coroutine_threadsafe(receive_smtp("127.0.0.1", 0, door), loop).result(20)
    made.port = server.sockets[0].getsockname()[1]
    yield made
    loop.call_soon_threadsafe(server.close)
    loop.call_soon_threadsafe(loop.stop)
    thread.join()
    loop.close()


def test_a_message_is_kept_as_it_came_before_it_is_answered_for(house: House) -> None:
    raw = "From: x\r\nSubject: caf\xe9\r\n\r\n..two points\r\n\tend\r\n".encode("latin-1")
    with house.client() as client:
        assert client.sendmail("", [WALKS], raw) == {}
    ((sender, recipients, kept),) = house.kept
    assert (sender, recipients, kept) == ("", [WALKS], raw)


def test_nobody_elses_mail_is_taken_and_nothing_is_relayed(house: House) -> None:
    with house.client() as client, pytest.raises(smtplib.SMTPRecipientsRefused) as refused:
        client.sendmail(ADA, [ADA], b"x")
    assert refused.value.recipients[ADA][0] == 550
    with house.client() as client:
        client.ehlo()
        client.mail(ADA)
        assert [client.rcpt(WALKS)[0] for _ in range(3)] == [250, 250, 452]
    assert house.kept == []


def test_too_much_is_refused_with_a_word(house: House) -> None:
    with house.client() as client, pytest.raises(smtplib.SMTPException):
        client.sendmail(ADA, [WALKS], b"x" * 20_000)
    with house.client() as client:
        client.ehlo()
        client.mail(ADA)
        client.rcpt(WALKS)
        client.docmd("DATA")
        client.sock.sendall(b"a line of it\r\n" * 2_000 + b".\r\n")
        assert client.getreply()[0] == 552
    assert house.kept == []


def test_what_cannot_be_kept_now_comes_again(house: House) -> None:
    with house.client() as client:
        client.ehlo()
        client.mail(ADA)
        client.rcpt(WALKS)
        house.is_away = True
        assert client.data(b"words")[0] == 451
        assert client.mail(ADA)[0] == 250
        assert client.rcpt(WALKS)[0] == 451
        house.is_away = False
        assert client.rcpt(WALKS)[0] == 250
        assert client.data(b"words")[0] == 250
    assert len(house.kept) == 1


def test_a_flood_of_connections_and_slow_ones_is_borne(house: House) -> None:
    held = [socket.create_connection(("127.0.0.1", house.port)) for _ in range(3)]
    for one in held:
        assert one.recv(100).startswith(b"220")
    with socket.create_connection(("127.0.0.1", house.port)) as over:
        over.settimeout(20)
        assert over.recv(100).startswith(b"421")
    # Whoever says nothing is hung up on, and there is room again.
    for one in held:
        one.settimeout(20)
        while one.recv(100):
            pass
        one.close()
    with house.client() as client:
        client.sendmail(ADA, [WALKS], b"words")
    assert len(house.kept) == 1


class Lmtp:
    """A client that speaks LMTP line by line."""

    def __init__(self, port: int) -> None:
        self.line = socket.create_connection(("127.0.0.1", port), timeout=20)
        self.told = self.line.makefile("rb")

    def answer(self) -> str:
        """One answer, of however many lines."""
        while True:
            line = self.told.readline().decode().strip()
            if line[3:4] != "-":
                return line

    def says(self, words: str) -> str:
        self.line.sendall(f"{words}\r\n".encode())
        return self.answer()


def test_by_lmtp_each_recipient_is_answered_for_by_itself(house: House) -> None:
    client = Lmtp(house.port)
    assert client.answer()[:3] == "220"
    assert client.says("LHLO mx.museum.example")[:3] == "250"
    for _ in range(2):
        assert client.says(f"MAIL FROM:<{ADA}>")[:3] == "250"
        told = [client.says(f"RCPT TO:<{one}>")[:3] for one in (WALKS, "nobody@elsewhere.example", NEWS)]
        assert told == ["250", "550", "250"]
        assert client.says("DATA")[:3] == "354"
        # Two are answered for: nobody else was taken.
        assert client.says("Subject: x\r\n\r\nwords\r\n.")[:3] == "250"
        assert client.answer()[:3] == "250"
    assert [recipients for _, recipients, _ in house.kept] == [[WALKS, NEWS]] * 2
    # What is too large, or cannot be kept now, is answered for each as well.
    for raw, wanted in ((b"a line of it\r\n" * 2_000, "552"), (b"words\r\n", "451")):
        client.says(f"MAIL FROM:<{ADA}>")
        assert [client.says(f"RCPT TO:<{one}>")[:3] for one in (WALKS, NEWS)] == ["250", "250"]
        house.is_away = wanted == "451"
        client.says("DATA")
        client.line.sendall(raw + b".\r\n")
        assert [client.answer()[:3], client.answer()[:3]] == [wanted] * 2
    assert client.says("QUIT")[:3] == "221"
    assert len(house.kept) == 2
    client.line.close()


def test_by_smtp_a_message_to_several_is_answered_for_once(house: House) -> None:
    with house.client() as client:
        assert client.sendmail(ADA, [WALKS, NEWS], b"words") == {}
        assert client.noop()[0] == 250
