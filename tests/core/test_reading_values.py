"""Cells to typed values: one reading or a reason, and the way through storage and back."""

from datetime import date, datetime
from decimal import Decimal

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import FIELDS, records
from uvarovite.core.contacts import (
    DateOrder,
    ReadFault,
    Reading,
    RecordReader,
    Value,
    field_key_problem,
    read_value,
    record_to_json,
    value_to_text,
)
from uvarovite.core.contacts.live_sources import cell_of
from uvarovite.core.values import Money


def eur(amount: str) -> Money:
    return Money(amount=Decimal(amount), currency="EUR")


READ = [
    ("town", "  Skarn ", "Skarn"),
    ("town", "Upper   Gossan", "Upper Gossan"),
    ("town", "e\u0301", "é"),
    ("town", "   ", None),
    ("visits_last_year", "12", Decimal(12)),
    ("visits_last_year", "-3,5", Decimal("-3.5")),
    ("visits_last_year", "1,234.5", Decimal("1234.5")),
    ("visits_last_year", "1.234,5", Decimal("1234.5")),
    ("visits_last_year", "1 234", Decimal(1234)),
    ("pledge", "30", eur("30")),
    ("pledge", "€ 1,250.00", eur("1250.00")),
    ("pledge", "1.250,00 €", eur("1250.00")),
    ("pledge", "EUR 30", eur("30")),
    ("renews_on", "2026-05-31", date(2026, 5, 31)),
    ("renews_on", "31.5.2026", date(2026, 5, 31)),
    ("renews_on", "14 June 2026", date(2026, 6, 14)),
    ("renews_on", "June 14, 2026", date(2026, 6, 14)),
    ("renews_on", "14th of June 2026", date(2026, 6, 14)),
    ("renews_on", "1er août 2026", date(2026, 8, 1)),
    ("renews_on", "1. Mai 2026", date(2026, 5, 1)),
    ("renews_on", "22 października 2026", date(2026, 10, 22)),
    ("renews_on", "14-Jun-2026", date(2026, 6, 14)),
    ("renews_on", "2026/05/31", date(2026, 5, 31)),
    ("renews_on", "2026-05-31 00:00:00", date(2026, 5, 31)),
    ("volunteer", "Ja", True),
    ("volunteer", "n", False),
    ("membership", "patron", "Patron"),
    ("membership", "none", None),
]

REFUSED = [
    ("visits_last_year", "many", "not_a_number"),
    ("visits_last_year", "1e9", "not_a_number"),
    ("visits_last_year", "１２", "not_a_number"),
    ("visits_last_year", "1,234", "two_readings"),
    ("pledge", "$30", "other_currency"),
    ("pledge", "thirty", "not_money"),
    ("renews_on", "03/04/2026", "two_readings"),
    ("renews_on", "31.02.2026", "no_such_date"),
    ("renews_on", "14 June 26", "no_century"),
    ("renews_on", "14 Junk 2026", "not_a_date"),
    ("renews_on", "46174", "not_a_date"),
    ("visits_last_year", "1.234", "two_readings"),
    ("pledge", "€1,000", "two_readings"),
    ("volunteer", "perhaps", "not_yes_no"),
    ("membership", "Emperor", "no_such_choice"),
    ("town", "Sk\0arn", "control_character"),
    ("town", "x" * 2_001, "too_long"),
]


@pytest.mark.parametrize(("key", "text", "value"), READ)
def test_a_cell_has_one_reading(key: str, text: str, value: Value) -> None:
    assert read_value(text, FIELDS[key]) == value


@pytest.mark.parametrize(("key", "text", "code"), REFUSED)
def test_a_cell_with_no_reading_or_two_is_refused(key: str, text: str, code: str) -> None:
    found = read_value(text, FIELDS[key])
    assert isinstance(found, ReadFault)
    assert found.code == code
    assert FIELDS[key].label in found.message


SAID = [
    ("renews_on", "03/04/2026", Reading(date_order=DateOrder.DAY_FIRST), date(2026, 4, 3)),
    ("renews_on", "03/04/2026", Reading(date_order=DateOrder.MONTH_FIRST), date(2026, 3, 4)),
    ("renews_on", "3-4-26", Reading(date_order=DateOrder.DAY_FIRST, century=2000), date(2026, 4, 3)),
    ("renews_on", "3.4.58", Reading(century=1900), date(1958, 4, 3)),
    ("renews_on", "14 Jun 58", Reading(century=1900), date(1958, 6, 14)),
    ("renews_on", "26-12-31", Reading(date_order=DateOrder.YEAR_FIRST, century=2000), date(2026, 12, 31)),
    ("renews_on", "46174", Reading(date_order=DateOrder.SERIAL), date(2026, 6, 1)),
    ("renews_on", "2026-05-31", Reading(date_order=DateOrder.SERIAL), date(2026, 5, 31)),
    ("visits_last_year", "1,000", Reading(decimal_comma=False), Decimal(1000)),
    ("visits_last_year", "1,000", Reading(decimal_comma=True), Decimal(1)),
    ("visits_last_year", "1.000", Reading(decimal_comma=True), Decimal(1000)),
    ("pledge", "1,250.50", Reading(decimal_comma=True), eur("1250.50")),
]


@pytest.mark.parametrize(("key", "text", "reading", "value"), SAID)
def test_what_is_said_about_a_column_decides_what_its_cells_leave_open(
    key: str, text: str, reading: Reading, value: Value
) -> None:
    assert read_value(text, FIELDS[key], reading) == value


readings = st.builds(
    Reading,
    date_order=st.none() | st.sampled_from(DateOrder),
    century=st.sampled_from([None, 1900, 2000]),
    decimal_comma=st.sampled_from([None, True, False]),
)


@given(records, readings)
@example({"visits_last_year": Decimal("1.234")}, Reading(decimal_comma=True))
def test_whatever_the_application_writes_it_can_read_however_a_column_is_read(
    record: dict[str, Value], reading: Reading
) -> None:
    for key, value in record.items():
        text = value_to_text(value, FIELDS[key])
        # Amounts in another currency are no values of this field.
        assert "USD" in text or read_value(text, FIELDS[key], reading) == value


@given(st.text(alphabet="0123456789./-, JuneMai", max_size=16), readings)
def test_any_text_is_a_day_or_a_fault(text: str, reading: Reading) -> None:
    found = read_value(text, FIELDS["renews_on"], reading)
    assert found is None or isinstance(found, date | ReadFault)


@given(records)
def test_a_record_comes_back_from_storage_as_it_went(record: dict[str, Value]) -> None:
    reader, stored = RecordReader(FIELDS), record_to_json(record)
    filled = {key: value for key, value in record.items() if value is not None}
    back = reader.whole(stored)
    assert back == {**dict.fromkeys(FIELDS), **filled}
    assert reader.filled({**stored, "gone": "a field that is not there any more", "town": stored.get("town")}) == filled


@pytest.mark.parametrize("key", ["Town", "1st", "is", "to wn", "a;drop", "", "x" * 64])
def test_what_cannot_name_a_field_is_told(key: str) -> None:
    assert field_key_problem(key)


@pytest.mark.parametrize(
    ("value", "cell"),
    [
        (None, ""),
        (b"raw", ""),
        ("a\0b", "ab"),
        (True, "yes"),
        (False, "no"),
        (Decimal("1E+3"), "1000"),
        (3.0, "3"),
        (-2.5, "-2.5"),
        (999_999_999_999_999.0, "999999999999999"),
        # From here on a float is no count any more.
        (1e15, "1000000000000000.0"),
        (date(2026, 5, 31), "2026-05-31"),
        (datetime(2026, 5, 31, 14, 30), "2026-05-31 14:30:00"),  # noqa: DTZ001 - as a database gives it
        (["a", 1], '["a",1]'),
        ({"a": Decimal("1.5")}, '{"a":"1.5"}'),
    ],
)
def test_what_another_database_holds_becomes_a_cell(value: object, cell: str) -> None:
    assert cell_of(value) == cell
