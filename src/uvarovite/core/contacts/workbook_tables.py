"""Where in a sheet of a workbook the table stands: below a title line, in a range that is said, open or reversed."""

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.sheets import (
    MOST_COLUMNS,
    MOST_ROWS,
    Sheet,
    nameless,
    number_rows,
    validate_headers,
)

# A1:F240, F240:A1, A3:F (to the last row), A:F, A3 (from there on), 3:240.
_CORNER = re.compile(r"([A-Z]{0,3})(\d{0,7})")
# So many rows are looked at for the names of the columns.
_LOOKED_THROUGH = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class GridRows:
    """A sheet's rows, from the first row and column on, anew at each call, and how many there are."""

    rows: Callable[[], Iterator[list[str]]]
    height: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Corners:
    """From 0 and inclusive."""

    top: int
    left: int
    bottom: int
    right: int


def find_table(grid: GridRows, *, range_: str | None = None, title: str = "", named: bool = True) -> tuple[Sheet, str]:
    """(sheet, range): the first row of the range holds the column names, unless `named` is False. `title` is the sheet's own.

    Raises FileFault: range, empty, and what validate_headers raises.
    """
    beginning = list(islice(grid.rows(), _LOOKED_THROUGH))
    corners = _said(range_, grid, beginning) if range_ else _found(grid, beginning)
    names = next(islice(grid.rows(), corners.top, None), [])[corners.left : corners.right + 1]
    if not any(name.strip() for name in names):
        raise FileFault("empty", how="sheet", sheet=title)
    headers = validate_headers(names) if named else nameless(len(names))
    first = corners.top + (1 if named else 0)
    width = len(headers)

    def cut() -> Iterator[list[str]]:
        for row in islice(grid.rows(), first, corners.bottom + 1):
            cells = row[corners.left : corners.right + 1]
            cells += [""] * (width - len(cells))
            # Cells beyond the named columns are a fault of the row, unless there is nothing in them.
            yield cells if any(cells[width:]) else cells[:width]

    def rows() -> Iterator[tuple[int, list[str]]]:
        return number_rows(cut(), first=first + 1)

    last = corners.left + width - 1
    return (
        Sheet(headers=headers, rows=rows),
        f"{_letters(corners.left)}{corners.top + 1}:{_letters(last)}{corners.bottom + 1}",
    )


def _found(grid: GridRows, beginning: Sequence[Sequence[str]]) -> _Corners:
    """All that is filled, below lines that are no part of the table: they have few cells, and the table has several.

    The names of the columns are the first row that is about as full as the fullest of those at the beginning.
    """
    filled = [[place for place, cell in enumerate(row) if cell.strip()] for row in beginning]
    fullest = max(map(len, filled), default=0)
    enough = fullest if fullest <= 2 else max(2, (fullest + 1) // 2)
    top = next((place for place, row in enumerate(filled) if row and len(row) >= enough), 0)
    left = filled[top][0] if filled and filled[top] else 0
    right = max((row[-1] for row in filled[top:] if row), default=left)
    if right - left >= MOST_COLUMNS and filled[top]:
        right = filled[top][-1]
    return _Corners(top=top, left=left, bottom=max(top, grid.height - 1), right=right)


def _said(range_: str, grid: GridRows, beginning: Sequence[Sequence[str]]) -> _Corners:
    one, _, other = range_.upper().replace("$", "").replace(" ", "").partition(":")
    first, second = _CORNER.fullmatch(one), _CORNER.fullmatch(other)
    if not range_.strip() or first is None or second is None or not (one or other):
        raise FileFault("range", how="text", range=range_)
    widest = max(map(len, beginning), default=1) - 1
    columns = sorted(
        _place(letters) if letters else default for letters, default in ((first[1], 0), (second[1], max(widest, 0)))
    )
    rows = sorted(
        int(number) - 1 if number else default for number, default in ((first[2], 0), (second[2], grid.height - 1))
    )
    if rows[0] < 0 or rows[0] >= min(grid.height, MOST_ROWS) or columns[1] - columns[0] > 16_384:
        raise FileFault("range", how="outside", range=range_, rows=grid.height)
    return _Corners(top=rows[0], left=columns[0], bottom=min(rows[1], grid.height - 1), right=columns[1])


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
