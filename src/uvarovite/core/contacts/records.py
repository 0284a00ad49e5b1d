"""A record: the values of one contact by field key, and its stored form.

Stored as JSON with one rule per type: numbers as decimal text (floats would lose cents), money as amount and
currency, dates as ISO 8601, blank values left out. The folded form of every text stands beside it.
"""

from collections.abc import Mapping
from datetime import date
from decimal import Decimal

from uvarovite.core.contacts.fields import FieldMap, FieldType
from uvarovite.core.contacts.values import Value
from uvarovite.core.values import Money, fold

Record = Mapping[str, Value]
Json = str | bool | dict[str, str]


def _plain(number: Decimal) -> str:
    return format(number, "f")


def record_to_json(record: Record) -> dict[str, Json]:
    """The stored form; blank values are left out."""
    stored: dict[str, Json] = {}
    for key, value in record.items():
        match value:
            case None:
                continue
            case bool() | str():
                stored[key] = value
            case Decimal():
                stored[key] = _plain(value)
            case Money():
                stored[key] = {"amount": _plain(value.amount), "currency": value.currency}
            case date():
                stored[key] = value.isoformat()
    return stored


def record_from_json(stored: Mapping[str, object], fields: FieldMap) -> dict[str, Value]:
    """Every known field with its typed value, None where blank. Keys of fields that are gone are passed over."""
    record: dict[str, Value] = {}
    for key, field in fields.items():
        raw = stored.get(key)
        if raw is None:
            record[key] = None
        elif field.type is FieldType.NUMBER:
            record[key] = Decimal(str(raw))
        elif field.type is FieldType.MONEY and isinstance(raw, Mapping):
            record[key] = Money(amount=Decimal(str(raw["amount"])), currency=str(raw["currency"]))
        elif field.type is FieldType.DATE:
            record[key] = date.fromisoformat(str(raw))
        elif isinstance(raw, str | bool):
            record[key] = raw
        else:
            raise TypeError(f"stored value of {key} does not fit {field.type}")
    return record


def folded_values(record: Record) -> dict[str, str]:
    """The folded form of every text in a record, by key, for comparing."""
    return {key: fold(value) for key, value in record.items() if isinstance(value, str)}
