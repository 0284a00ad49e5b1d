"""Any file that people are brought in from: told apart by its first bytes, read by its own reader."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

from uvarovite.core.contacts.delimited import read_delimited
from uvarovite.core.contacts.sheets import Bytes, FileFault, Sheet
from uvarovite.core.contacts.vcards import looks_like_vcard, read_vcards
from uvarovite.core.contacts.workbook_tables import GridRows, find_table

# More is read of no workbook; one of so many bytes is refused by its reader.
_ENOUGH_BYTES = 65 * 1024 * 1024


@dataclass(frozen=True, slots=True, kw_only=True)
class Converted:
    """A sheet of a workbook that was read elsewhere: the chosen one among all of them, and its rows."""

    sheet: str
    sheets: tuple[str, ...]
    grid: GridRows


# (bytes, sheet or None for the first that has cells) to its rows. Raises FileFault.
WorkbookReader = Callable[[bytes, "str | None"], Converted]


def _beginning(data: Bytes) -> bytes:
    """The first bytes of a file, enough to tell its kind."""
    first = b""
    for piece in data():
        first += piece
        if len(first) >= 64:
            break
    return first


_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"


def read_file(data: Bytes, form: dict[str, Any], *, workbooks: WorkbookReader) -> tuple[Sheet, dict[str, Any]]:
    """(sheet, form) of a file. `form` says how to read it; what is not said is found out and stands in the form given.

    `workbooks` reads workbooks: native code, which has a process of its own.

    Keys: kind (delimited, workbook, vcard); encoding, delimiter, quote, guessed; sheet, sheets, range; named (False: no line names the columns), which is not found out.
    Raises FileFault with what to do about it.
    """
    first = _beginning(data)
    if not first:
        raise FileFault("empty", "The file is empty. Save it again from where it comes and bring it in then.")
    if first.startswith((_ZIP, _OLE)):
        whole = bytearray()
        for piece in data():
            whole += piece
            if len(whole) > _ENOUGH_BYTES:
                break
        book = workbooks(bytes(whole), form.get("sheet"))
        sheet, used = find_table(book.grid, range_=form.get("range"), title=book.sheet, named=form.get("named", True))
        return sheet, {"kind": "workbook", "sheet": book.sheet, "sheets": list(book.sheets), "range": used}
    if looks_like_vcard(first):
        sheet, encoding = read_vcards(data, encoding=form.get("encoding"))
        return sheet, {"kind": "vcard", "encoding": encoding}
    sheet, dialect = read_delimited(
        data,
        encoding=form.get("encoding"),
        delimiter=form.get("delimiter"),
        quote=form.get("quote"),
        named=form.get("named", True),
    )
    return sheet, {"kind": "delimited", **asdict(dialect)}
