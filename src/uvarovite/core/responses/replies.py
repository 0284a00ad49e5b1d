"""What people write back: what stands in a letter of theirs, and the messages by which it is answered and passed on."""

from dataclasses import dataclass
from email.utils import getaddresses, parseaddr
from urllib.parse import quote

from uvarovite.core.delivery.answers import as_kept
from uvarovite.core.messages.envelope import Envelope, headed
from uvarovite.core.responses.inbound.own_words import bare_subject, own_words, quoted_words
from uvarovite.core.responses.inbound.reading import LONGEST_TEXT, read_mail
from uvarovite.core.values import Address, read_address

# A mail program is given the answer as an address, and what is too long for one does not arrive.
_MOST_IN_ADDRESS = 1_500


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenReply:
    """A person's letter. `answer_to` is where an answer goes, None where it names no usable address; `message_id` and
    `references` stand without angle brackets.
    """

    from_name: str
    answer_to: str | None
    subject: str
    own: str
    quoted: str
    attachments: tuple[str, ...]
    message_id: str | None
    references: tuple[str, ...]

    @property
    def thread(self) -> tuple[str, ...]:
        """What an answer refers to, the latest last (RFC 5322 section 3.6.4)."""
        return (*self.references[-20:], *((self.message_id,) if self.message_id else ()))

    @property
    def answer_subject(self) -> str:
        """The subject of an answer."""
        return f"Re: {bare_subject(self.subject)}".strip()

    def mailto(self) -> str | None:
        """An address that opens an answer in one's own mail program, in the thread (RFC 6068)."""
        if self.answer_to is None:
            return None
        told = f"\n\n{_quoting(self.own)}"
        told = told if len(told) <= _MOST_IN_ADDRESS else ""
        parts = {
            "subject": self.answer_subject,
            "in-reply-to": self.message_id and f"<{self.message_id}>",
            "body": told,
        }
        query = "&".join(
            f"{name}={quote(text.replace(chr(10), chr(13) + chr(10)))}" for name, text in parts.items() if text
        )
        return f"mailto:{quote(self.answer_to, safe='@')}?{query}"


def read_reply(raw: bytes) -> WrittenReply:
    """What stands in a letter, whatever it is made of; it never raises."""
    mail = read_mail(raw)
    name, _ = parseaddr(mail.headers.get("from", ""))
    text = as_kept("\n".join(mail.text.splitlines()), LONGEST_TEXT)
    return WrittenReply(
        from_name=as_kept(name, 200),
        answer_to=_address(mail.headers.get("reply-to", "")) or _address(mail.headers.get("from", "")),
        subject=as_kept(mail.headers.get("subject", ""), 500),
        own=own_words(text),
        quoted=quoted_words(text),
        attachments=tuple(as_kept(part.name, 200) for part in mail.parts if part.name)[:50],
        message_id=next(iter(_ids(mail.headers.get("message-id", ""))), None),
        references=tuple(_ids(mail.headers.get("references", "") or mail.headers.get("in-reply-to", "")))[-20:],
    )


def bare_reply(*, from_address: str | None, subject: str, own: str) -> WrittenReply:
    """What is left of a letter that is not kept as it came."""
    return WrittenReply(
        from_name="",
        answer_to=_address(from_address or ""),
        subject=subject,
        own=own,
        quoted="",
        attachments=(),
        message_id=None,
        references=(),
    )


def _address(told: str) -> str | None:
    """The first address of a header that can be written to."""
    for _, address in getaddresses([told]):
        read = read_address(address)
        if isinstance(read, Address):
            return read.text
    return None


def _ids(told: str) -> list[str]:
    found = [one.strip("<>") for one in told.split()]
    return [one for one in found if "@" in one and one.isascii() and one.isprintable() and len(one) < 500]


def assemble_answer(words: str, reply: WrittenReply, envelope: Envelope) -> bytes:
    """An answer in the thread, with what it answers below; the same input gives the same bytes."""
    mail = headed(envelope, reply.answer_subject)
    if reply.message_id:
        mail["In-Reply-To"] = f"<{reply.message_id}>"
    if reply.thread:
        mail["References"] = " ".join(f"<{one}>" for one in reply.thread)
    told = f"{words.strip()}\n\n{_quoting(reply.own)}\n"
    mail.set_content(told, charset="utf-8", cte="quoted-printable")
    return mail.as_bytes()


def assemble_forwarded(raw: bytes, reply: WrittenReply, envelope: Envelope, words: str) -> bytes:
    """A letter passed on to a colleague, as it came, in a message whose answer goes to whoever wrote it.

    It says that a machine sent it (RFC 3834 section 5): where it comes back to us it is not passed on again.
    """
    mail = headed(envelope, f"Fwd: {bare_subject(reply.subject)}".strip())
    mail["Auto-Submitted"] = "auto-generated"
    mail.set_content(f"{words.strip()}\n\n{reply.own}\n", charset="utf-8", cte="quoted-printable")
    mail.add_attachment(raw, maintype="application", subtype="octet-stream", filename="reply.eml")
    mail.set_boundary(f"=_{envelope.message_id.partition('@')[0]}")
    return mail.as_bytes()


def _quoting(text: str) -> str:
    return "\n".join(f"> {line}".rstrip() for line in text.splitlines())
