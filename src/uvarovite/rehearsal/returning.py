"""Providers that take a message and send word of it later: reports in several dialects, and complaints."""

import asyncio
from dataclasses import dataclass
from email.utils import make_msgid

from uvarovite.rehearsal.posting import Posting
from uvarovite.rehearsal.world import Word, World


@dataclass(frozen=True, slots=True)
class _Taken:
    sender: str
    recipient: str
    raw: bytes
    word: Word


class Returns:
    """`arrive` decides whether word comes back of a message; `run` sends it in time."""

    def __init__(self, world: World, posting: Posting) -> None:
        self._world = world
        self._posting = posting
        self._waiting: asyncio.Queue[_Taken] = asyncio.Queue()

    def arrive(self, sender: str, recipient: str, raw: bytes) -> None:
        """A message was taken for somebody."""
        word = self._world.word_of(recipient)
        if word is not None and sender:
            self._waiting.put_nowait(_Taken(sender, recipient, raw, word))

    async def run(self) -> None:
        """Send word until cancelled."""
        while True:
            taken = await self._waiting.get()
            await asyncio.sleep(self._world.later_seconds)
            await self._posting.send(taken.word.value, "", [taken.sender], _WRITERS[taken.word](taken).encode())


def _head(taken: _Taken, subject: str) -> str:
    domain = taken.recipient.rpartition("@")[2]
    return (
        f"From: Mail Delivery System <MAILER-DAEMON@{domain}>\r\nTo: {taken.sender}\r\nSubject: {subject}\r\n"
        f"Message-ID: {make_msgid(domain=domain)}\r\nAuto-Submitted: auto-replied\r\nMIME-Version: 1.0\r\n"
    )


def _headers_of(taken: _Taken) -> str:
    return taken.raw.split(b"\r\n\r\n", 1)[0].decode("utf-8", "replace") + "\r\n"


def _parts(kind: str, *parts: tuple[str, str]) -> str:
    body = "".join(f"--=_b\r\nContent-Type: {kind_}\r\n\r\n{text}\r\n" for kind_, text in parts)
    return f'Content-Type: multipart/report; report-type={kind}; boundary="=_b"\r\n\r\n{body}--=_b--\r\n'


def _by_form(taken: _Taken) -> str:
    fields = (
        f"Reporting-MTA: dns; mx.{taken.recipient.rpartition('@')[2]}\r\n\r\nFinal-Recipient: rfc822; {taken.recipient}\r\n"
        "Action: failed\r\nStatus: 5.1.1\r\nDiagnostic-Code: smtp; 550 5.1.1 There is nobody of that name here\r\n"
    )
    return _head(taken, "Undelivered Mail Returned to Sender") + _parts(
        "delivery-status",
        ("text/plain; charset=utf-8", "Your message could not be delivered."),
        ("message/delivery-status", fields),
        ("text/rfc822-headers", _headers_of(taken)),
    )


def _by_words(taken: _Taken) -> str:
    return (
        _head(taken, "Mail delivery failed: returning message to sender")
        + f"X-Failed-Recipients: {taken.recipient}\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n"
        f"A message that you sent could not be delivered:\r\n\r\n  {taken.recipient}\r\n    550 5.1.1 Unknown user\r\n\r\n"
        f"------ This is a copy of the message's headers. ------\r\n\r\n{_headers_of(taken)}"
    )


def _complaint(taken: _Taken) -> str:
    fields = f"Feedback-Type: abuse\r\nUser-Agent: Rehearsal/1\r\nVersion: 1\r\nOriginal-Rcpt-To: {taken.recipient}\r\n"
    return _head(taken, "Complaint about a message").replace("Auto-Submitted: auto-replied\r\n", "") + _parts(
        "feedback-report",
        ("text/plain; charset=utf-8", "Somebody says that they do not want this."),
        ("message/feedback-report", fields),
        ("text/rfc822-headers", _headers_of(taken)),
    )


_WRITERS = {Word.FORM: _by_form, Word.WORDS: _by_words, Word.COMPLAINT: _complaint}
