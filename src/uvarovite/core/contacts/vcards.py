"""vCards (RFC 6350, and 2.1 and 3.0 as they are found) to a sheet: one row for each card, one column for each property.

Only what a contact can hold is read: names, the preferred e-mail address (the others beside it), organisation, address, dates, categories,
notes and language. Everything else, photographs above all, is passed over.
"""

import quopri
import re
from collections.abc import Iterator
from dataclasses import dataclass

from uvarovite.core.contacts.delimited import read_text_lines
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.sheets import Bytes, FileNote, NoteCode, Sheet, number_rows

# Only where a card has several.
FURTHER = "Further e-mail addresses"
HEADERS = (
    "First name", "Last name", "E-mail address", "Organisation", "Title", "Street", "Town", "Postcode", "Country",
    "Telephone", "Birthday", "Language", "Tags", "Note", "UID",
)  # fmt: skip
_AT = {name: place for place, name in enumerate(HEADERS)}
_LINE = re.compile(
    r"(?:[\w-]+\.)?(?P<name>[\w-]+)(?P<parameters>(?:;[^:\"]*(?:\"[^\"]*\"[^:\"]*)*)?):(?P<value>.*)", re.DOTALL
)
_LONGEST_PROPERTY = 100_000


@dataclass(frozen=True, slots=True)
class _Property:
    name: str
    parameters: str
    value: str


def looks_like_vcard(first: bytes) -> bool:
    """Does a file begin as a vCard does?"""
    return first.lstrip(b"\xef\xbb\xbf \r\n\t")[:11].upper() == b"BEGIN:VCARD"


def read_vcards(data: Bytes, *, encoding: str | None = None) -> tuple[Sheet, str]:
    """(sheet, encoding) of a file of vCards. Raises FileFault: encoding, binary, empty, card."""
    lines, used = read_text_lines(data, encoding)

    def rows() -> Iterator[tuple[int, list[str]]]:
        return number_rows(_cards(lines()))

    cards = several = 0
    for _, cells in rows():
        cards, several = cards + 1, several + bool(cells[-1])
    if not cards:
        raise FileFault("empty", how="cards")
    if not several:
        return Sheet(headers=HEADERS, rows=lambda: ((row, cells[:-1]) for row, cells in rows())), used
    note = FileNote(code=NoteCode.SEVERAL_ADDRESSES, count=several)
    return Sheet(headers=(*HEADERS, FURTHER), rows=rows, notes=(note,)), used


def _unfolded(lines: Iterator[str]) -> Iterator[str]:
    """Logical lines: folded ones joined (RFC 6350, section 3.2), quoted-printable soft breaks too (vCard 2.1)."""
    whole = ""
    for raw in lines:
        line = raw.rstrip("\r\n")
        if line[:1] in (" ", "\t") and whole:
            whole += line[1:]
        elif whole.endswith("=") and "QUOTED-PRINTABLE" in whole.partition(":")[0].upper():
            whole = whole[:-1] + line
        else:
            if whole:
                yield whole
            whole = line
        if len(whole) > _LONGEST_PROPERTY:
            # A picture in the middle of a card: what is needed of a property fits into far less.
            whole = whole[: _LONGEST_PROPERTY // 2]
    if whole:
        yield whole


def _cards(lines: Iterator[str]) -> Iterator[list[str]]:
    card: list[_Property] | None = None
    for line in _unfolded(lines):
        found = _LINE.fullmatch(line)
        if found is None:
            continue
        name, value = found["name"].upper(), found["value"]
        if name == "BEGIN" and value.strip().upper() == "VCARD":
            card = []
        elif name == "END" and value.strip().upper() == "VCARD":
            if card is not None:
                yield _row(card)
            card = None
        elif card is not None and len(card) < 500:
            card.append(_Property(name, found["parameters"].upper(), _decoded(found["parameters"].upper(), value)))
    if card is not None:
        raise FileFault("card")


def _decoded(parameters: str, value: str) -> str:
    if "QUOTED-PRINTABLE" in parameters:
        charset = re.search(r"CHARSET=([\w-]+)", parameters)
        try:
            return quopri.decodestring(value.encode("latin-1", "replace")).decode(charset[1] if charset else "utf-8")
        except (LookupError, UnicodeError):
            return quopri.decodestring(value.encode("latin-1", "replace")).decode("latin-1")
    return value


def _plain(text: str) -> str:
    """A value without its escapes (RFC 6350, section 3.4)."""
    return re.sub(r"\\(.)", lambda found: "\n" if found[1] in "nN" else found[1], text, flags=re.DOTALL).strip()


def _parts(text: str) -> list[str]:
    return [_plain(part) for part in re.split(r"(?<!\\);", text)]


def _row(card: list[_Property]) -> list[str]:
    cells = [""] * len(HEADERS)

    def put(header: str, text: str) -> None:
        if text and not cells[_AT[header]]:
            cells[_AT[header]] = text

    further: list[str] = []
    for one in sorted(card, key=_preference):
        match one.name:
            case "N":
                family, given, *_ = [*_parts(one.value), "", ""]
                put("Last name", family)
                put("First name", given)
            case "EMAIL":
                address = _plain(one.value).removeprefix("mailto:")
                if cells[_AT["E-mail address"]] and address != cells[_AT["E-mail address"]]:
                    further.append(address)
                put("E-mail address", address)
            case "ORG":
                put("Organisation", _parts(one.value)[0])
            case "TITLE":
                put("Title", _plain(one.value))
            case "ADR":
                parts = [*_parts(one.value), *[""] * 7]
                for header, part in zip(
                    ("Street", "Town", "Postcode", "Country"), (parts[2], parts[3], parts[5], parts[6]), strict=True
                ):
                    put(header, part)
            case "TEL":
                put("Telephone", _plain(one.value).removeprefix("tel:"))
            case "BDAY":
                put("Birthday", _birthday(_plain(one.value)))
            case "LANG":
                put("Language", _plain(one.value))
            case "CATEGORIES":
                put("Tags", ", ".join(_plain(part) for part in re.split(r"(?<!\\),", one.value)))
            case "NOTE":
                put("Note", _plain(one.value))
            case "UID":
                put("UID", _plain(one.value).removeprefix("urn:uuid:"))
    if not cells[0] and not cells[1]:
        full = next((_plain(one.value) for one in card if one.name == "FN"), "")
        first, _, last = full.rpartition(" ")
        cells[0], cells[1] = (first, last) if "@" not in full else ("", "")
    return [*cells, ", ".join(dict.fromkeys(further))]


def _preference(one: _Property) -> int:
    """1 is the most preferred (RFC 6350, section 5.3); older cards only say which one is."""
    found = re.search(r";PREF=\"?(\d{1,3})", one.parameters)
    if found:
        return int(found[1])
    return 1 if "PREF" in one.parameters else 101


def _birthday(text: str) -> str:
    """ISO 8601's basic form made the extended one; a birthday without a year cannot be kept as a date."""
    basic = re.fullmatch(r"(\d{4})(\d{2})(\d{2})(T.*)?", text)
    if basic:
        return f"{basic[1]}-{basic[2]}-{basic[3]}"
    return "" if text.startswith("--") else text.partition("T")[0]
