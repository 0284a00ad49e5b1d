"""Files to validated rows: hostile and broken files are refused whole with a reason, broken rows one by one."""

import io
import zipfile
from collections.abc import Iterator
from datetime import date
from typing import Any

import orjson
import pytest
import xlsxwriter
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import FIELDS
from uvarovite.core.contacts import DateOrder, Field, FieldType, Reading
from uvarovite.core.contacts.amounts import NumberCell
from uvarovite.core.contacts.faults import fault_words
from uvarovite.core.contacts.files import Converted, FileForm, read_file
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.matching import match_columns
from uvarovite.core.contacts.sheets import Bytes, Sheet
from uvarovite.core.contacts.tables_out import csv_lines, workbook_bytes
from uvarovite.core.contacts.validating import Column, ColumnUse, RefusedRow, TakenRow, Validator
from uvarovite.core.contacts.workbook_tables import GridRows
from uvarovite.core.contacts.workbooks import LARGEST_UNPACKED_BYTES, read_grid

HEADER = "E-mail,First name,Surname,Town\n"


def pieces(data: bytes, size: int = 7) -> Bytes:
    """A file in small pieces, so that letters and lines lie across their borders."""

    def read() -> Iterator[bytes]:
        return (data[begin : begin + size] for begin in range(0, len(data), size))

    return read


def here(data: bytes, sheet: str | None) -> Converted:
    """A workbook read in this very process: what the sandbox does in one of its own."""
    grid = read_grid(data, sheet=sheet)
    rows = list(grid.rows)
    return Converted(sheet=grid.sheet, sheets=grid.sheets, grid=GridRows(rows=lambda: iter(rows), height=len(rows)))


def read(data: bytes, form: dict[str, Any] | None = None, size: int = 7) -> tuple[Sheet, FileForm]:
    return read_file(pieces(data, size), FileForm(**(form or {})), workbooks=here)


def sheet_of(data: bytes, **form: str) -> Sheet:
    return read(data, form, 4096)[0]


def zipped(size: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("xl/sheet.xml", "w") as member:
        for _ in range(size // (1 << 20) + 1):
            member.write(b" " * (1 << 20))
    return out.getvalue()


WHOLE_FILE_REFUSED = [
    (b"", "empty"),
    (b"\n \n\t\n", "empty"),
    (b"PK\x03\x04 and more", "workbook"),
    (b"\xd0\xcf\x11\xe0 and more", "workbook"),
    (b"E-mail,Town\na@b.example,Sk\0arn\n", "binary"),
    (b"ada@slatepost.example,Ada,Gray,Skarn\ngus@slatepost.example,Gus,Gray,Skarn\n", "no_header"),
    (b"E-mail,Town,town\na@b.example,x,y\n", "twice"),
    (",".join(f"c{number}" for number in range(10_000)).encode() + b"\n", "columns"),
    (b"x" * 5_000_000, "line"),
    (b"BEGIN:VCARD\nFN:Ada\nEMAIL:a@b.example\n", "card"),
    ("E-mail,Town\na@b.example,x\n".encode("utf-16")[:-1], "encoding"),
]


@pytest.mark.parametrize(("data", "code"), WHOLE_FILE_REFUSED, ids=[row[1] for row in WHOLE_FILE_REFUSED])
def test_a_file_that_cannot_be_used_is_refused_whole(data: bytes, code: str) -> None:
    with pytest.raises(FileFault) as fault:
        list(sheet_of(data).rows())
    assert fault.value.code == code
    assert len(fault.value.message) > 20


def test_an_archive_that_unpacks_to_gigabytes_is_refused_before_it_is_read() -> None:
    bomb = zipped(LARGEST_UNPACKED_BYTES)
    assert len(bomb) < LARGEST_UNPACKED_BYTES / 500
    with pytest.raises(FileFault, match="unpacks to more than"):
        sheet_of(bomb)


@pytest.mark.parametrize(("more", "code"), [(0, "workbook"), (1, "bomb")])
def test_an_archive_may_unpack_to_the_bound_and_no_byte_more(
    monkeypatch: pytest.MonkeyPatch, more: int, code: str
) -> None:
    monkeypatch.setattr("uvarovite.core.contacts.workbooks.LARGEST_UNPACKED_BYTES", (1 << 20) - more)
    with pytest.raises(FileFault) as fault:
        sheet_of(zipped(0))
    assert fault.value.code == code


def test_a_million_empty_rows_are_no_rows() -> None:
    sheet = sheet_of(HEADER.encode() + b"\n" * 500_000 + b",,,\n" * 500_000 + b"a@b.example,A,B,C\n")
    assert [number for number, _ in sheet.rows()] == [1_000_002]


def judge(text: str, **columns: Reading) -> list[TakenRow | RefusedRow]:
    sheet = sheet_of(text.encode())
    matches = match_columns(sheet.headers, [[] for _ in sheet.headers], FIELDS)
    chosen = [
        Column(use=one.column.use, field=one.column.field, reading=columns.get(one.column.field or "", Reading()))
        for one in matches
    ]
    return list(Validator(columns=chosen, fields=FIELDS).rows(sheet))


def test_a_file_in_another_encoding_is_read_and_said_to_be_guessed() -> None:
    data = (HEADER + "a@b.example,Zoë,Müller,Skarn\n").encode("windows-1252")
    sheet, form = read(data, {})
    assert (form.encoding, form.guessed) == ("windows-1252", True)
    assert next(sheet.rows())[1][1] == "Zoë"
    assert not read(("\ufeff" + HEADER).encode("utf-8"), {})[1].guessed
    assert read((HEADER + "a@b.example,Zoë,M,S\n").encode("utf-16"), {})[1].encoding == "utf-16"
    with pytest.raises(FileFault, match="not written in utf-8"):
        read(data, {"encoding": "utf-8"})
    # What fits no usual encoding is guessed all the same: one can look at it and choose.
    polish = (HEADER + "a@b.example,Ź,M,S\n").encode("windows-1250")
    assert read(polish, {})[1].encoding == "windows-1250"
    assert read(polish + b"\x81\n", {})[1].guessed


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|", "~"])
@pytest.mark.parametrize("quote", ['"', "'"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_delimiter_quote_and_line_ends_are_found(delimiter: str, quote: str, end: str) -> None:
    lines = [["E-mail", "Remark"], ["a@b.example", f"one{delimiter} two"], ["c@d.example", "O’Hara, Bo"]]
    text = end.join(delimiter.join(f"{quote}{cell}{quote}" for cell in line) for line in lines) + end
    sheet, form = read(text.encode(), {})
    assert (form.delimiter, form.quote) == (delimiter, quote)
    assert [cells for _, cells in sheet.rows()] == lines[1:]


def workbook(rows: list[list[object]], *, sheet: str = "Members", blank_first: bool = False) -> bytes:
    out = io.BytesIO()
    with xlsxwriter.Workbook(out, {"in_memory": True}) as book:
        if blank_first:
            book.add_worksheet("Cover")
        page = book.add_worksheet(sheet)
        day = book.add_format({"num_format": "yyyy-mm-dd"})
        for line, cells in enumerate(rows):
            for place, cell in enumerate(cells):
                if isinstance(cell, date):
                    page.write_datetime(line, place, cell, day)
                else:
                    page.write(line, place, cell)
    return out.getvalue()


def test_a_workbook_gives_what_a_person_reads_in_its_cells() -> None:
    rows: list[list[object]] = [
        ["E-mail", "Pledge", "Visits", "Renews on", "Volunteer", "Postcode"],
        ["a@b.example", 12.5, 3, date(2026, 5, 31), True, "=1+1"],
    ]
    data = workbook(rows, blank_first=True)
    sheet, form = read(data, {}, 1 << 20)
    assert (form.kind, form.sheet, form.sheets, form.range) == (
        "workbook",
        "Members",
        ["Cover", "Members"],
        "A1:F2",
    )
    # A formula is never run: the value beside it is what counts.
    assert list(sheet.rows()) == [
        (2, ["a@b.example", NumberCell("12.5"), NumberCell("3"), "2026-05-31", "yes", NumberCell("0")])
    ]
    assert read(data, {"range": "A1:B2"}, 1 << 20)[0].headers == ("E-mail", "Pledge")
    for form in ({"sheet": "Nowhere"}, {"range": "A9:B12"}, {"range": "A3:B3"}, {"range": "everything"}):
        with pytest.raises(FileFault):
            read(data, form, 1 << 20)


def test_the_table_of_a_workbook_is_found_under_its_title() -> None:
    data = workbook(
        [["Members of the museum, as of May"], [], ["E-mail", "Town", "Visits"], ["a@b.example", "Skarn", 3]]
    )
    sheet, form = read(data, {}, 1 << 20)
    assert (sheet.headers, form.range) == (("E-mail", "Town", "Visits"), "A3:C4")
    assert [row for row, _ in sheet.rows()] == [4]


RANGES = [
    ("A3:B4", "A3:B4", 1), ("B4:A3", "A3:B4", 1), ("a3:b", "A3:B5", 2), ("A3", "A3:B5", 2), ("3:4", "A3:B4", 1),
    ("$A$3:$B$9999999", "A3:B5", 2),
]  # fmt: skip


@pytest.mark.parametrize(("said", "used", "rows"), RANGES)
def test_a_range_may_be_open_or_reversed(said: str, used: str, rows: int) -> None:
    data = workbook([["x", "y", "z"], [], ["E-mail", "Town"], ["a@b.example", "Skarn"], ["c@d.example", "Marlby"]])
    sheet, form = read(data, {"range": said}, 1 << 20)
    assert (sheet.headers, form.range, len(list(sheet.rows()))) == (("E-mail", "Town"), used, rows)


def test_a_number_in_a_workbook_is_one_in_a_column_of_any_style() -> None:
    data = workbook([["E-mail", "Pledge"], ["a@b.example", 1.234], ["c@d.example", "1.234,50"]])
    reading = Reading(decimal_comma=True)
    columns = [
        Column(use=ColumnUse.FIELD, field="address"), Column(use=ColumnUse.FIELD, field="pledge", reading=reading)
    ]  # fmt: skip
    rows = Validator(columns=columns, fields=FIELDS).rows(read(data, {}, 1 << 20)[0])
    amounts = [orjson.loads(row.values)["pledge"]["amount"] for row in rows if isinstance(row, TakenRow)]
    assert amounts == ["1.234", "1234.50"]


CARDS = """BEGIN:VCARD
VERSION:4.0
N:Thwaite-Gray;Ada;;;
EMAIL;TYPE=work:second@b.example
EMAIL;PREF=1:ada@b.example
ORG:Skarn\\, Sons;Quarry
BDAY:19800531
CATEGORIES:Walker,Caver
item1.ADR;TYPE=home:;;1 Slate Row;Skarn;;SK1 2AB;Skarnland
END:VCARD
BEGIN:VCARD
VERSION:2.1
N;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:=C3=96ttinger;J=C3=BC=
rgen
EMAIL;INTERNET:juergen@b.example
PHOTO;ENCODING=BASE64;TYPE=JPEG:
 /9j/4AAQSkZJRgABAQ
END:VCARD
begin:vcard
version:3.0
fn:Zoë Kalli
email:zo
 e@b.example
end:vcard
"""


def card(lines: int, *last: str) -> bytes:
    return "\n".join(["BEGIN:VCARD", "FN:Ada", *["NOTE:x"] * (lines - 1), *last, "END:VCARD", ""]).encode()


def addresses_on(data: bytes) -> list[object]:
    sheet, _ = read(data)
    place = sheet.headers.index("E-mail address")
    return [cells[place] for _, cells in sheet.rows()]


def test_what_ends_within_a_card_does_not_end_it() -> None:
    assert addresses_on(card(1, "BEGIN:VNOTE", "END:VNOTE", "EMAIL:ada@b.example")) == ["ada@b.example"]


def test_of_a_card_of_many_lines_the_first_500_count() -> None:
    assert addresses_on(card(499, "EMAIL:ada@b.example")) == ["ada@b.example"]
    assert addresses_on(card(500, "EMAIL:ada@b.example")) == [""]


def test_cards_of_every_version_become_rows() -> None:
    sheet, form = read(CARDS.encode(), {})
    assert form.kind == "vcard"
    rows = [dict(zip(sheet.headers, cells, strict=True)) for _, cells in sheet.rows()]
    assert [(row["First name"], row["Last name"], row["E-mail address"]) for row in rows] == [
        ("Ada", "Thwaite-Gray", "ada@b.example"),
        ("Jürgen", "Öttinger", "juergen@b.example"),
        ("Zoë", "Kalli", "zoe@b.example"),
    ]
    assert [rows[0][key] for key in ("Organisation", "Birthday", "Tags", "Town", "Postcode")] == [
        "Skarn, Sons", "1980-05-31", "Walker, Caver", "Skarn", "SK1 2AB",
    ]  # fmt: skip


def test_a_quote_that_is_never_closed_breaks_off_with_its_line() -> None:
    with pytest.raises(FileFault, match="quote is not closed"):
        judge(HEADER + 'a@b.example,"Ada,Gray,Skarn\n' + "x@y.example,X,Y,Z\n" * 3)


def test_each_broken_row_is_refused_with_its_number_and_reason() -> None:
    rows = [f"p{number}@slatepost.example,P,Q,Skarn" for number in range(1, 21)]
    rows[16] = "p17@slatepost.example"
    rows[3] = "p4@slatepost.example; p4b@slatepost.example,P,Q,Skarn"
    rows[5] = "not an address,P,Q,Skarn"
    rows[7] = ",P,Q,Skarn"
    rows[9] = "p10@slatepost.example,P,Q," + "x" * 2_001
    rows[11] += ",too,much"
    rows[13] += ",,"
    judged = judge(HEADER + "\n".join(rows) + "\n")
    refused = {row.row: row.code for row in judged if isinstance(row, RefusedRow)}
    assert refused == {
        5: "address_several", 7: "address_malformed", 9: "no_address", 11: "too_long", 13: "too_many_columns",
        18: "too_few_columns",
    }  # fmt: skip
    told = next(row for row in judged if isinstance(row, RefusedRow) and row.row == 18)
    assert told.record == 17
    assert fault_words(told.faults) == "3 columns are missing: 1 of 4 are there."
    assert len(judged) == 20


def test_all_that_is_wrong_with_a_row_is_said_at_once() -> None:
    row = judge(
        'E-mail,Renews on,Pledge,Volunteer\nada at home,31.2.2026,"about 30",perhaps\n',
    )[0]
    assert isinstance(row, RefusedRow)
    assert row.code == "address_malformed"
    for told in ("there is no day 31.2.2026", "“about 30” is not an amount", "“perhaps” is neither yes nor no"):
        assert told in fault_words(row.faults)


def test_empty_lines_count_as_a_spreadsheet_counts_them() -> None:
    rows = judge(HEADER + "\na@b.example,A,B,C\n\n\n,A,B,C\n")
    assert [(row.row, row.record) for row in rows] == [(3, 1), (6, 2)]


def test_a_cell_that_reads_as_blank_takes_nothing_of_its_row_along() -> None:
    sheet = sheet_of(b"E-mail,Audiences,Membership,Tags\na@b.example,Walkers,none,x\n")
    columns = [
        Column(use=ColumnUse.FIELD, field="address"), Column(use=ColumnUse.AUDIENCES),
        Column(use=ColumnUse.FIELD, field="membership"), Column(use=ColumnUse.TAGS),
    ]  # fmt: skip
    row = next(Validator(columns=columns, fields=FIELDS, audiences={"walkers": 7}).rows(sheet))
    assert isinstance(row, TakenRow)
    assert (row.audiences, row.tags, row.values) == ([7], ["x"], "{}")


@pytest.mark.parametrize(
    ("count", "longest", "taken"), [(20, 60, True), (21, 60, False), (20, 61, False), (1, 1, True)]
)
def test_a_cell_has_so_many_tags_and_no_more(count: int, longest: int, taken: bool) -> None:
    names = ["x" * longest, *(f"t{number}" for number in range(count - 1))]
    row = judge(f"E-mail,Tags\na@b.example,{'; '.join(names)}\n")[0]
    assert isinstance(row, TakenRow) is taken
    assert row.tags == names if isinstance(row, TakenRow) else row.code == "tags"


def test_a_sheet_is_called_as_spreadsheets_allow() -> None:
    def name_of(title: str) -> str:
        return read_grid(workbook_bytes(title, ["a"], [["1"]]), sheet=None).sheet

    assert name_of("Walks: spring [2026]/a") == "Walks spring 2026a"
    assert name_of("?*:") == "Contacts"
    assert name_of("x" * 40) == "x" * 31


def test_what_our_own_files_made_harmless_is_read_back() -> None:
    texts = ["=1+1", "+44 1", "-5", "@home", "'quoted", "plain"]
    lines = "".join(csv_lines(["E-mail", "Town"], [[f"a{place}@b.example", text] for place, text in enumerate(texts)]))
    columns = [Column(use=ColumnUse.FIELD, field="address"), Column(use=ColumnUse.FIELD, field="town")]
    rows = Validator(columns=columns, fields=FIELDS).rows(sheet_of(lines.encode()))
    towns = [orjson.loads(row.values)["town"] for row in rows if isinstance(row, TakenRow)]
    assert towns == texts


def test_who_asked_to_be_forgotten_does_not_come_back_by_a_file() -> None:
    columns = [Column(use=ColumnUse.FIELD, field="address")]
    known = Validator(columns=columns, fields=FIELDS, is_erased=lambda address: address == "ada@b.example")
    judged = list(known.rows(sheet_of(b"E-mail\nADA@B.example\nbo@b.example\n")))
    assert [getattr(row, "code", "taken") for row in judged] == ["erased", "taken"]


def test_a_column_says_how_its_dates_and_numbers_are_read() -> None:
    text = 'E-mail,Renews on,Pledge\na@b.example,03/04/2026,"1.234,5"\n'
    assert [row.code for row in judge(text) if isinstance(row, RefusedRow)] == ["two_readings"]
    reading = {"renews_on": Reading(date_order=DateOrder.MONTH_FIRST), "pledge": Reading(decimal_comma=True)}
    taken = judge(text, **reading)[0]
    assert isinstance(taken, TakenRow)
    assert taken.values == '{"renews_on":"2026-03-04","pledge":{"amount":"1234.5","currency":"EUR"}}'


def test_a_file_without_a_column_that_tells_people_apart_is_refused() -> None:
    with pytest.raises(FileFault, match="nobody can be told apart"):
        judge("First name,Town\nAda,Skarn\n")


@given(st.binary(max_size=300), st.sampled_from([b"", b"BEGIN:VCARD\n", b"PK\x03\x04", b"E-mail;Town\n"]))
@example(b"\xff\xfe\x00\xd8", b"")
def test_any_bytes_are_read_or_refused(data: bytes, start: bytes) -> None:
    try:
        sheet, _ = read(start + data, {})
        columns = [Column(use=ColumnUse.FIELD, field="address"), *[Column()] * (len(sheet.headers) - 1)]
        for row in Validator(columns=columns, fields=FIELDS).rows(sheet):
            assert isinstance(row, TakenRow | RefusedRow)
    except FileFault:
        return


def test_an_instant_is_kept_in_utc() -> None:
    field = Field(key="seen", label="Seen", type=FieldType.DATE_TIME)
    judged = Validator(
        columns=[Column(use=ColumnUse.FIELD, field="address"), Column(use=ColumnUse.FIELD, field="seen")],
        fields={**FIELDS, "seen": field},
    ).rows(sheet_of(b"E-mail,Seen\na@b.example,2026-05-31T14:30+02:00\n"))
    taken = next(iter(judged))
    assert isinstance(taken, TakenRow)
    assert taken.values == '{"seen":"2026-05-31T12:30:00Z"}'
