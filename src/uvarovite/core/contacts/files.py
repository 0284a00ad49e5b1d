"""Any file that people are brought in from: told apart by its first bytes, read by its own reader."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Literal

from uvarovite.core.contacts.delimited import read_delimited
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.sheets import Bytes, Sheet
from uvarovite.core.contacts.vcards import looks_like_vcard, read_vcards
from uvarovite.core.contacts.workbook_tables import GridRows, find_table
from uvarovite.core.values import StoredForm, form_of

# More is read of no workbook; one of so many bytes is refused by its reader.
_ENOUGH_BYTES = 65 * 1024 * 1024


@dataclass(frozen=True, slots=True, kw_only=True)
class FileForm:
    """How a file is read; what does not apply to its kind is None. `guessed`: its encoding is a guess.

    With `named` False no line names the columns, which is not found out but said.
    """

    kind: Literal["delimited", "workbook", "vcard"] = "delimited"
    encoding: str | None = None
    guessed: bool = False
    delimiter: str | None = None
    quote: str | None = None
    sheet: str | None = None
    sheets: list[str] | None = None
    range: str | None = None
    named: bool = True


FILE_FORM: StoredForm[FileForm] = form_of(FileForm, sparse=True)


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


def read_file(data: Bytes, form: FileForm, *, workbooks: WorkbookReader) -> tuple[Sheet, FileForm]:
    """(sheet, form) of a file. `form` says how to read it; what is not said is found out and stands in the form given.

    `workbooks` reads workbooks: native code, which has a process of its own. Raises FileFault with what to do about it.
    """
    first = _beginning(data)
    if not first:
        raise FileFault("empty")
    if first.startswith((_ZIP, _OLE)):
        whole = bytearray()
        for piece in data():
            whole += piece
            if len(whole) > _ENOUGH_BYTES:
                break
        book = workbooks(bytes(whole), form.sheet)
        sheet, used = find_table(book.grid, range_=form.range, title=book.sheet, named=form.named)
        return sheet, FileForm(
            kind="workbook", sheet=book.sheet, sheets=list(book.sheets), range=used, named=form.named
        )
    if looks_like_vcard(first):
        sheet, encoding = read_vcards(data, encoding=form.encoding)
        return sheet, FileForm(kind="vcard", encoding=encoding)
    sheet, dialect = read_delimited(
        data,
        encoding=form.encoding,
        delimiter=form.delimiter,
        quote=form.quote,
        named=form.named,
    )
    return sheet, FileForm(kind="delimited", named=form.named, **asdict(dialect))
