"""A cell's text to a typed value. Nothing is guessed where two readings are possible; a fault says what would do.

What a text means can depend on the column that it stands in: a Reading says in which order a date is written there and
which sign is the decimal one. Without one, only texts with a single reading are taken.
"""

import re
import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, tzinfo
from decimal import Decimal

from uvarovite.core.contacts.amounts import NumberCell, Style, read_decimal, split_currency, style_of
from uvarovite.core.contacts.days import DateOrder, UnreadDay, read_day
from uvarovite.core.contacts.faults import ReadFault
from uvarovite.core.contacts.fields import Field, FieldType
from uvarovite.core.contacts.lists import Unsplit, split_items
from uvarovite.core.values import Money, fold

Plain = str | Decimal | Money | date | datetime | bool | None
# One record of a list: the values of its parts by key.
Item = Mapping[str, Plain]
Value = Plain | tuple[Item, ...]

# Longer texts are no record field but a document; the bound also keeps a hostile file from filling the table.
LONGEST_TEXT = 2_000
_YES = frozenset(
    {"yes", "y", "true", "1", "x", "on", "ja", "j", "oui", "o", "tak", "t", "si", "sí", "ναι", "はい", "✓", "так"}
)
_NO = frozenset({"no", "n", "false", "0", "off", "nein", "non", "nie", "nee", "όχι", "いいえ", "ні", "-"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How a column writes what has several readings.

    `century` is 1900 or 2000, for years of two digits; `zone` is that of date-times without one of their own.
    """

    date_order: DateOrder | None = None
    century: int | None = None
    decimal_comma: bool | None = None
    zone: tzinfo = UTC


AS_WRITTEN = Reading()


ValueReader = Callable[[str, Field, Reading], "Value | ReadFault"]


def read_value(text: str, field: Field, reading: Reading = AS_WRITTEN) -> Value | ReadFault:
    """Read one cell for one field; a cell of nothing but white space is blank (None)."""
    if not isinstance(text, NumberCell):
        text = text.strip()
    if not text:
        return None
    return _READERS[field.type](text, field, reading)


_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f]")
_BLANKS = re.compile(r"[^\S\n]+")


def _read_text(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    if len(text) > LONGEST_TEXT:
        return ReadFault(code="too_long", facts={"field": field.label, "most": LONGEST_TEXT})
    text = text.replace("\r\n", "\n")
    if _CONTROL.search(text):
        return ReadFault(code="control_character", facts={"field": field.label})
    if not text.isascii():
        text = unicodedata.normalize("NFC", text)
    # Runs of blanks come from other programs' padding; nobody writes "Anna  Maria" on purpose.
    return _BLANKS.sub(" ", text)


def _read_number(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    number = read_decimal(text, reading.decimal_comma)
    if number is None:
        return _no_number(text, field, "not_a_number")
    return number


def _fault(code: str, field: Field, text: str, **facts: str) -> ReadFault:
    return ReadFault(code=code, facts={"field": field.label, "text": text[:40], **facts})


def _no_number(text: str, field: Field, code: str, **facts: str) -> ReadFault:
    if style_of(text) is Style.EITHER:
        return _fault("two_readings", field, text, how="number")
    return _fault(code, field, text, **facts)


def _read_money(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    currency = field.currency or "EUR"
    rest, named = split_currency(text)
    if named not in (None, currency):
        return _fault("other_currency", field, text, currency=currency, named=str(named))
    number = read_decimal(rest, reading.decimal_comma)
    if number is None:
        return _no_number(text, field, "not_money", currency=currency)
    return Money(amount=number, currency=currency)


_UNREAD_DAY: Mapping[UnreadDay, tuple[str, dict[str, str]]] = {
    UnreadDay.NONE: ("not_a_date", {}),
    UnreadDay.ORDER: ("two_readings", {"how": "day"}),
    UnreadDay.CENTURY: ("no_century", {}),
    UnreadDay.MISSING: ("no_such_date", {"how": "day"}),
}


def _day(text: str, field: Field, reading: Reading) -> date | ReadFault:
    found = read_day(text, reading.date_order, reading.century)
    if isinstance(found, UnreadDay):
        code, facts = _UNREAD_DAY[found]
        return _fault(code, field, text, **facts)
    return found


# A spreadsheet writes a day as an instant at midnight.
_MIDNIGHT = re.compile(r"(.+?)[T ]+00:00(:00(\.0+)?)?$")


def _read_date(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    midnight = _MIDNIGHT.fullmatch(text)
    return _day(midnight[1] if midnight else text, field, reading)


_INSTANT = re.compile(
    r"(?P<day>.+?)(?:(?:T|,?\s+)(?P<hour>\d{1,2}):(?P<minute>\d{2})(?::(?P<second>\d{2})(?:[.,]\d{1,9})?)?"
    r"\s*(?P<half>[ap]m)?\s*(?P<zone>Z|[+-]\d{2}:?\d{2})?)?",
    re.ASCII | re.IGNORECASE,
)


def _read_date_time(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    """An instant, kept in UTC. RFC 3339, or a day and a time in the reading's zone; a lone day is its midnight."""
    found = _INSTANT.fullmatch(text)
    day = _day(found["day"], field, reading) if found else None
    if found is None or day is None or (isinstance(day, ReadFault) and day.code == "not_a_date"):
        return _fault("not_a_date_time", field, text)
    if isinstance(day, ReadFault):
        return day
    hour = int(found["hour"] or 0)
    if found["half"]:
        # Noon and midnight are both written as 12.
        hour = hour % 12 + (12 if found["half"].lower() == "pm" else 0) if 1 <= hour <= 12 else 99
    try:
        clock = time(hour, int(found["minute"] or 0), int(found["second"] or 0))
        if (found["zone"] or "Z").upper() == "Z":
            zone = UTC if found["zone"] else reading.zone
        else:
            zone = datetime.strptime(found["zone"].replace(":", ""), "%z").tzinfo or UTC
        return datetime.combine(day, clock, zone).astimezone(UTC)
    except (ValueError, OverflowError):
        return _fault("no_such_date", field, text, how="moment")


def _read_yes_no(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    folded = fold(text)
    if folded in _YES:
        return True
    if folded in _NO:
        return False
    return _fault("not_yes_no", field, text)


def _read_choice(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    for choice in field.choices:
        if fold(choice) == fold(text):
            return choice
    if fold(text) in ("none", "-"):
        return None
    return _fault("no_such_choice", field, text, choices=", ".join(field.choices))


def _read_list(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    rows = split_items(text, [part.key for part in field.parts])
    if isinstance(rows, Unsplit):
        return ReadFault(code="not_a_list", facts={"field": field.label, "how": rows.how, **rows.facts})
    items: list[Item] = []
    for place, row in enumerate(rows, start=1):
        item: dict[str, Plain] = {}
        for part, cell in zip(field.parts, row, strict=True):
            value = read_value(cell, part, reading)
            if isinstance(value, ReadFault):
                return replace(value, facts={**value.facts, "list": field.label, "record": place})
            assert not isinstance(value, tuple), "a part is no list"
            if value is not None:
                item[part.key] = value
        if item:
            items.append(item)
    return tuple(items) or None


_READERS: dict[FieldType, ValueReader] = {
    FieldType.TEXT: _read_text,
    FieldType.NUMBER: _read_number,
    FieldType.MONEY: _read_money,
    FieldType.DATE: _read_date,
    FieldType.DATE_TIME: _read_date_time,
    FieldType.YES_NO: _read_yes_no,
    FieldType.CHOICE: _read_choice,
    FieldType.LIST: _read_list,
}
