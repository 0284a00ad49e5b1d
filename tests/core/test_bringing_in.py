"""Files to judged rows: hostile and broken files are refused whole with a reason, broken rows one by one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.fields import FIELDS
from uvarovite.core.contacts.judging import RefusedRow, TakenRow, judge_rows
from uvarovite.core.contacts.matching import match_columns
from uvarovite.core.contacts.sheets import FileFault, read_sheet

HEADER = "E-mail,First name,Surname,Town\n"

WHOLE_FILE_REFUSED = [
    (b"", "empty"),
    (b"\n \n\t\n", "empty"),
    (b"PK\x03\x04 and more", "spreadsheet"),
    (b"E-mail,Town\na@b.example,Sk\0arn\n", "binary"),
    (b"ada@slatepost.example,Ada,Gray,Skarn\ngus@slatepost.example,Gus,Gray,Skarn\n", "no_header"),
    (b"E-mail,Town,town\na@b.example,x,y\n", "twice"),
    (",".join(f"c{number}" for number in range(300)).encode() + b"\n", "columns"),
]


@pytest.mark.parametrize(("data", "code"), WHOLE_FILE_REFUSED)
def test_a_file_that_cannot_be_used_is_refused_whole(data: bytes, code: str) -> None:
    with pytest.raises(FileFault) as fault:
        read_sheet(data)
    assert fault.value.code == code
    assert len(fault.value.message) > 20


def judge(text: str, encoding: str = "utf-8") -> list[TakenRow | RefusedRow]:
    sheet = read_sheet(text.encode(encoding))
    return list(judge_rows(sheet, match_columns(sheet.headers, FIELDS), FIELDS))


def test_a_file_in_another_encoding_is_read_and_said_to_be_guessed() -> None:
    sheet = read_sheet((HEADER + "a@b.example,Zoë,Müller,Skarn\n").encode("windows-1252"))
    assert (sheet.encoding, sheet.guessed_encoding) == ("windows-1252", True)
    assert next(sheet.rows())[1][1] == "Zoë"
    assert not read_sheet(("\ufeff" + HEADER).encode("utf-8")).guessed_encoding
    assert read_sheet((HEADER + "a@b.example,Zoë,M,S\n").encode("utf-16")).encoding == "utf-16"


def test_an_encoding_that_does_not_fit_says_so() -> None:
    with pytest.raises(FileFault, match="not written in utf-8"):
        read_sheet((HEADER + "a@b.example,Zoë,M,S\n").encode("windows-1252"), encoding="utf-8")


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_the_delimiter_is_found(delimiter: str) -> None:
    text = delimiter.join(["E-mail", "First name"]) + "\n" + delimiter.join(["a@b.example", "Ada"]) + "\n"
    sheet = read_sheet(text.encode())
    assert sheet.delimiter == delimiter
    assert list(sheet.rows()) == [(1, ["a@b.example", "Ada"])]


def test_a_quote_that_is_never_closed_breaks_off_with_its_line() -> None:
    with pytest.raises(FileFault, match="quote is not closed"):
        judge(HEADER + 'a@b.example,"Ada,Gray,Skarn\n' + "x@y.example,X,Y,Z\n" * 3)


def test_each_broken_row_is_refused_with_its_number_and_reason() -> None:
    rows = [f"p{number}@slatepost.example,P,Q,Skarn" for number in range(1, 21)]
    rows[16] = "p17@slatepost.example"
    rows[3] = "p4@slatepost.example; p4b@slatepost.example,P,Q,Skarn"
    rows[5] = "not an address,P,Q,Skarn"
    rows[7] = ",P,Q,Skarn"
    rows[9] = "P1@SLATEPOST.example,P,Q,Skarn"
    rows[11] += ",too,much"
    judged = judge(HEADER + "\n".join(rows) + "\n")
    refused = {row.row: row.code for row in judged if isinstance(row, RefusedRow)}
    assert refused == {
        4: "address_several",
        6: "address_malformed",
        8: "no_address",
        10: "repeated",
        12: "too_many_columns",
        17: "too_few_columns",
    }
    told = next(row for row in judged if isinstance(row, RefusedRow) and row.row == 17)
    assert told.message == "3 columns are missing: 1 of 4 are there."
    assert len(judged) == 20


def test_columns_find_their_fields_by_name_label_and_habit() -> None:
    headers = ["EMAIL", "Vorname", "Last name", "renews_on", "Renews on", "Shoe size"]
    assert match_columns(headers, FIELDS) == ["address", "first_name", "last_name", "renews_on", None, None]


def test_a_file_without_a_column_that_tells_people_apart_is_refused() -> None:
    with pytest.raises(FileFault, match="nobody can be told apart"):
        judge("First name,Town\nAda,Skarn\n")


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(data: bytes) -> None:
    try:
        sheet = read_sheet(data)
        columns = ["address", *[None] * (len(sheet.headers) - 1)]
        for row in judge_rows(sheet, columns, FIELDS):
            assert isinstance(row, TakenRow | RefusedRow)
    except FileFault:
        return
