"""A delimited file (RFC 4180 and what programs make of it) to headers and rows.

Encoding and delimiter are detected, told, and may be set by the caller. A file that cannot be read as a whole is a
FileFault with what to do about it; a single row that does not fit is the judge's business.
"""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from uvarovite.core.values import Address, read_address

if TYPE_CHECKING:
    import _csv

ENCODINGS = ("utf-8", "windows-1252", "iso-8859-2", "windows-1250", "iso-8859-7", "shift_jis", "utf-16")
DELIMITERS = (",", ";", "\t", "|")
# A contact file has tens of columns; thousands are a mistake or an attack on memory.
MOST_COLUMNS = 200
# One cell; a letter pasted into a cell is not what a field is for.
LONGEST_CELL = 20_000


class FileFault(Exception):
    """A file that cannot be brought in at all. Whose doing: the file's; `message` says how to mend it."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A file that was read: `text` without its byte order mark, the `headers` stripped."""

    text: str
    encoding: str
    guessed_encoding: bool
    delimiter: str
    headers: tuple[str, ...]

    def rows(self) -> Iterator[tuple[int, list[str]]]:
        """(row, cells) with rows counted from 1 for the first record; empty lines do not count.

        Raises FileFault where the rest of the file cannot be told apart into rows.
        """
        reader = _reader(self.text, self.delimiter)
        number = -1
        try:
            for cells in reader:
                if not any(cell.strip() for cell in cells):
                    continue
                number += 1
                if number:
                    yield number, cells
        except csv.Error as fault:
            raise FileFault(
                "broken_quotes",
                f"Near line {reader.line_num} a quote is not closed or a cell is longer than "
                f"{LONGEST_CELL:,} characters ({fault}). Mend that line and bring the file in again.",
            ) from fault


def read_sheet(data: bytes, *, encoding: str | None = None, delimiter: str | None = None) -> Sheet:
    """Read a file's bytes. Raises FileFault: empty, spreadsheet, binary, encoding, no_header, twice, columns."""
    if not data.strip():
        raise FileFault("empty", "The file is empty. Save it again from where it comes and bring it in then.")
    if data.startswith((b"PK\x03\x04", b"\xd0\xcf\x11\xe0")):
        raise FileFault(
            "spreadsheet",
            "This is a spreadsheet, not a CSV file. In your spreadsheet, save it as “CSV UTF-8”.",
        )
    text, used, guessed = _decode(data, encoding)
    if "\0" in text:
        raise FileFault("binary", "The file holds NUL bytes, so it is no text file. Save it as “CSV UTF-8”.")
    first_line = text.lstrip("\r\n").split("\n", 1)[0]
    used_delimiter = delimiter or max(DELIMITERS, key=first_line.count)
    try:
        raw = next(cells for cells in _reader(text, used_delimiter) if any(cell.strip() for cell in cells))
    except (csv.Error, StopIteration) as fault:
        raise FileFault(
            "no_header", "The first line cannot be read as column names. Is a quote left open in it?"
        ) from fault
    headers = tuple(header.strip() for header in raw)
    _judge_headers(headers)
    return Sheet(text=text, encoding=used, guessed_encoding=guessed, delimiter=used_delimiter, headers=headers)


def _reader(text: str, delimiter: str) -> "_csv.Reader":
    csv.field_size_limit(LONGEST_CELL)
    return csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)


def _decode(data: bytes, encoding: str | None) -> tuple[str, str, bool]:
    if encoding is not None and encoding not in ENCODINGS:
        raise FileFault("encoding", f"“{encoding}” is none of {', '.join(ENCODINGS)}.")
    if encoding is None and data.startswith((b"\xff\xfe", b"\xfe\xff")):
        encoding = "utf-16"
    # UTF-8 cannot be met by chance; a file that is not UTF-8 is most often what an older spreadsheet saved.
    for candidate in [encoding] if encoding else ["utf-8", "windows-1252"]:
        try:
            text = data.decode("utf-8-sig" if candidate == "utf-8" else candidate)
        except UnicodeDecodeError:
            continue
        return text, candidate, encoding is None and candidate != "utf-8"
    asked = encoding or "UTF-8"
    raise FileFault("encoding", f"The file is not written in {asked}. Save it as “CSV UTF-8”, or choose its encoding.")


def _judge_headers(headers: tuple[str, ...]) -> None:
    if len(headers) > MOST_COLUMNS:
        raise FileFault(
            "columns",
            f"The file has {len(headers):,} columns; at most {MOST_COLUMNS} can be brought in. Leave out the rest.",
        )
    if any("@" in header and isinstance(read_address(header), Address) for header in headers):
        raise FileFault(
            "no_header",
            "The first line holds a person, not column names. Put a line above it such as "
            "“E-mail address, First name, Last name”.",
        )
    named = [header.casefold() for header in headers if header]
    for header in headers:
        if header and named.count(header.casefold()) > 1:
            raise FileFault(
                "twice", f"Two columns are called “{header}”. Rename one, so that it is clear which counts."
            )
