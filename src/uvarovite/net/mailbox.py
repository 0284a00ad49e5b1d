"""A mailbox that is read by IMAP (RFC 9051, and what came before it), by a library that is made for it.

Messages are known by their UIDs, which stay as long as the mailbox has the same UIDVALIDITY. Nothing is deleted and nothing is
moved; what was taken in is marked as seen, for people who look into the mailbox too.
"""

import imaplib
import ssl
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import TypeVar

import imapclient

Result = TypeVar("Result")
_BUSY_SECONDS = 60


class MailboxLost(Exception):
    """The mailbox cannot be read now; the message says at which step, and what was said."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MailboxAccess:
    """How to reach a mailbox. `security` is tls, starttls or none; of larger messages the first `most_bytes` are read."""

    host: str
    port: int
    security: str
    username: str
    password: str
    folder: str = "INBOX"
    most_bytes: int = 30_000_000

    @property
    def name(self) -> str:
        """What it is called, without a secret."""
        return f"{self.username} at {self.host}, {self.folder}"


@dataclass(frozen=True, slots=True, kw_only=True)
class FetchedMail:
    """A message as it lies there; `received_at` is aware."""

    uid: int
    raw: bytes
    received_at: datetime


class Mailbox:
    """A connection that is logged in, with the folder open. Each step raises MailboxLost."""

    def __init__(self, access: MailboxAccess) -> None:
        self._access = access
        self._client = self._try("connect", self._connect)
        self._try("log in", lambda: self._client.login(access.username, access.password))
        opened = self._try("open the folder", lambda: self._client.select_folder(access.folder))
        self.uid_validity = int(opened[b"UIDVALIDITY"])
        self._can_idle = self._try("ask what it can", lambda: bool(self._client.has_capability("IDLE")))

    def _connect(self) -> imapclient.IMAPClient:
        access = self._access
        context = ssl.create_default_context()
        client = imapclient.IMAPClient(
            access.host,
            access.port,
            ssl=access.security == "tls",
            ssl_context=context if access.security == "tls" else None,
            timeout=_BUSY_SECONDS,
        )
        client.normalise_times = False
        if access.security == "starttls":
            client.starttls(context)
        return client

    def _try(self, step: str, act: Callable[[], Result]) -> Result:
        try:
            return act()
        except (imaplib.IMAP4.error, OSError, EOFError, ValueError, KeyError, AttributeError) as fault:
            # The library stumbles over what it does not expect in ways of its own.
            raise MailboxLost(f"{step}: {fault or type(fault).__name__}") from fault

    def uids_after(self, last: int | None, since: date) -> list[int]:
        """The messages behind one, in order; where nothing was read yet, those that came since a day."""
        if last is None:
            return sorted(self._try("look", lambda: self._client.search(["SINCE", since])))
        # The last message of all is told even if its number is lower (RFC 9051 section 6.4.4).
        found = self._try("look", lambda: self._client.search(["UID", f"{last + 1}:*"]))
        return sorted(uid for uid in found if uid > last)

    def fetch(self, uid: int) -> FetchedMail | None:
        """A message; None for one that is gone. It is not marked by that."""
        wanted = f"BODY.PEEK[]<0.{self._access.most_bytes}>"
        told = self._try("fetch", lambda: self._client.fetch([uid], [wanted, "INTERNALDATE"])).get(uid)
        if told is None:
            return None
        raw = next((value for key, value in told.items() if key.startswith(b"BODY[]")), None)
        return FetchedMail(uid=uid, raw=raw or b"", received_at=told[b"INTERNALDATE"])

    def mark(self, uids: Sequence[int]) -> None:
        """Mark messages as seen."""
        self._try("mark", lambda: self._client.add_flags(list(uids), [imapclient.SEEN], silent=True))

    def wait(self, seconds: float, is_over: Callable[[], bool]) -> None:
        """Wait until something happens in the mailbox (RFC 2177), at most so long; it also keeps the line open."""
        if not self._can_idle:
            self._try("keep the line", self._client.noop)
            return
        self._try("wait", self._client.idle)
        for _ in range(max(1, round(seconds))):
            if is_over() or self._try("wait", lambda: self._client.idle_check(timeout=1)):
                break
        self._try("wait", self._client.idle_done)

    @property
    def can_wait(self) -> bool:
        """Does the server tell of news by itself?"""
        return self._can_idle

    def close(self) -> None:
        """Log out, as far as there is somebody to tell."""
        try:
            self._client.logout()
        except (imaplib.IMAP4.error, OSError):
            return
