"""Columns of a file: which field each goes into, what its cells decide, and what has to be asked."""

import pytest

from tests.support.fields import FIELDS
from uvarovite.core.contacts import DateOrder, Field, FieldType, Reading
from uvarovite.core.contacts.amounts import NumberCell
from uvarovite.core.contacts.evidence import Doubt, guess_reading
from uvarovite.core.contacts.matching import guess_type, match_columns
from uvarovite.core.contacts.validating import Column, ColumnUse

SAMPLES = [
    (["31/12/2026", "01/02/2026"], FieldType.DATE, DateOrder.DAY_FIRST, set()),
    (["12/31/2026", "01/02/2026"], FieldType.DATE, DateOrder.MONTH_FIRST, set()),
    (["01/02/2026", "03/04/2026"], FieldType.DATE, None, {Doubt.DATE_ORDER}),
    (["2026-05-31", "31.5.2026"], FieldType.DATE, None, set()),
    (["2026-05-31 14:30", "2026-06-01T08:00Z"], FieldType.DATE_TIME, None, set()),
    (["12", "1,234.50"], FieldType.NUMBER, False, set()),
    (["12,5", "1.234,50"], FieldType.NUMBER, True, set()),
    (["1,234", "2,345"], FieldType.NUMBER, None, {Doubt.DECIMAL}),
    (["1.234", "2.345"], FieldType.NUMBER, None, {Doubt.DECIMAL}),
    (["1,234", "12.5"], FieldType.NUMBER, False, set()),
    (["1,234", "12.5", "3,75"], FieldType.NUMBER, None, {Doubt.DECIMAL}),
    (["12.5", "3,75"], FieldType.NUMBER, None, set()),
    (["0.125", "12"], FieldType.NUMBER, False, set()),
    ([NumberCell("1.234"), NumberCell("12")], FieldType.NUMBER, None, set()),
    (["14 June 2026", "1. Mai 2026", "3 kwietnia 2026"], FieldType.DATE, None, set()),
    (["31/12/26", "01/02/26"], FieldType.DATE, DateOrder.DAY_FIRST, {Doubt.CENTURY}),
    (["31/12/2026", "12/31/2026"], FieldType.TEXT, None, set()),
    (["€12.50", "€3.00"], FieldType.MONEY, False, set()),
    (["12,50 zł", "3,00 zł"], FieldType.MONEY, True, set()),
    (["ja", "nein", "ja"], FieldType.YES_NO, None, set()),
    (["oui", "non"], FieldType.YES_NO, None, set()),
    (["tak", "nie"], FieldType.YES_NO, None, set()),
    (["01234", "04567"], FieldType.TEXT, None, set()),
    (["Friend", "Patron"] * 4, FieldType.CHOICE, None, set()),
    (["Ada", "Bo", "Cy"], FieldType.TEXT, None, set()),
    ([], FieldType.TEXT, None, set()),
]


@pytest.mark.parametrize(("cells", "type_", "how", "doubts"), SAMPLES)
def test_a_columns_type_and_reading_are_told_from_its_cells(
    cells: list[str], type_: FieldType, how: DateOrder | bool | None, doubts: set[Doubt]
) -> None:
    assert guess_type(cells) is type_
    reading, asked = guess_reading(cells, type_)
    assert asked == doubts
    assert (reading.date_order if isinstance(how, DateOrder) else reading.decimal_comma) == how


def test_days_that_contradict_each_other_are_asked_about() -> None:
    reading, doubts = guess_reading(["31/12/2026", "12/31/2026", "01/02/2026"], FieldType.DATE)
    assert (reading.date_order, doubts) == (None, {Doubt.DATE_ORDER})
    assert guess_reading(["46174", "46175"], FieldType.DATE) == (Reading(date_order=DateOrder.SERIAL), set())


def test_columns_find_their_fields_by_name_content_and_habit() -> None:
    headers = ["Wohin", "Vorname", "Last name", "renews_on", "Renews on", "Shoe size", "Tags", "Pledge"]
    cells = [["a@b.example", "c@d.example"], ["Ada"], ["Gray"], ["2026-05-31"], [], ["41", "38"], ["x"], ["none"] * 9]
    matches = match_columns(headers, cells, FIELDS)
    assert [(one.column.use.value, one.column.field, one.basis) for one in matches] == [
        ("field", "address", "content"), ("field", "first_name", "name"), ("field", "last_name", "name"),
        ("field", "renews_on", "name"), ("leave_out", None, "nothing"), ("leave_out", None, "nothing"),
        ("tags", None, "name"), ("leave_out", None, "nothing"),
    ]  # fmt: skip
    proposed = matches[5].proposal
    assert proposed == Field(key="shoe_size", label="Shoe size", type=FieldType.NUMBER)
    assert matches[1].confidence == 1.0 > matches[0].confidence


def test_columns_are_known_by_their_values_where_their_names_say_nothing() -> None:
    headers = ["mail", "Level", "What they want", "Colour"]
    cells = [
        ["a@b.example"] * 4,
        ["Patron", "none", "fellow", "Friend"],
        ["Walks; News", "News"] * 2,
        ["red", "blue"] * 2,
    ]
    topics = {"walks": "field_walks", "news": "museum_news"}
    matches = match_columns(headers, cells, FIELDS, topics=topics)
    assert [(one.column.use.value, one.column.field, one.basis) for one in matches] == [
        ("field", "address", "name"), ("field", "membership", "content"), ("topics", None, "content"),
        ("leave_out", None, "nothing"),
    ]  # fmt: skip


def test_a_column_called_id_is_never_taken_for_the_contact_number() -> None:
    for header in ("id", "ID", "No.", "Nr", "number", "#"):
        match = match_columns([header, "E-mail"], [["1", "2"], ["a@b.example"]], FIELDS)[0]
        assert match.column.use is ColumnUse.LEAVE_OUT
        assert match.doubts == ({Doubt.CONTACT_NUMBER} if header != "#" else set())
    named = match_columns(["Member no"], [["1"]], FIELDS)[0]
    assert (named.column.field, named.doubts) == ("contact_no", set())


def test_a_column_called_email_is_one_however_broken_its_addresses_are() -> None:
    match = match_columns(["E-mail"], [["ada at home", "n/a", "none", "?", "--", "x"]], FIELDS)[0]
    assert (match.column.field, match.confidence) == ("address", 0.5)


def test_what_was_chosen_for_the_same_columns_is_chosen_again() -> None:
    town = Column(use=ColumnUse.FIELD, field="town")
    # One that was not there the last time is matched as ever.
    matches = match_columns(["Wohnort", "E-mail"], [["Skarn"], ["a@b.example"]], FIELDS, memory=[town])
    assert [(one.column.field, one.basis) for one in matches] == [("town", "memory"), ("address", "name")]
