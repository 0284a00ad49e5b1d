"""Cells to typed values: one reading or a reason, and the way through storage and back."""

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given

from tests.support.fields import FIELDS, records
from uvarovite.core.contacts import (
    ReadFault,
    Value,
    field_key_problem,
    read_value,
    record_from_json,
    record_to_json,
)
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
    ("volunteer", "Ja", True),
    ("volunteer", "n", False),
    ("membership", "patron", "Patron"),
    ("membership", "none", None),
]

REFUSED = [
    ("visits_last_year", "many", "not_a_number"),
    ("visits_last_year", "1e9", "not_a_number"),
    ("visits_last_year", "１２", "not_a_number"),
    ("visits_last_year", "1,234", "not_a_number"),
    ("pledge", "$30", "other_currency"),
    ("pledge", "thirty", "not_money"),
    ("renews_on", "03/04/2026", "not_a_date"),
    ("renews_on", "31.02.2026", "no_such_date"),
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


@given(records)
def test_a_record_comes_back_from_storage_as_it_went(record: dict[str, Value]) -> None:
    back = record_from_json(record_to_json(record), FIELDS)
    assert {key: value for key, value in back.items() if value is not None} == {
        key: value for key, value in record.items() if value is not None
    }


@pytest.mark.parametrize("key", ["Town", "1st", "is", "to wn", "a;drop", "", "x" * 64])
def test_what_cannot_name_a_field_is_told(key: str) -> None:
    assert field_key_problem(key)
