"""A record: the values of one contact by field key, and its stored form.

Stored as JSON with one rule per type: numbers as decimal text (floats would lose cents), money as amount and
currency, dates as ISO 8601, instants as ISO 8601 in UTC (so that they sort as texts), lists as arrays of objects,
blank values left out. The folded form of every text stands beside it; that of a list is a list of its records' texts.
"""

from collections.abc import Callable, Mapping
from datetime import UTC, date, datetime
from decimal import Decimal
from functools import lru_cache
from typing import Any

from uvarovite.core.contacts.amounts import Style, style_of
from uvarovite.core.contacts.fields import Field, FieldMap, FieldType
from uvarovite.core.contacts.lists import join_items
from uvarovite.core.contacts.values import Item, Value
from uvarovite.core.values import Money, fold

Record = Mapping[str, Value]
Json = str | bool | dict[str, str] | list[dict[str, Any]]
# What texts are compared by: one text, or for a list the texts of each of its records, in the records' places.
Folded = str | list[dict[str, str]]


def _plain(number: Decimal) -> str:
    return format(number, "f")


def _clear(number: Decimal) -> str:
    """A number as text with one reading: three digits behind a point could stand for thousands."""
    text = _plain(number)
    return f"{text}0" if style_of(text) is Style.EITHER else text


def value_to_json(value: Value) -> Json | None:
    """The stored form of one value; None when it is blank."""
    match value:
        case None:
            return None
        case bool() | str():
            return value
        case Decimal():
            return _plain(value)
        case Money():
            return {"amount": _plain(value.amount), "currency": value.currency}
        case datetime():
            return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        case date():
            return value.isoformat()
        case tuple():
            return [
                {key: stored for key, part in item.items() if (stored := value_to_json(part)) is not None}
                for item in value
            ]


def _fits(stored: object, *kinds: type) -> Any:
    if not isinstance(stored, kinds):
        raise TypeError(f"{stored!r:.40} is none of {kinds}")
    return stored


def _money(stored: Any) -> Money:
    return _amount(str(stored["amount"]), str(stored["currency"]))


@lru_cache(maxsize=4_096)
def _amount(amount: str, currency: str) -> Money:
    """The same amounts come back for many people."""
    return Money(amount=Decimal(amount), currency=currency)


_Reader = Callable[[object], Value]


def _text(stored: object) -> str:
    # Most of what people are known by is text.
    if type(stored) is str:
        return stored
    raise TypeError(f"{stored!r:.40} is no text")


_READERS: Mapping[FieldType, _Reader] = {
    FieldType.TEXT: _text,
    FieldType.CHOICE: _text,
    FieldType.NUMBER: lambda stored: Decimal(str(_fits(stored, str, int, float))),
    FieldType.MONEY: lambda stored: _money(_fits(stored, dict)),
    FieldType.DATE: lambda stored: date.fromisoformat(_fits(stored, str)),
    FieldType.DATE_TIME: lambda stored: datetime.fromisoformat(_fits(stored, str)),
    FieldType.YES_NO: lambda stored: _fits(stored, bool),
}


def _reader(field: Field) -> _Reader:
    """What reads a field's stored values that are not blank."""
    if field.type is not FieldType.LIST:
        return _READERS[field.type]
    parts = {part.key: _reader(part) for part in field.parts}

    def item(stored: Mapping[str, object]) -> Item:
        # The parts in their order, whatever the order is in the store.
        read: dict[str, Any] = {}
        for key, reader in parts.items():
            if (value := stored.get(key)) is not None:
                read[key] = reader(value)
        return read

    return lambda stored: tuple([item(one) for one in _fits(stored, list)]) or None


def value_from_json(stored: object, field: Field) -> Value:
    """A typed value from its stored form. Raises TypeError or ValueError when it does not fit the field's type."""
    return None if stored is None else _reader(field)(stored)


def record_to_json(record: Record) -> dict[str, Json]:
    """The stored form; blank values are left out."""
    return {key: stored for key, value in record.items() if (stored := value_to_json(value)) is not None}


class RecordReader:
    """Reads stored records with some fields, which are looked at once. Keys of fields that are gone are passed over.

    Both raise TypeError or ValueError for a value that does not fit its field's type.
    """

    def __init__(self, fields: FieldMap) -> None:
        self._readers = {key: _reader(field) for key, field in fields.items()}

    def whole(self, stored: Mapping[str, object]) -> dict[str, Value]:
        """Every known field with its typed value, None where blank."""
        return {
            key: None if (value := stored.get(key)) is None else reader(value) for key, reader in self._readers.items()
        }

    def filled(self, stored: Mapping[str, object]) -> dict[str, Value]:
        """The same without the blank ones, for a record that is only asked by `get`."""
        readers = self._readers
        return {key: readers[key](value) for key, value in stored.items() if value is not None and key in readers}


def folded_value(value: Value) -> Folded | None:
    """The folded form of a text, or of the texts in each record of a list; None for what holds no text."""
    if isinstance(value, str):
        return fold(value)
    if isinstance(value, tuple):
        items = [{key: fold(part) for key, part in item.items() if isinstance(part, str)} for item in value]
        return items if any(items) else None
    return None


def search_text(folded: Folded | None) -> str | None:
    """A folded form as it is searched through: the texts one after another."""
    if isinstance(folded, list):
        return " ".join(text for item in folded for text in item.values())
    return folded


def folded_values(record: Record) -> dict[str, Folded]:
    """The folded form of every text in a record, by key, for comparing and finding."""
    return {key: folded for key, value in record.items() if (folded := folded_value(value)) is not None}


def value_to_text(value: Value, field: Field) -> str:
    """A value as a cell that `read_value` reads back to the same value; blank is the empty text."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case Decimal():
            return _clear(value)
        case Money():
            return f"{_clear(value.amount)} {value.currency}"
        case datetime():
            return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        case date():
            return value.isoformat()
        case tuple():
            rows = [[value_to_text(item.get(part.key), part) for part in field.parts] for item in value]
            return join_items(rows, [part.key for part in field.parts])
        case _:
            return value
