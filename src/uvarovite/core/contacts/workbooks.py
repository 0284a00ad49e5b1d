"""Workbooks (XLSX, ODS, XLS) to a sheet. Cells arrive as values; they become the texts that the judge reads.

A formula is never run: what counts is the value that the writing program left beside it. XLSX and ODS are zip archives,
so that a few kilobytes can unpack to gigabytes: the archive is unpacked piece by piece up to a bound before anything
else looks at it.
"""

import io
import re
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal

from python_calamine import CalamineError, CalamineWorkbook, SheetTypeEnum

from uvarovite.core.contacts.sheets import MOST_COLUMNS, FileFault, Sheet, number_rows, validate_headers

# 200,000 people with twelve fields take about 20 MB packed and 150 MB unpacked; CSV has no such bound.
LARGEST_PACKED_BYTES = 64 * 1024 * 1024
LARGEST_UNPACKED_BYTES = 400 * 1024 * 1024
_PIECE = 1 << 20
_RANGE = re.compile(r"([A-Z]{1,3})(\d{1,7}):([A-Z]{1,3})(\d{1,7})")


@dataclass(frozen=True, slots=True, kw_only=True)
class Workbook:
    """Where in a workbook the rows were found: the chosen sheet among all of them, and the range, such as A1:F240."""

    sheet: str
    sheets: tuple[str, ...]
    range: str


def read_workbook(data: bytes, *, sheet: str | None = None, range_: str | None = None) -> tuple[Sheet, Workbook]:
    """Read a workbook; the first row of the range holds the column names.

    Raises FileFault: too_large, workbook, sheet, range, empty, and what validate_headers raises.
    """
    if len(data) > LARGEST_PACKED_BYTES:
        raise FileFault(
            "too_large",
            f"A workbook may have at most {LARGEST_PACKED_BYTES >> 20} MB. Save the sheet as “CSV UTF-8” instead.",
        )
    if data.startswith(b"PK"):
        _judge_archive(data)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        names = [one.name for one in book.sheets_metadata if one.typ == SheetTypeEnum.WorkSheet]
        if not names:
            raise FileFault("workbook", "This workbook has no sheet with cells.")
        chosen = sheet if sheet is not None else _first_filled(book, names)
        if chosen not in names:
            raise FileFault("sheet", f"There is no sheet “{chosen}”; there are {', '.join(names)}.")
        found = book.get_sheet_by_name(chosen)
        grid = found.to_python(skip_empty_area=False)
    except (CalamineError, OSError, ValueError) as fault:
        raise FileFault(
            "workbook", f"This workbook cannot be read ({fault}). Save the sheet as “CSV UTF-8”."
        ) from fault
    top, left, bottom, right = _corners(range_, grid)
    if right - left >= MOST_COLUMNS:
        right = max((place for place, cell in enumerate(grid[top]) if cell not in ("", None)), default=left)
    cut = [[cell_text(cell) for cell in row[left : right + 1]] for row in grid[top : bottom + 1]]
    if not cut or not any(cut[0]):
        raise FileFault(
            "empty", f"The sheet “{chosen}” holds no column names in its first row. Choose sheet and range."
        )
    headers = validate_headers(cut[0])

    def rows() -> Iterator[tuple[int, list[str]]]:
        return number_rows(row[: len(headers)] if not any(row[len(headers) :]) else row for row in cut[1:])

    used = f"{_letters(left)}{top + 1}:{_letters(left + len(headers) - 1)}{bottom + 1}"
    return Sheet(headers=headers, rows=rows), Workbook(sheet=chosen, sheets=tuple(names), range=used)


def _judge_archive(data: bytes) -> None:
    """Unpack an archive to nowhere, up to the bound: the sizes that it states for itself cannot be trusted."""
    total = 0
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if len(archive.infolist()) > 10_000:
                raise FileFault("workbook", "This archive holds more files than any workbook has.")
            for member in archive.infolist():
                with archive.open(member) as packed:
                    while piece := packed.read(_PIECE):
                        total += len(piece)
                        if total > LARGEST_UNPACKED_BYTES:
                            raise FileFault(
                                "bomb",
                                f"The workbook unpacks to more than {LARGEST_UNPACKED_BYTES >> 20} MB. Nothing of it was "
                                "read. Save the sheet as “CSV UTF-8” instead.",
                            )
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as fault:
        raise FileFault("workbook", f"This workbook is damaged or locked by a password ({fault}).") from fault
    except Exception as fault:
        if isinstance(fault, FileFault):
            raise
        # The decompressors raise errors of their own for damaged streams.
        raise FileFault("workbook", f"This workbook is damaged ({fault}).") from fault


def _first_filled(book: CalamineWorkbook, names: list[str]) -> str:
    return next((name for name in names if book.get_sheet_by_name(name).total_height), names[0])


def _corners(range_: str | None, grid: Sequence[Sequence[object]]) -> tuple[int, int, int, int]:
    """(top, left, bottom, right) of a range, from 0 and inclusive; without one, of all that is filled."""
    last = len(grid) - 1
    width = max((len(row) for row in grid), default=1)
    if range_:
        found = _RANGE.fullmatch(range_.upper().replace("$", "").replace(" ", ""))
        if found is None:
            raise FileFault("range", f"“{range_}” is no range; write it as A1:F240.")
        left, top = _place(found[1]), int(found[2]) - 1
        right, bottom = _place(found[3]), int(found[4]) - 1
        if top < 0 or bottom < top or right < left or top > last:
            raise FileFault("range", f"The range {range_} holds nothing; the sheet has {last + 1} rows.")
        return top, left, min(bottom, last), right
    top = next((place for place, row in enumerate(grid) if any(cell not in ("", None) for cell in row)), 0)
    first: Sequence[object] = grid[top] if grid else []
    left = next((place for place, cell in enumerate(first) if cell not in ("", None)), 0)
    return top, left, last, width - 1


def _place(letters: str) -> int:
    place = 0
    for letter in letters:
        place = place * 26 + ord(letter) - 64
    return place - 1


def _letters(place: int) -> str:
    letters = ""
    place += 1
    while place:
        place, rest = divmod(place - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def cell_text(cell: object) -> str:
    """A cell's value as the text that a person would read in it, and the judge reads back."""
    match cell:
        case None | "":
            return ""
        case str():
            return cell.replace("\0", "").replace("_x000D_", "")
        case bool():
            return "yes" if cell else "no"
        case float():
            # A spreadsheet has one kind of number; whole ones are meant as such. Fifteen digits are all that it keeps.
            return str(int(cell)) if cell.is_integer() and abs(cell) < 1e15 else format(Decimal(f"{cell:.15g}"), "f")
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
