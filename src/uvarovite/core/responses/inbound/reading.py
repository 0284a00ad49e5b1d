"""A message that came in, read as far as it can be: whatever it is made of, it never raises.

MIME as RFC 2045 to 2047 have it, and what there is besides: unknown charsets, broken boundaries, reports within reports.
What is read is bounded in bytes, in parts and in depth.
"""

import html
import re
from dataclasses import dataclass, field
from email.header import decode_header
from email.message import Message
from email.parser import BytesHeaderParser, BytesParser

# Of a message so much is looked at; what reports and people write stands within it.
MOST_BYTES = 4_000_000
MOST_PARTS = 100
DEEPEST = 12
LONGEST_TEXT = 50_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A part that holds no others. `fields` are the header-like groups of a machine-readable report, `name` is a file's."""

    kind: str
    text: str
    name: str = ""
    fields: tuple[dict[str, str], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadMail:
    """`headers` are decoded, the first of each name, which is in lower case. `originals` are headers of messages within it."""

    headers: dict[str, str]
    kind: str = "text/plain"
    report_type: str = ""
    parts: tuple[Part, ...] = ()
    originals: tuple[dict[str, str], ...] = ()
    is_cut: bool = field(default=False)

    @property
    def text(self) -> str:
        """What it says: its plain text, else its HTML without the tags."""
        plain = [part.text for part in self.parts if part.kind == "text/plain"]
        if any(one.strip() for one in plain):
            return "\n".join(plain)
        return "\n".join(_without_tags(part.text) for part in self.parts if part.kind == "text/html")


_REPORTS = frozenset(
    {
        "message/delivery-status",
        "message/global-delivery-status",
        "message/feedback-report",
        "message/disposition-notification",
        "message/global-disposition-notification",
    }
)
_HEADERS_ALONE = frozenset({"text/rfc822-headers", "message/rfc822-headers", "message/global-headers"})


def read_mail(raw: bytes) -> ReadMail:
    """What a message says and is made of. Of one that is no message at all, what there is."""
    told = raw[:MOST_BYTES]
    try:
        message = BytesParser().parsebytes(told)
        found = _Found()
        found.look(message, 0)
    except (RecursionError, ValueError, LookupError, TypeError, AssertionError):
        # Parts within parts without end, and what the parser stumbles over: its own headers can be read at least.
        message = BytesHeaderParser().parsebytes(told[:100_000])
        found = _Found(is_cut=True)
    return ReadMail(
        headers=_headers(message),
        kind=message.get_content_type(),
        report_type=_parameter(message, "report-type"),
        parts=tuple(found.parts),
        originals=tuple(found.originals),
        is_cut=found.is_cut or len(raw) > MOST_BYTES,
    )


class _Found:
    """What was found so far."""

    def __init__(self, *, is_cut: bool = False) -> None:
        self.parts: list[Part] = []
        self.originals: list[dict[str, str]] = []
        self.is_cut = is_cut

    def look(self, message: Message, depth: int) -> None:
        """Look at a part and what is in it."""
        if depth > DEEPEST or len(self.parts) >= MOST_PARTS:
            self.is_cut = True
            return
        kind = message.get_content_type()
        inside = message.get_payload()
        if kind in _REPORTS:
            groups = [one for one in inside if isinstance(one, Message)] if isinstance(inside, list) else []
            fields = [_headers(one) for one in groups] or _groups(_text(message))
            if len(groups) == 1:
                # Of the forms that the parser does not know it takes the first group for headers, the rest for a text.
                behind = groups[0].get_payload()
                fields += _groups(behind[:LONGEST_TEXT]) if isinstance(behind, str) else []
            self.parts.append(Part(kind=kind, text="", fields=tuple(fields[:MOST_PARTS])))
        elif kind in ("message/rfc822", "message/global") and isinstance(inside, list):
            for one in inside:
                if isinstance(one, Message):
                    self.originals.append(_headers(one))
                    self._within(one, depth + 1)
        elif isinstance(inside, list):
            for one in inside:
                if isinstance(one, Message):
                    self.look(one, depth + 1)
        elif kind in _HEADERS_ALONE:
            self.originals.extend(_groups(_text(message))[:1])
        else:
            text = _text(message) if kind.startswith("text/") else ""
            self.parts.append(Part(kind=kind, text=text, name=_filename(message)))

    def _within(self, original: Message, depth: int) -> None:
        """Of a message that was sent on, only what it reports: its words are somebody else's."""
        if depth > DEEPEST:
            self.is_cut = True
            return
        inside = original.get_payload()
        for one in inside if isinstance(inside, list) else ():
            if isinstance(one, Message) and one.get_content_type() in ("message/rfc822", "multipart/report"):
                nested = one.get_payload()
                for deeper in nested if isinstance(nested, list) else ():
                    if isinstance(deeper, Message):
                        self.originals.append(_headers(deeper))
                        self._within(deeper, depth + 1)


def _headers(message: Message) -> dict[str, str]:
    found: dict[str, str] = {}
    for name, value in message.items():
        found.setdefault(name.lower(), _decoded(str(value)))
    return found


def _decoded(value: str) -> str:
    """A header in plain words (RFC 2047); what cannot be decoded stays as it is."""
    unfolded = re.sub(r"\r?\n[ \t]+", " ", value).strip()
    try:
        pieces = decode_header(unfolded)
    except (ValueError, LookupError):
        return unfolded[:LONGEST_TEXT]
    told = ""
    for piece, charset in pieces:
        told += piece if isinstance(piece, str) else _in_charset(piece, charset or "ascii")
    return told[:LONGEST_TEXT]


def _text(part: Message) -> str:
    try:
        payload = part.get_payload(decode=True)
    except (ValueError, LookupError):
        payload = None
    if not isinstance(payload, bytes):
        return ""
    return _in_charset(payload[: 4 * LONGEST_TEXT], part.get_content_charset() or "utf-8")[:LONGEST_TEXT]


def _filename(part: Message) -> str:
    try:
        return _decoded(part.get_filename() or "")
    except (ValueError, LookupError, TypeError):
        return ""


def _in_charset(payload: bytes, charset: str) -> str:
    """Bytes as text: in the charset that is told, else in the most likely one."""
    for tried in (charset, "utf-8"):
        try:
            return payload.decode(tried)
        except (UnicodeDecodeError, LookupError):
            continue
    return payload.decode("windows-1252", "replace")


def _parameter(message: Message, name: str) -> str:
    try:
        told = message.get_param(name)
    except (ValueError, LookupError, TypeError):
        return ""
    return told.lower() if isinstance(told, str) else ""


def _groups(text: str) -> list[dict[str, str]]:
    """Groups of "Name: value" lines, each behind an empty line."""
    found = []
    for group in re.split(r"\r?\n[ \t]*\r?\n", text.strip()):
        fields: dict[str, str] = {}
        for line in re.sub(r"\r?\n[ \t]+", " ", group).splitlines():
            name, colon, value = line.partition(":")
            if colon and name.strip() and " " not in name.strip():
                fields.setdefault(name.strip().lower(), value.strip())
        if fields:
            found.append(fields)
    return found


_BREAKS = re.compile(r"(?i)<(?:br|/p|/div|/tr|/li|/h[1-6]|hr)[^>]*>")
_UNSEEN = re.compile(r"(?is)<(script|style|head|title)\b.*?</\1\s*>|<!--.*?-->")
_QUOTE = re.compile(r"(?is)<blockquote\b.*")


def _without_tags(text: str) -> str:
    seen = _BREAKS.sub("\n", _QUOTE.sub("", _UNSEEN.sub(" ", text)))
    return html.unescape(re.sub(r"<[^>]*>", "", seen))
