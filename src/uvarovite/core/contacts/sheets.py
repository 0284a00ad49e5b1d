"""What every kind of file becomes: column names and rows of cells. A file that cannot be used as a whole is a FileFault
with what to do about it; a single row that does not fit is the validator's business.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.values import Address, read_address

# A contact file has tens of columns; thousands are a mistake or an attack on memory.
MOST_COLUMNS = 200
# One cell; a letter pasted into a cell is not what a field is for.
LONGEST_CELL = 20_000
# Twice what the application is made for; beyond it a file is a mistake or an attack.
MOST_ROWS = 2_000_000

# A file's bytes from the beginning, piece by piece, each time that it is called.
Bytes = Callable[[], Iterable[bytes]]


class NoteCode(StrEnum):
    """What a person should know about a file."""

    SEVERAL_ADDRESSES = "several_addresses"


@dataclass(frozen=True, slots=True, kw_only=True)
class FileNote:
    """Something to know about a file, and how many of its rows it concerns."""

    code: NoteCode
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A file that was read. `rows` begins anew at each call: (row, cells), with the row's number as a spreadsheet counts,
    the names of the columns included.

    Empty rows are passed over. `rows` raises FileFault where the rest of the file cannot be told apart into rows.
    `notes` are what a person should know about the file.
    """

    headers: tuple[str, ...]
    rows: Callable[[], Iterator[tuple[int, list[str]]]]
    notes: tuple[FileNote, ...] = ()


def number_rows(rows: Iterable[list[str]], *, first: int = 1) -> Iterator[tuple[int, list[str]]]:
    """Rows with their numbers; empty ones count and are passed over. Raises FileFault beyond MOST_ROWS."""
    for number, cells in enumerate(rows, start=first):
        # Most rows have something in their first cell; only the others are looked through.
        if not (cells and cells[0]) and not any(cell.strip() for cell in cells):
            continue
        if number > MOST_ROWS:
            raise FileFault("rows", most=MOST_ROWS)
        yield number, cells


def nameless(columns: int) -> tuple[str, ...]:
    """What the columns of a file without names are called."""
    return tuple(f"column {number}" for number in range(1, min(columns, MOST_COLUMNS) + 1))


def validate_headers(raw: Sequence[str]) -> tuple[str, ...]:
    """The column names, white space at their ends taken off. Raises FileFault: columns, no_header, twice."""
    headers = tuple(header.strip() for header in raw)
    while headers and not headers[-1]:
        headers = headers[:-1]
    if len(headers) > MOST_COLUMNS:
        raise FileFault("columns", columns=len(headers), most=MOST_COLUMNS)
    if any("@" in header and isinstance(read_address(header), Address) for header in headers):
        raise FileFault("no_header", how="person")
    if any(len(header) > 200 for header in headers):
        raise FileFault("no_header", how="long")
    named = [header.casefold() for header in headers if header]
    for header in headers:
        if header and named.count(header.casefold()) > 1:
            raise FileFault("twice", column=header)
    return headers
