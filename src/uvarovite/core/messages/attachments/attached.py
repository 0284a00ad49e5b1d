"""Attachments as parts of a message on the wire (RFC 2045, RFC 2046 section 5.1.3, RFC 2183), compiled once for all readers."""

from base64 import encodebytes
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from hashlib import sha256

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext, Place, header, plain
from uvarovite.core.inlay.run import run_program
from uvarovite.core.messages.attachments.attachment import AnyAttachment, CalendarEntry
from uvarovite.core.messages.attachments.calendar import Entry, calendar_file
from uvarovite.core.messages.attachments.files import KINDS, KeptFile, plain_name
from uvarovite.core.messages.attachments.message_pdf import MessagePdf, Pages
from uvarovite.core.messages.attachments.own_files import NamedFile, OwnFiles, OwnName, own_name
from uvarovite.core.messages.build import Build, LinkBook
from uvarovite.core.messages.headers import parameter
from uvarovite.core.messages.theme import Theme

_LINE = Place(fixed=header, own=header)
_LINES = Place(fixed=plain, own=plain)
_ENTRY_NAME = "invitation.ics"

Words = Callable[[Record, InlayContext], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Attached:
    """What one reader finds attached; `size` in bytes, None where it is known only when it is made.

    `digest` is of what is in it, as far as that is known before it is made.
    """

    name: str
    kind: str
    size: int | None
    digest: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Stamp:
    """What tells a calendar entry of one message from those of others; `made_at` is aware."""

    message_id: str
    made_at: datetime
    organisation: str


class AttachedParts:
    """The attachments of a message.

    `files` has what is kept of each file, by digest, `pages_of` the words that become a PDF; what is not there is left out.
    """

    def __init__(
        self,
        attachments: Sequence[AnyAttachment],
        fields: FieldMap,
        files: Mapping[str, KeptFile],
        theme: Theme,
        pages_of: Callable[[MessagePdf], Pages | None],
    ) -> None:
        build = Build(fields=fields, book=LinkBook(), theme=theme)

        def line(source: str, place: Place = _LINE) -> Words:
            return run_program(build.line(source, place))

        def part_of(one: AnyAttachment) -> _FilePart | _EntryPart | _OwnPart | _PdfPart | None:
            if isinstance(one, CalendarEntry):
                return _EntryPart(one, line(one.title), line(one.place), line(one.note, _LINES))
            if isinstance(one, OwnFiles):
                name = own_name(one.name, fields)
                return _OwnPart(name, one.by_name(), files) if name is not None else None
            if isinstance(one, MessagePdf):
                pages = pages_of(one)
                return _PdfPart(pages, line(one.name)) if pages is not None else None
            kept = files.get(one.file)
            return _FilePart(one.file, kept, line(one.name)) if kept is not None else None

        made = [(one, part) for one in attachments if (part := part_of(one)) is not None]
        self._parts = [(number, one, part) for number, (one, part) in enumerate(made)]

    def __bool__(self) -> bool:
        return bool(self._parts)

    def read(self, record: Record, context: InlayContext, language: str) -> tuple[Attached, ...]:
        """What a reader of the words in a language finds attached."""
        return tuple(
            found
            for _, one, part in self._parts
            if one.goes_with(language) and (found := part.read(record, context)) is not None
        )

    def write(self, record: Record, context: InlayContext, language: str, stamp: Stamp) -> list[str]:
        """The parts that a reader of the words in a language gets, each with its header and without a boundary around it."""
        return [
            written
            for number, one, part in self._parts
            if one.goes_with(language) and (written := part.write(record, context, number, stamp))
        ]


class _FilePart:
    def __init__(self, digest: str, kept: KeptFile, name: Words) -> None:
        self._digest, self._kept, self._name = digest, kept, name
        self._own_name = kept.name.rpartition(".")[0]
        self._body = _base64(kept.content)

    def _called(self, record: Record, context: InlayContext) -> str:
        """What readers see: the author's name or the file's own, and always the ending that the file has."""
        told = self._name(record, context).strip()
        if told.casefold().endswith(f".{self._kept.kind}"):
            told = told[: -len(self._kept.kind) - 1]
        return f"{plain_name(told) if told else self._own_name}.{self._kept.kind}"

    def read(self, record: Record, context: InlayContext) -> Attached:
        kept = self._kept
        return Attached(name=self._called(record, context), kind=kept.kind, size=kept.size, digest=self._digest)

    def write(self, record: Record, context: InlayContext, number: int, stamp: Stamp) -> str:
        return _headed(KINDS[self._kept.kind].media_type, self._called(record, context)) + self._body


class _OwnPart:
    """Of many files each goes to one person: it is encoded when it goes."""

    def __init__(self, name: OwnName, by_name: Mapping[str, NamedFile], files: Mapping[str, KeptFile]) -> None:
        self._name, self._by_name, self._files = name, by_name, files

    def _of(self, record: Record) -> tuple[str, str, KeptFile] | None:
        """What a person's file is called, always with the ending that it has, its digest, and what is kept of it."""
        named = self._by_name.get(self._name.of(record) or "")
        kept = self._files.get(named.file) if named else None
        if named is None or kept is None:
            return None
        return f"{plain_name(named.name.rpartition('.')[0])}.{kept.kind}", named.file, kept

    def read(self, record: Record, context: InlayContext) -> Attached | None:
        if (found := self._of(record)) is None:
            return None
        name, digest, kept = found
        return Attached(name=name, kind=kept.kind, size=kept.size, digest=digest)

    def write(self, record: Record, context: InlayContext, number: int, stamp: Stamp) -> str:
        if (found := self._of(record)) is None:
            return ""
        name, _, kept = found
        return _headed(KINDS[kept.kind].media_type, name) + _base64(kept.content)


class _PdfPart:
    def __init__(self, pages: Pages, name: Words) -> None:
        self._pages, self._name = pages, name

    def _called(self, record: Record, context: InlayContext) -> str:
        told = self._name(record, context).strip() or self._pages.subject(record, context)
        return f"{plain_name(told[:-4] if told.casefold().endswith('.pdf') else told)}.pdf"

    def read(self, record: Record, context: InlayContext) -> Attached:
        page = _digest(self._pages.page(record, context))
        return Attached(name=self._called(record, context), kind="pdf", size=None, digest=page)

    def write(self, record: Record, context: InlayContext, number: int, stamp: Stamp) -> str:
        pdf = self._pages.pdf(record, context)
        return _headed(KINDS["pdf"].media_type, self._called(record, context)) + _base64(pdf)


class _EntryPart:
    def __init__(self, entry: CalendarEntry, title: Words, place: Words, note: Words) -> None:
        self._entry, self._title, self._place, self._note = entry, title, place, note
        self._fixed = entry.fixed_day()
        self._time = time.fromisoformat(entry.time) if entry.time else None

    def _begins(self, record: Record, context: InlayContext) -> datetime | date | None:
        told = self._fixed or record.get(self._entry.day)
        zone = context.clock.now.tzinfo
        if isinstance(told, datetime):
            # A field that knows the hour says when it begins, unless the author does.
            return told if self._time is None else datetime.combine(told.astimezone(zone).date(), self._time, zone)
        if not isinstance(told, date):
            return None
        return told if self._time is None else datetime.combine(told, self._time, zone)

    def _file(self, record: Record, context: InlayContext, number: int, stamp: Stamp) -> str:
        begins = self._begins(record, context)
        if begins is None:
            return ""
        entry = Entry(
            uid=f"{number}.{stamp.message_id}",
            title=self._title(record, context),
            place=self._place(record, context),
            note=self._note(record, context),
            begins=begins,
            minutes=self._entry.minutes,
        )
        return calendar_file(entry, organisation=stamp.organisation, made_at=stamp.made_at)

    def read(self, record: Record, context: InlayContext) -> Attached | None:
        stamp = Stamp(message_id="", made_at=context.clock.now, organisation="")
        told = self._file(record, context, 0, stamp)
        return Attached(name=_ENTRY_NAME, kind="ics", size=len(told.encode()), digest=_digest(told)) if told else None

    def write(self, record: Record, context: InlayContext, number: int, stamp: Stamp) -> str:
        told = self._file(record, context, number, stamp)
        kind = 'text/calendar; charset="utf-8"; method=PUBLISH'
        return _headed(kind, _ENTRY_NAME) + _base64(told.encode("utf-8", "replace")) if told else ""


def _digest(text: str) -> str:
    return sha256(text.encode("utf-8", "replace")).hexdigest()


def _headed(media_type: str, name: str) -> str:
    return (
        f"Content-Type: {media_type}\r\nContent-Transfer-Encoding: base64\r\n"
        f"{parameter('Content-Disposition: attachment', 'filename', name)}\r\n"
    )


def _base64(content: bytes) -> str:
    return encodebytes(content).decode("ascii").replace("\n", "\r\n")
