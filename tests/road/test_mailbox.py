"""A mailbox on a real server, read by IMAP: every message once, whatever breaks, and nothing marked before it is kept."""

import signal
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from tests.support.dovecot import PASSWORD, USER, Dovecot, dovecot
from tests.support.museum import KEYRING, NOW, Museum
from tests.support.ports import free_port
from tests.support.post import ADA, Post, failure, letter
from tests.support.processes import installation, until
from uvarovite.bootstrap.mailbox import MailboxReader
from uvarovite.net.mailbox import Mailbox, MailboxAccess, MailboxLost
from uvarovite.services.responses.inbound import act_on_next
from uvarovite.store.database import change_sql, run_sql

LONG_AGO = datetime(2023, 11, 1, tzinfo=UTC)


@pytest.fixture(scope="module")
def server() -> Iterator[Dovecot]:
    with dovecot() as made:
        yield made


@pytest.fixture
def mailbox(server: Dovecot) -> Iterator[Dovecot]:
    """The server with an empty mailbox."""
    yield server
    for part in ("new", "cur"):
        for one in (server.maildir / part).iterdir():
            one.unlink()


def reader_of(museum: Museum, access: MailboxAccess, now: datetime = LONG_AGO) -> MailboxReader:
    return MailboxReader(access, museum.database, lambda: now)


def look(museum: Museum, access: MailboxAccess) -> int:
    connection = Mailbox(access)
    try:
        return reader_of(museum, access).look(connection)
    finally:
        connection.close()


def kept(museum: Museum) -> list[str]:
    with museum.database.transaction() as tx:
        return [row.subject for row in run_sql(tx, "SELECT substring(raw from 'Subject: [^\n]*') AS subject FROM ("
                "SELECT id, convert_from(raw, 'UTF8') AS raw FROM inbound_mail) AS mail ORDER BY id")]  # fmt: skip


def numbered(number: int) -> bytes:
    return f"From: Ada <{ADA}>\r\nTo: {USER}\r\nSubject: Letter {number}\r\n\r\nHello {number}\r\n".encode()


def test_mail_is_taken_in_once_acted_on_and_marked_after_it_is_kept(museum: Museum, mailbox: Dovecot) -> None:
    post = Post(museum)
    mailbox.deliver(f"Return-Path: <>\nDelivered-To: {post.back_to()}\n{failure('')}".encode())
    mailbox.deliver(f"Return-Path: <{ADA}>\nDelivered-To: {USER}\n{letter('Is it open?')}".encode())
    assert look(museum, mailbox.access) == 2
    assert look(museum, mailbox.access) == 0
    assert mailbox.seen() == 2
    while act_on_next(museum.database, keyring=KEYRING, now=NOW):
        pass
    with museum.database.transaction() as tx:
        told = [(row.kind, row.matched_by, row.effect) for row in run_sql(tx, "SELECT * FROM inbound_mail ORDER BY id")]
    assert told[0] == ("report", "envelope", "suppressed")
    assert told[1][0] == "reply"
    # It has other numbers now: what was read is read again, and counted once.
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE inbound_mailbox SET uid_validity = uid_validity + 1")
    assert look(museum, mailbox.access) == 2
    with museum.database.transaction() as tx:
        assert [row.times for row in run_sql(tx, "SELECT times FROM inbound_mail")] == [2, 2]


def test_what_is_large_is_cut_and_what_is_gone_is_passed_over(museum: Museum, mailbox: Dovecot) -> None:
    mailbox.deliver(numbered(1) + b"x" * 100_000)
    mailbox.deliver(numbered(2))
    access = replace(mailbox.access, most_bytes=5_000)
    connection = Mailbox(access)
    uids = connection.uids_after(None, LONG_AGO.date())
    assert connection.fetch(max(uids) + 10) is None
    first = connection.fetch(uids[0])
    assert first is not None
    assert len(first.raw) == 5_000
    assert mailbox.seen() == 0
    connection.close()
    assert look(museum, access) == 2


def test_at_a_first_look_old_mail_is_left_alone(museum: Museum, mailbox: Dovecot) -> None:
    mailbox.deliver(numbered(1))
    connection = Mailbox(mailbox.access)
    # The server dates what lies there by its own clock.
    assert reader_of(museum, mailbox.access, now=datetime.now(UTC) + timedelta(days=40)).look(connection) == 0
    assert reader_of(museum, mailbox.access).look(connection) == 1
    connection.close()


class Breaking:
    """A line to the server that breaks after so many bytes from it."""

    def __init__(self, port: int) -> None:
        self._port = port
        self.after = 0
        self.listener = socket.create_server(("127.0.0.1", 0))
        self.port = self.listener.getsockname()[1]
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                client, _ = self.listener.accept()
            except OSError:
                return
            there = socket.create_connection(("127.0.0.1", self._port))
            threading.Thread(target=self._up, args=(client, there), daemon=True).start()
            threading.Thread(target=self._down, args=(client, there, self.after), daemon=True).start()

    @staticmethod
    def _up(client: socket.socket, there: socket.socket) -> None:
        try:
            while told := client.recv(4_096):
                there.sendall(told)
            there.shutdown(socket.SHUT_WR)
        except OSError:
            there.close()

    @staticmethod
    def _down(client: socket.socket, there: socket.socket, left: int) -> None:
        try:
            while left > 0 and (told := there.recv(min(4_096, left))):
                client.sendall(told)
                left -= len(told)
            client.shutdown(socket.SHUT_RDWR)
        except OSError:
            pass
        client.close()
        there.close()


@contextmanager
def breaking(port: int) -> Iterator[Breaking]:
    made = Breaking(port)
    try:
        yield made
    finally:
        made.listener.close()


def test_a_line_that_breaks_at_every_step_loses_nothing_and_takes_nothing_twice(
    museum: Museum, mailbox: Dovecot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("uvarovite.bootstrap.mailbox._MOST_AT_ONCE", 2)
    letters = 6
    for number in range(letters):
        mailbox.deliver(numbered(number))
    with breaking(mailbox.port) as line:
        access = replace(mailbox.access, port=line.port)
        faults: list[str] = []
        # Each time it comes a little further: through the greeting, the log-in, the folder, and one message after the other.
        for after in range(20, 6_000, 97):
            line.after = after
            try:
                look(museum, access)
            except MailboxLost as fault:
                faults.append(str(fault))
            else:
                break
            assert mailbox.seen() <= len(kept(museum)) <= letters
        assert len(faults) > 15
        assert {one.partition(":")[0] for one in faults} >= {"connect", "log in", "open the folder", "look", "fetch"}
        assert PASSWORD not in " ".join(faults)
    look(museum, mailbox.access)
    assert kept(museum) == [f"Subject: Letter {number}\r" for number in range(letters)]
    with museum.database.transaction() as tx:
        assert {row.times for row in run_sql(tx, "SELECT times FROM inbound_mail")} == {1}


def test_two_readers_of_one_mailbox_take_each_message_once(museum: Museum, mailbox: Dovecot) -> None:
    for number in range(40):
        mailbox.deliver(numbered(number))
    taken: list[int] = []
    readers = [threading.Thread(target=lambda: taken.append(look(museum, mailbox.access))) for _ in range(2)]
    for one in readers:
        one.start()
    for one in readers:
        one.join()
    assert sum(taken) == 40
    assert len(kept(museum)) == 40


def test_a_mailbox_that_cannot_be_read_says_so_and_is_read_when_it_can(museum: Museum, mailbox: Dovecot) -> None:
    mailbox.deliver(numbered(1))
    for access, words in (
        (replace(mailbox.access, port=free_port()), "connect: "),
        (replace(mailbox.access, password="wrong"), "log in: "),
        (replace(mailbox.access, folder="Nowhere"), "open the folder: "),
        (replace(mailbox.access, security="tls"), "connect: "),
    ):
        with pytest.raises(MailboxLost, match=words):
            Mailbox(access)


def test_the_command_reads_what_comes_while_it_waits_and_stops_when_told(
    museum: Museum, mailbox: Dovecot, tmp_path: object
) -> None:
    told = {
        "UVAROVITE_MAILBOX_HOST": "127.0.0.1",
        "UVAROVITE_MAILBOX_PORT": str(mailbox.port),
        "UVAROVITE_MAILBOX_SECURITY": "none",
        "UVAROVITE_MAILBOX_USER": USER,
        "UVAROVITE_MAILBOX_PASSWORD": PASSWORD,
    }
    with installation(museum.database.url, tmp_path, **told) as world:  # type: ignore[arg-type]
        receiver = world.start("receive")

        def looked() -> bool:
            with museum.database.transaction() as tx:
                return bool(run_sql(tx, "SELECT FROM inbound_mailbox WHERE looked_at IS NOT NULL AND trouble IS NULL"))

        until(looked, "the first look")
        # It is told of news by the server itself, long before it would look again.
        mailbox.deliver(numbered(2))
        until(lambda: len(kept(museum)) == 1, "the letter that came")
        receiver.send_signal(signal.SIGTERM)
        assert receiver.wait(30) == 0
