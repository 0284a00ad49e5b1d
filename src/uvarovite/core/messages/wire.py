"""A letter to the bytes that go on the wire (RFC 5322, MIME by RFC 2045 to 2049), 7-bit throughout.

The same input gives the same bytes. What never changes is encoded once for all recipients of a run; a person costs what is
theirs, and the headers that name them.
"""

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime
from email.utils import format_datetime
from functools import lru_cache
from typing import Any

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext, Mark, header
from uvarovite.core.inlay.run import compile_program
from uvarovite.core.messages.attachments import NO_FILES, AttachedParts, KeptFile, MessagePdf, Stamp
from uvarovite.core.messages.build import LetterContext
from uvarovite.core.messages.document import MessageContent, reads
from uvarovite.core.messages.embedded import EmbeddedPictures
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.headers import mailboxes, unstructured
from uvarovite.core.messages.letter import Letter, context_of
from uvarovite.core.messages.links import Links, MessageLink
from uvarovite.core.messages.paper import NO_PDFS, MessagePages, PdfMeans
from uvarovite.core.messages.quoted import QUOTED
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.theme import THEME, Theme
from uvarovite.core.values import wire_form

# Within quoted-printable no = is followed by _, so that no body can hold it.
_BOUNDARY = "=_part_of_a_letter"
# Around the letter and what is attached to it; base64 holds no _ either.
_AROUND = "=_letter_and_attachments"
_WITH_PICTURES = "=_letter_and_pictures"


class LetterMaker:
    """Makes the messages of a run: compiled once, then a pure function of a person (core.messages.renderers)."""

    def __init__(
        self,
        content: MessageContent,
        fields: FieldMap,
        theme: Theme = THEME,
        files: Mapping[str, KeptFile] = NO_FILES,
        means: PdfMeans = NO_PDFS,
    ) -> None:
        self._main = _Compiled(content.model_copy(update={"others": ()}), fields, theme, files)
        self.letter = self._main.letter
        self.links: tuple[MessageLink, ...] = self.letter.links
        self._others: dict[str, _Compiled] = {}
        for other in content.others:
            made = _Compiled(content.in_other(other), fields, theme, files, first_link=len(self.links))
            self._others[other.language] = made
            self.links += made.letter.links

        def pages_of(one: MessagePdf) -> MessagePages | None:
            words = content if one.message_id is None else means.others.get(one.message_id)
            return None if words is None else MessagePages(words, fields, theme, means)

        self._attached = AttachedParts(content.attachments, fields, files, theme, pages_of)
        part = (
            f'--{_BOUNDARY}\r\nContent-Type: text/{{}}; charset="utf-8"\r\n'
            "Content-Transfer-Encoding: quoted-printable\r\n\r\n"
        )
        self._begin = f'Content-Type: multipart/alternative; boundary="{_BOUNDARY}"\r\n\r\n' + part.format("plain")
        self._between = "\r\n" + part.format("html")
        self._end = f"\r\n--{_BOUNDARY}--\r\n"
        self._between_with_pictures = (
            f'\r\n--{_BOUNDARY}\r\nContent-Type: multipart/related; type="text/html"; boundary="{_WITH_PICTURES}"\r\n\r\n'
            f'--{_WITH_PICTURES}\r\nContent-Type: text/html; charset="utf-8"\r\n'
            "Content-Transfer-Encoding: quoted-printable\r\n\r\n"
        )

    def _for(self, record: Record) -> "_Compiled":
        return self._others.get(reads(record), self._main) if self._others else self._main

    def letter_for(self, record: Record) -> Letter:
        """The words that a person gets: in their language, else the main ones."""
        return self._for(record).letter

    def language_for(self, record: Record) -> str:
        """The language of the words that a person gets, "" for the organisation's own."""
        return self._for(record).letter.language

    def addresses(self, record: Record, context: InlayContext) -> Mapping[int, str]:
        """Where the links lead for a person, by number."""
        return self._for(record).letter.addresses(record, context)

    def render(
        self, record: Record, context: InlayContext, links: Links, footer: Footer, mark: Mark | None = None
    ) -> RenderedMessage:
        """The message to be read."""
        letter = self._for(record).letter
        made = letter.render(record, context, links, footer, mark)
        if not self._attached:
            return made
        known = context_of(context, links, footer)
        return replace(made, attached=self._attached.read(record, known, letter.language))

    def raw(self, record: Record, context: InlayContext, links: Links, footer: Footer, envelope: Envelope) -> bytes:
        """The bytes that go on the wire: with CRLF, ASCII unless an address itself needs SMTPUTF8 (RFC 6531)."""
        letter, made = context_of(context, links, footer), self._for(record)
        out = [
            _headers(envelope),
            unstructured("Subject", made.letter.subject(record, letter)),
            "MIME-Version: 1.0\r\n",
        ]
        attached = self._attached_for(record, letter, made.letter.language, envelope)
        if attached:
            out.append(f'Content-Type: multipart/mixed; boundary="{_AROUND}"\r\n\r\n--{_AROUND}\r\n')
        out.append(self._begin)
        made.text(record, letter, out)
        html: list[str] = []
        made.html(record, letter, html)
        if letter.pictures:
            out += [self._between_with_pictures, *html]
            out += [f"\r\n--{_WITH_PICTURES}\r\n{part}" for part in made.pictures.parts(letter.pictures)]
            out.append(f"\r\n--{_WITH_PICTURES}--\r\n")
        else:
            out += [self._between, *html]
        out.append(self._end)
        if attached:
            out += [f"\r\n--{_AROUND}\r\n{part}" for part in attached]
            out.append(f"\r\n--{_AROUND}--\r\n")
        return "".join(out).encode("utf-8")

    def _attached_for(self, record: Record, letter: LetterContext, language: str, envelope: Envelope) -> list[str]:
        if not self._attached:
            return []
        stamp = Stamp(message_id=envelope.message_id, made_at=envelope.date, organisation=letter.footer.organisation)
        return self._attached.write(record, letter, language, stamp)


class _Compiled:
    """A letter with its programs compiled for the wire."""

    def __init__(
        self,
        words: MessageContent,
        fields: FieldMap,
        theme: Theme,
        files: Mapping[str, KeptFile],
        first_link: int = 0,
    ) -> None:
        self.pictures = EmbeddedPictures(words.model_dump(mode="json"), files)
        self.letter = Letter(words, fields, theme, first_link, self.pictures.ids)
        self.text = compile_program(self.letter.text, QUOTED)
        self.html = compile_program(self.letter.sent_html, QUOTED)


def _headers(envelope: Envelope) -> str:
    # A long link stands as it is: it would be no link any more if it were folded.
    lines = [f"Date: {_date(envelope.date)}\r\nMessage-ID: <{envelope.message_id}>\r\n"]
    if envelope.list_id:
        lines.append(f"List-Id: <{envelope.list_id}>\r\n")
    if envelope.unsubscribe_url:
        by_mail = (
            f",\r\n <mailto:{header(envelope.leave_address)}?subject=unsubscribe>" if envelope.leave_address else ""
        )
        lines.append(
            f"List-Unsubscribe: <{header(envelope.unsubscribe_url)}>{by_mail}\r\n"
            "List-Unsubscribe-Post: List-Unsubscribe=One-Click\r\n"
        )
    lines.append(_from(envelope.from_name, envelope.from_address, envelope.reply_to))
    lines.append(mailboxes("To", envelope.to_name, wire_form(envelope.to_address)))
    return "".join(lines)


@lru_cache(maxsize=64)
def _date(moment: datetime) -> str:
    # Of two that are equal in two zones either says the same moment; within a run all are of one.
    return format_datetime(moment.astimezone(UTC))


@lru_cache(maxsize=64)
def _from(name: str, address: str, reply_to: str | None) -> str:
    told = mailboxes("From", name, wire_form(address))
    return told + (mailboxes("Reply-To", "", wire_form(reply_to)) if reply_to else "")


def letter_maker(
    content: Mapping[str, Any], fields: FieldMap, theme: Theme, files: Mapping[str, KeptFile], means: PdfMeans
) -> LetterMaker:
    """The maker of stored words, and of the fields, the theme, the files and the PDFs that they were released with."""
    return LetterMaker(MessageContent.model_validate(content), fields, theme, files, means)
