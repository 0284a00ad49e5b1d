"""Files that go with letters: what is taken is what mail programs open, and it is what its name says.

Media types by the registry of IANA.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import ClassVar

from uvarovite.core.values.sentences import CodedFault

LARGEST_BYTES = 5 << 20
# All files of a message, as they are; on the wire they take a third more, and many mailboxes take no more than 10 MB.
MOST_TOGETHER = 7 << 20
LONGEST_NAME = 120


@dataclass(frozen=True, slots=True, kw_only=True)
class FileKind:
    """A kind of file: its media type, and whether bytes are of it."""

    media_type: str
    is_it: Callable[[bytes], bool]


def _begins(*marks: bytes) -> Callable[[bytes], bool]:
    return lambda data: data.startswith(marks)


def _is_text(data: bytes) -> bool:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return b"\0" not in data


def _is_calendar(data: bytes) -> bool:
    return _is_text(data) and data.lstrip(b"\xef\xbb\xbf").lstrip().upper().startswith(b"BEGIN:VCALENDAR")


def _packed(holds: bytes) -> Callable[[bytes], bool]:
    """An archive whose table of contents names something."""
    return lambda data: data.startswith(b"PK\x03\x04") and holds in data


_OPEN_XML = "application/vnd.openxmlformats-officedocument"
_OPEN_DOCUMENT = "application/vnd.oasis.opendocument"
KINDS: Mapping[str, FileKind] = {
    # PDF, ISO 32000-1, 7.5.2: readers take a header within the first 1,024 bytes; a strict one is asked for.
    "pdf": FileKind(media_type="application/pdf", is_it=_begins(b"%PDF-")),
    "png": FileKind(media_type="image/png", is_it=_begins(b"\x89PNG\r\n\x1a\n")),
    "jpg": FileKind(media_type="image/jpeg", is_it=_begins(b"\xff\xd8\xff")),
    "gif": FileKind(media_type="image/gif", is_it=_begins(b"GIF87a", b"GIF89a")),
    "txt": FileKind(media_type="text/plain", is_it=_is_text),
    "csv": FileKind(media_type="text/csv", is_it=_is_text),
    "ics": FileKind(media_type="text/calendar", is_it=_is_calendar),
    "docx": FileKind(media_type=f"{_OPEN_XML}.wordprocessingml.document", is_it=_packed(b"word/")),
    "xlsx": FileKind(media_type=f"{_OPEN_XML}.spreadsheetml.sheet", is_it=_packed(b"xl/")),
    "pptx": FileKind(media_type=f"{_OPEN_XML}.presentationml.presentation", is_it=_packed(b"ppt/")),
    "odt": FileKind(media_type=f"{_OPEN_DOCUMENT}.text", is_it=_packed(b"opendocument.text")),
    "ods": FileKind(media_type=f"{_OPEN_DOCUMENT}.spreadsheet", is_it=_packed(b"opendocument.spreadsheet")),
}
_SAME = {"jpeg": "jpg"}

ATTACHMENT_FAULTS: Mapping[str, str] = {
    "empty": "The file is empty.",
    "too_large": "The file has {size} MB; at most {most} MB are taken. Put it on your website and link to it.",
    "kind": "Files of the kind “{kind}” are not taken: mail programs refuse them or warn of them. PDF is read everywhere.",
    "not_what_it_says": "Its name ends in .{kind}, and it holds something else. Save it as what it is, and try again.",
    "macros": "The file holds macros: programs that mail programs warn of. Save it without them.",
}


class AttachmentFault(CodedFault):
    """A file that goes with no letter. Whose doing: the file's."""

    words: ClassVar[Mapping[str, str]] = ATTACHMENT_FAULTS


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptFile:
    """A file as it is kept: `kind` is one of KINDS; `content` is b"" where only what is said of it matters."""

    kind: str
    name: str
    size: int
    content: bytes = b""


NO_FILES: Mapping[str, KeptFile] = {}


def checked_file(name: str, data: bytes) -> KeptFile:
    """A file as it is kept. Raises AttachmentFault."""
    name = plain_name(name)
    stem, dot, ending = name.rpartition(".")
    kind = _SAME.get(ending.casefold(), ending.casefold()) if dot else ""
    if len(data) > LARGEST_BYTES:
        raise AttachmentFault("too_large", size=-(-len(data) >> 20), most=LARGEST_BYTES >> 20)
    if not data:
        raise AttachmentFault("empty")
    if kind not in KINDS or not stem:
        raise AttachmentFault("kind", kind=ending if dot else name)
    # The names of what an archive holds stand in it as they are.
    if b"vbaProject.bin" in data:
        raise AttachmentFault("macros")
    if not KINDS[kind].is_it(data):
        raise AttachmentFault("not_what_it_says", kind=kind)
    return KeptFile(kind=kind, name=name, size=len(data), content=data)


# What would hide how a name ends, or lead out of a directory: controls, directions of writing, what systems forbid.
_FORBIDDEN = re.compile(r"[\x00-\x1f\x7f-\x9f\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff<>:\"/\\|?*]+")


def plain_name(name: str) -> str:
    """A file's name without directories and without signs that mislead; "file" where nothing is left."""
    last = re.split(r"[/\\]", name)[-1]
    told = " ".join(_FORBIDDEN.sub(" ", last).split()).strip(". ")
    return told[-LONGEST_NAME:].strip(". ") or "file"


def encoded_size(size: int) -> int:
    """The bytes that so many take in base64, with its lines (RFC 2045, section 6.8)."""
    signs = -(-size // 3) * 4
    return signs + 2 * (-(-signs // 76))
