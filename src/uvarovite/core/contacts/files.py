"""Any file that people are brought in from: told apart by its first bytes, read by its own reader."""

from dataclasses import asdict
from typing import Any

from uvarovite.core.contacts.delimited import read_delimited
from uvarovite.core.contacts.sheets import Bytes, FileFault, Sheet
from uvarovite.core.contacts.vcards import looks_like_vcard, read_vcards
from uvarovite.core.contacts.workbooks import LARGEST_PACKED_BYTES, read_workbook


def _beginning(data: Bytes) -> bytes:
    """The first bytes of a file, enough to tell its kind."""
    first = b""
    for piece in data():
        first += piece
        if len(first) >= 64:
            break
    return first


_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"


def read_file(data: Bytes, form: dict[str, Any]) -> tuple[Sheet, dict[str, Any]]:
    """(sheet, form) of a file. `form` says how to read it; what is not said is found out and stands in the form given.

    Keys: kind (delimited, workbook, vcard); encoding, delimiter, quote, guessed; sheet, sheets, range.
    Raises FileFault with what to do about it.
    """
    first = _beginning(data)
    if not first:
        raise FileFault("empty", "The file is empty. Save it again from where it comes and bring it in then.")
    if first.startswith((_ZIP, _OLE)):
        whole = bytearray()
        for piece in data():
            whole += piece
            if len(whole) > LARGEST_PACKED_BYTES:
                break
        sheet, workbook = read_workbook(bytes(whole), sheet=form.get("sheet"), range_=form.get("range"))
        return sheet, {"kind": "workbook", **asdict(workbook), "sheets": list(workbook.sheets)}
    if looks_like_vcard(first):
        sheet, encoding = read_vcards(data, encoding=form.get("encoding"))
        return sheet, {"kind": "vcard", "encoding": encoding}
    sheet, dialect = read_delimited(
        data, encoding=form.get("encoding"), delimiter=form.get("delimiter"), quote=form.get("quote")
    )
    return sheet, {"kind": "delimited", **asdict(dialect)}
