"""Workbooks that claim too much end in words, and end nothing else."""

import io
import zipfile
from dataclasses import replace
from datetime import date

import pytest
import xlsxwriter

from uvarovite.core.contacts.amounts import NumberCell
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.workbooks import read_grid
from uvarovite.sandbox import convert_workbook, workbooks


def workbook(*rows: list[object]) -> bytes:
    out = io.BytesIO()
    with xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd"}) as book:
        page = book.add_worksheet("Members")
        for line, row in enumerate(rows):
            page.write_row(line, 0, row)
    return out.getvalue()


def claiming(cells: str) -> bytes:
    """A whole workbook, with other cells in its sheet."""
    made = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(workbook(["E-mail"]))) as old,
        zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for member in old.infolist():
            text = old.read(member)
            if member.filename == "xl/worksheets/sheet1.xml":
                head, _, _ = text.partition(b"<sheetData")
                text = head + f"<sheetData>{cells}</sheetData></worksheet>".encode()
            new.writestr(member, text)
    return made.getvalue()


def open_document(rows: str) -> bytes:
    names = " ".join(
        f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text")
    )
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr(
            "content.xml",
            f'<office:document-content {names}><office:body><office:spreadsheet><table:table table:name="A">{rows}'
            "</table:table></office:spreadsheet></office:body></office:document-content>",
        )
    return made.getvalue()


CELL = '<table:table-cell office:value-type="float" office:value="1"{}><text:p>1</text:p></table:table-cell>'
WIDE = ' table:number-columns-repeated="16384"'
TOO_FAR = {
    "one cell in the last corner": claiming(
        '<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row>'
    ),
    "cells without a place, in rows without a number": claiming("<row>" + "<c><v>1</v></c>" * 200 + "</row>" + "<row/>" * 200_000
        + "<row><c><v>1</v></c></row>"),
    "a row that stands for a million": open_document(
        f'<table:table-row table:number-rows-repeated="1048576">{CELL.format(WIDE)}'
        "</table:table-row>"
    ),
}  # fmt: skip


def test_a_tag_that_is_too_long_to_be_one_hides_nothing() -> None:
    padded = claiming(f'<row r="1"><c {" " * (1 << 21)} r="XFD1048576"><v>1</v></c></row>')
    with pytest.raises(FileFault, match="a tag that never ends"):
        read_grid(padded)


@pytest.mark.parametrize("data", TOO_FAR.values(), ids=TOO_FAR)
def test_a_sheet_that_claims_too_many_cells_is_refused_before_it_is_read(data: bytes) -> None:
    assert len(data) < 12_000
    with pytest.raises(FileFault) as fault:
        read_grid(data)
    assert fault.value.code == "extent"


def test_what_reaches_far_without_being_filled_is_read_as_ever() -> None:
    styled = claiming(
        '<row r="1"><c r="A1" t="inlineStr"><is><t>E-mail</t></is></c><c r="XFD1" s="1"/></row>'
        '<row r="1048576"><c r="XFD1048576" s="1"/></row>'
    )
    assert next(convert_workbook(styled, None).grid.rows()) == ["E-mail"]
    empty = (
        f'<table:table-row>{CELL.format("")}<table:table-cell table:number-columns-repeated="16383"/></table:table-row>'
        '<table:table-row table:number-rows-repeated="1048575"><table:table-cell table:number-columns-repeated="16384"/>'
        "</table:table-row>"
    )
    assert next(convert_workbook(open_document(empty), None).grid.rows()) == [NumberCell("1")]


def test_cells_come_back_as_they_are_typed_at_each_call() -> None:
    data = workbook(
        ["E-mail", "Pledge", "Since"], ["a@b.example", 1.234, date(2026, 5, 31)], ["c@d.example", "1.234", ""]
    )
    read = convert_workbook(data, None)
    assert (read.sheet, read.sheets, read.grid.height) == ("Members", ("Members",), 3)
    expected = [
        ["E-mail", "Pledge", "Since"],
        ["a@b.example", NumberCell("1.234"), "2026-05-31"],
        ["c@d.example", "1.234", ""],
    ]
    first = read.grid.rows()
    assert next(first) == expected[0]
    assert list(read.grid.rows()) == expected
    assert list(first) == expected[1:]


def test_what_needs_more_than_the_limits_ends_the_child_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    data = workbook(*[[f"p{number}@b.example", "x" * 50, *range(20)] for number in range(20_000)])  # needs some 80 MB
    monkeypatch.setattr(workbooks, "LIMITS", replace(workbooks.LIMITS, memory_bytes=60 * 1024**2))
    assert convert_workbook(workbook(["E-mail"]), None).grid.height == 1
    with pytest.raises(FileFault) as fault:
        convert_workbook(data, None)
    assert fault.value.code == "unreadable"
    monkeypatch.undo()
    assert convert_workbook(data, None).grid.height == 20_000


def test_the_child_says_what_is_wrong_with_a_file() -> None:
    with pytest.raises(FileFault, match="There is no sheet “Nowhere”; there are Members"):
        convert_workbook(workbook(["E-mail"]), "Nowhere")
    with pytest.raises(FileFault) as fault:
        convert_workbook(b"PK\x03\x04 and more", None)
    assert fault.value.code == "workbook"
