"""Workbooks (XLSX, ODS, XLS) to rows of cells.

A formula is never run: what counts is the value that the writing program left beside it. XLSX and ODS are zip archives,
so that a few kilobytes can unpack to gigabytes or claim billions of cells: what an archive unpacks to, and how far its
cells reach, is found out piece by piece before anything else looks at it. What reads it afterwards is native code; it
belongs into a process of its own (the sandbox), which may not take the server along.
"""

import io
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal

from python_calamine import CalamineError, CalamineWorkbook, SheetTypeEnum

from uvarovite.core.contacts.amounts import NumberCell
from uvarovite.core.contacts.import_faults import FileFault

# 200,000 people with twelve fields take about 20 MB packed and 150 MB unpacked; CSV has no such bound.
LARGEST_PACKED_BYTES = 64 * 1024 * 1024
LARGEST_UNPACKED_BYTES = 400 * 1024 * 1024
# A full sheet of twenty columns. The reader keeps a place for every cell of the rectangle, filled or not.
MOST_CELLS = 20_000_000
_PIECE = 1 << 20
# No tag with its attributes is longer: one that is would hide what it claims from whoever looks for it.
_LONGEST_TAG = 8_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Grid:
    """A sheet of a workbook: the chosen one among all of them, and its rows from the first row and column on."""

    sheet: str
    sheets: tuple[str, ...]
    rows: Iterator[list[str]]


def read_grid(data: bytes, *, sheet: str | None = None) -> Grid:
    """Read a sheet, by default the first that has cells. Raises FileFault: too_large, bomb, extent, workbook, sheet."""
    if len(data) > LARGEST_PACKED_BYTES:
        raise FileFault("too_large", most=LARGEST_PACKED_BYTES >> 20)
    if data.startswith(b"PK"):
        _bound_archive(data)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        names = [one.name for one in book.sheets_metadata if one.typ == SheetTypeEnum.WorkSheet]
        if not names:
            raise FileFault("workbook", how="no_sheet")
        chosen = sheet if sheet is not None else _first_filled(book, names)
        if chosen not in names:
            raise FileFault("sheet", sheet=chosen, sheets=", ".join(names))
        found = book.get_sheet_by_name(chosen)
    except (CalamineError, OSError, ValueError) as fault:
        raise FileFault("workbook", how="said", said=str(fault)) from fault
    before = [""] * (found.start[1] if found.start else 0)
    rows = ([*before, *map(cell_text, row)] for row in found.iter_rows())
    return Grid(sheet=chosen, sheets=tuple(names), rows=rows)


def _first_filled(book: CalamineWorkbook, names: list[str]) -> str:
    return next((name for name in names if book.get_sheet_by_name(name).total_height), names[0])


def _bound_archive(data: bytes) -> None:
    """Unpack an archive to nowhere, up to the bounds: the sizes that it states for itself cannot be trusted."""
    total = 0
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if len(archive.infolist()) > 10_000:
                raise FileFault("workbook", how="members")
            for member in archive.infolist():
                extent = _extent_of(member.filename)
                with archive.open(member) as packed:
                    while piece := packed.read(_PIECE):
                        total += len(piece)
                        if total > LARGEST_UNPACKED_BYTES:
                            raise FileFault("bomb", most=LARGEST_UNPACKED_BYTES >> 20)
                        extent.take(piece)
                extent.take(b"", last=True)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as fault:
        raise FileFault("workbook", how="locked", said=str(fault)) from fault
    except Exception as fault:
        if isinstance(fault, FileFault):
            raise
        # The decompressors raise errors of their own for damaged streams.
        raise FileFault("workbook", how="damaged", said=str(fault)) from fault


def _extent_of(member: str) -> "_Extent":
    # A sheet of a spreadsheet may stand under any name: another file of the archive says which.
    return _OpenDocument() if member == "content.xml" else _SpreadsheetMl()


class _Extent:
    """How far the filled cells of a sheet reach, read from its tags as they pass by. Raises FileFault beyond MOST_CELLS."""

    _tags: re.Pattern[bytes]

    def __init__(self) -> None:
        self._rest = b""
        self.rows = self.columns = 0

    def take(self, piece: bytes, *, last: bool = False) -> None:
        """Look through one more piece; a tag that may go on in the next one is left for it."""
        text = self._rest + piece
        begin = text.rfind(b"<")
        end = len(text) if last or begin < 0 or b">" in text[begin:] else begin
        if len(text) - end > _LONGEST_TAG:
            raise FileFault("workbook", how="tag")
        self._look_through(text[:end])
        self._rest = text[end:]
        if self.rows * self.columns > MOST_CELLS:
            raise FileFault("extent", rows=self.rows, columns=self.columns)

    def _look_through(self, text: bytes) -> None:
        for tag in self._tags.finditer(text):
            self._read(tag)

    def _read(self, tag: re.Match[bytes]) -> None:
        raise NotImplementedError


class _SpreadsheetMl(_Extent):
    """ECMA-376, part 1, section 18.3: `<c r="B12">`; a cell without content is closed in its own tag."""

    _tags = re.compile(rb"<(?:\w+:)?(?:c|row)(?=[\s/>])[^<>]*>", re.ASCII)
    _place = re.compile(rb'\sr\s*=\s*["\']\s*([A-Za-z]{0,3})(\d{1,9})')

    # What nearly all programs write: every cell says its place. Read at once, which takes a tenth of the time.
    _placed = re.compile(rb'<(?:\w+:)?c\s(?:[^<>]*?\s)?r="([A-Z]{1,3})(\d{1,9})"[^<>]*(?<!/)>', re.ASCII)
    _unplaced = re.compile(rb'<(?:\w+:)?c(?:>|\s(?![^<>]*\br="[A-Z])[^<>]*(?<!/)>)', re.ASCII)

    def __init__(self) -> None:
        super().__init__()
        self._row = self._column = 0

    def _look_through(self, text: bytes) -> None:
        if self._unplaced.search(text):
            super()._look_through(text)
        elif found := self._placed.findall(text):
            self._row = int(found[-1][1])
            self.rows = max(self.rows, max(int(row) for _, row in found))
            self.columns = max(self.columns, *map(_column_number, {letters for letters, _ in found}))

    def _read(self, tag: re.Match[bytes]) -> None:
        text = tag[0]
        place = self._place.search(text)
        if re.match(rb"<(?:\w+:)?row", text):
            self._row, self._column = int(place[2]) if place else self._row + 1, 0
            return
        self._column = _column_number(place[1]) if place and place[1] else self._column + 1
        if place and place[1]:
            self._row = int(place[2])
        if not text.endswith(b"/>"):
            self.rows, self.columns = max(self.rows, self._row), max(self.columns, self._column)


class _OpenDocument(_Extent):
    """OpenDocument 1.3, part 3, section 9.1: cells and rows that stand for several of the same kind."""

    _tags = re.compile(
        rb"<(?:table:(?:table|table-row|table-cell|covered-table-cell)(?=[\s/>])[^<>]*|/table:table-row\s*)>"
    )
    _columns = re.compile(rb'number-columns-repeated\s*=\s*["\'](\d{1,9})')
    _rows = re.compile(rb'number-rows-repeated\s*=\s*["\'](\d{1,9})')

    def __init__(self) -> None:
        super().__init__()
        self._above = self._repeated = self._width = self._filled = 0

    def _read(self, tag: re.Match[bytes]) -> None:
        text = tag[0]
        if text.startswith(b"<table:table-row"):
            found = self._rows.search(text)
            self._repeated, self._width, self._filled = int(found[1]) if found else 1, 0, 0
        elif text.startswith(b"</"):
            self._above += self._repeated
            if self._filled:
                self.rows, self.columns = max(self.rows, self._above), max(self.columns, self._filled)
        elif text.startswith((b"<table:table-cell", b"<table:covered-table-cell")):
            found = self._columns.search(text)
            self._width += int(found[1]) if found else 1
            if b"value-type" in text or not text.endswith(b"/>"):
                self._filled = self._width
        else:
            self._above = 0


def _column_number(letters: bytes) -> int:
    place = 0
    for letter in letters.upper():
        place = place * 26 + letter - 64
    return place


def cell_text(cell: object) -> str:
    """A cell's value as the text that a person would read in it; that of a number keeps that it is one."""
    kind = type(cell)
    if kind is str:
        assert isinstance(cell, str)
        return cell.replace("\0", "").replace("_x000D_", "") if "\0" in cell or "_x" in cell else cell
    if kind is float or kind is int:
        assert isinstance(cell, float | int)
        # A spreadsheet has one kind of number; whole ones are meant as such. Fifteen digits are all that it keeps.
        whole = cell == cell // 1 and abs(cell) < 1e15
        return NumberCell(int(cell) if whole else format(Decimal(f"{cell:.15g}"), "f"))
    match cell:
        case None:
            return ""
        case bool():
            return "yes" if cell else "no"
        case datetime():
            if (cell.hour, cell.minute, cell.second) == (0, 0, 0):
                return cell.date().isoformat()
            return cell.isoformat(sep=" ", timespec="seconds")
        case date() | time():
            return cell.isoformat()
        case timedelta():
            return str(cell)
        case _:
            return str(cell)
