"""Contacts as a table that leaves the application: CSV or XLSX, with cells that no spreadsheet takes for a formula.

What begins with = + - @ would be run by a spreadsheet that opens the file; such a text gets an apostrophe before it, as
spreadsheets themselves write it. Numbers and amounts are numbers there and need no guard.
"""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence

import xlsxwriter

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
# What one sheet of a workbook can hold (ECMA-376); CSV has no such bound.
MOST_SHEET_ROWS = 1_048_575


def harmless(text: str) -> str:
    """A text that is a text in every spreadsheet."""
    return f"'{text}" if text.startswith(_FORMULA) else text


def unescaped(text: str) -> str:
    """A text as it was before it was made harmless."""
    return text[1:] if text.startswith("'") and text[1:].startswith(_FORMULA) else text


def csv_lines(headers: Sequence[str], rows: Iterable[Sequence[str]], *, delimiter: str = ",") -> Iterator[str]:
    """A CSV file (RFC 4180) in pieces, with a byte order mark, so that spreadsheets read it as UTF-8."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=delimiter)
    writer.writerow([harmless(header) for header in headers])
    yield "\ufeff"
    for place, row in enumerate(rows, start=1):
        writer.writerow([harmless(cell) for cell in row])
        if place % 500 == 0:
            yield out.getvalue()
            out.seek(0)
            out.truncate()
    yield out.getvalue()


def workbook_bytes(title: str, headers: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """An XLSX workbook with one sheet. Raises ValueError beyond MOST_SHEET_ROWS."""
    out = io.BytesIO()
    options = {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
    with xlsxwriter.Workbook(out, options) as book:
        sheet = book.add_worksheet("".join(sign for sign in title if sign not in r"[]:*?/\'")[:31] or "Contacts")
        bold = book.add_format({"bold": True})
        for place, header in enumerate(headers):
            sheet.write_string(0, place, header, bold)
            sheet.set_column(place, place, max(12, min(40, len(header) + 4)))
        sheet.freeze_panes(1, 0)
        for line, row in enumerate(rows, start=1):
            if line > MOST_SHEET_ROWS:
                raise ValueError("too many rows for one sheet")
            for place, cell in enumerate(row):
                # A string cell is never run, whatever it begins with.
                sheet.write_string(line, place, cell)
    return out.getvalue()
