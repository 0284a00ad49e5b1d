"""An entry for a calendar, as a file that calendars read (iCalendar, RFC 5545)."""

import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

# Of a content line, in bytes, without its line end (RFC 5545, section 3.1).
_LONGEST_LINE = 75
_TEXT = re.compile(r"([\\;,])")
_CONTROL = re.compile(r"[\x00-\x09\x0b-\x1f\x7f]")


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """What stands in a calendar. `begins` is an aware instant, or a day that is meant as a whole; `minutes` for an instant."""

    uid: str
    title: str
    place: str
    note: str
    begins: datetime | date
    minutes: int


def calendar_file(entry: Entry, *, organisation: str, made_at: datetime) -> str:
    """The file: one entry that a reader may put into their calendar, with CRLF at its lines. It asks for no answer."""
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        f"PRODID:-//{_text(organisation)}//Uvarovite//EN",
        "METHOD:PUBLISH",
        "BEGIN:VEVENT",
        f"UID:{_text(entry.uid)}",
        f"DTSTAMP:{_instant(made_at)}",
        *_when(entry),
        f"SUMMARY:{_text(entry.title)}",
    ]
    if entry.place.strip():
        lines.append(f"LOCATION:{_text(entry.place)}")
    if entry.note.strip():
        lines.append(f"DESCRIPTION:{_text(entry.note)}")
    lines += ["END:VEVENT", "END:VCALENDAR"]
    return "".join(f"{_folded(line)}\r\n" for line in lines)


def _when(entry: Entry) -> list[str]:
    if isinstance(entry.begins, datetime):
        ends = entry.begins.astimezone(UTC) + timedelta(minutes=entry.minutes)
        return [f"DTSTART:{_instant(entry.begins)}", f"DTEND:{_instant(ends)}"]
    # The end of a whole day is the day after it (RFC 5545, section 3.6.1); without one it lasts that day.
    return [f"DTSTART;VALUE=DATE:{entry.begins:%Y%m%d}", "TRANSP:TRANSPARENT"]


def _instant(moment: datetime) -> str:
    return f"{moment.astimezone(UTC):%Y%m%dT%H%M%SZ}"


def _text(text: str) -> str:
    """A text value (RFC 5545, section 3.3.11): no line of a person's own can become a line of the file."""
    plain = _CONTROL.sub(" ", text.replace("\r\n", "\n").replace("\r", "\n").replace("\x85", " "))
    return _TEXT.sub(r"\\\1", plain).replace("\n", "\\n")


def _folded(line: str) -> str:
    """A line, folded between characters where it is too long."""
    pieces, piece, room = [], "", _LONGEST_LINE
    size = 0
    for sign in line:
        width = len(sign.encode("utf-8", "replace"))
        if size + width > room:
            pieces.append(piece)
            # The blank that begins the next line is one of its bytes.
            piece, size, room = "", 0, _LONGEST_LINE - 1
        piece, size = piece + sign, size + width
    return "\r\n ".join([*pieces, piece])
