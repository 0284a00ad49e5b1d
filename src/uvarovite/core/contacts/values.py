"""A cell's text to a typed value. Nothing is guessed where two readings are possible; a fault says what would do.

What a text means can depend on the column that it stands in: a Reading says in which order a date is written there and
which sign is the decimal one. Without one, only texts with a single reading are taken.
"""

import re
import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, tzinfo
from decimal import Decimal, InvalidOperation
from enum import StrEnum

from uvarovite.core.contacts.fields import Field, FieldType
from uvarovite.core.contacts.lists import split_items
from uvarovite.core.values import CURRENCIES, Money, fold

Plain = str | Decimal | Money | date | datetime | bool | None
# One record of a list: the values of its parts by key.
Item = Mapping[str, Plain]
Value = Plain | tuple[Item, ...]

# Longer texts are no record field but a document; the bound also keeps a hostile file from filling the table.
LONGEST_TEXT = 2_000
# Fifteen digits: what a number keeps on its way through JSON and a spreadsheet.
LARGEST_NUMBER = Decimal(10) ** 15

_YES = frozenset(
    {"yes", "y", "true", "1", "x", "on", "ja", "j", "oui", "o", "tak", "t", "si", "sí", "ναι", "はい", "✓", "так"}
)
_NO = frozenset({"no", "n", "false", "0", "off", "nein", "non", "nie", "nee", "όχι", "いいえ", "ні", "-"})


class DateOrder(StrEnum):
    """In which order a column writes day, month and year."""

    YEAR_FIRST = "ymd"
    DAY_FIRST = "dmy"
    MONTH_FIRST = "mdy"


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How a column writes what has several readings. `zone` is that of date-times without one of their own."""

    date_order: DateOrder | None = None
    decimal_comma: bool | None = None
    zone: tzinfo = UTC


AS_WRITTEN = Reading()


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadFault:
    """Why a text is no value of a field."""

    code: str
    message: str


ValueReader = Callable[[str, Field, Reading], "Value | ReadFault"]


def read_value(text: str, field: Field, reading: Reading = AS_WRITTEN) -> Value | ReadFault:
    """Read one cell for one field; a cell of nothing but white space is blank (None)."""
    text = text.strip()
    if not text:
        return None
    return _READERS[field.type](text, field, reading)


_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f]")
_BLANKS = re.compile(r"[^\S\n]+")


def _read_text(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    if len(text) > LONGEST_TEXT:
        return ReadFault(code="too_long", message=f"{field.label} is longer than {LONGEST_TEXT} characters.")
    text = text.replace("\r\n", "\n")
    if _CONTROL.search(text):
        return ReadFault(code="control_character", message=f"{field.label} holds a control character.")
    if not text.isascii():
        text = unicodedata.normalize("NFC", text)
    # Runs of blanks come from other programs' padding; nobody writes "Anna  Maria" on purpose.
    return _BLANKS.sub(" ", text)


_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?", re.ASCII)
_COMMA_GROUPS = re.compile(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?", re.ASCII)
_POINT_GROUPS = re.compile(r"[+-]?\d{1,3}(\.\d{3})+(,\d+)?", re.ASCII)
_PADDING = re.compile(r"[\s\u00a0\u202f'’]")


def read_decimal(text: str, decimal_comma: bool | None = None) -> Decimal | None:
    """Decimal point or comma; groups of three by the other sign, a blank or an apostrophe. None when it is neither.

    1,234 has two readings and is taken only where the column says which sign is the decimal one.
    """
    text = _PADDING.sub("", text)
    if _COMMA_GROUPS.fullmatch(text) and (decimal_comma is False or "." in text or text.count(",") > 1):
        text = text.replace(",", "")
    elif _POINT_GROUPS.fullmatch(text) and (decimal_comma is True or "," in text or text.count(".") > 1):
        text = text.replace(".", "").replace(",", ".")
    elif decimal_comma is not False and re.fullmatch(
        r"[+-]?\d+,\d+" if decimal_comma else r"[+-]?\d+,\d{1,2}", text, re.ASCII
    ):
        text = text.replace(",", ".")
    if not _NUMBER.fullmatch(text):
        return None
    try:
        number = Decimal(text)
    except InvalidOperation:  # pragma: no cover - the pattern admits only numbers
        return None
    return number if abs(number) < LARGEST_NUMBER else None


def _read_number(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    number = read_decimal(text, reading.decimal_comma)
    if number is None:
        return ReadFault(code="not_a_number", message=f"{field.label}: “{text[:40]}” is no number such as 12 or 12.5.")
    return number


def split_currency(text: str) -> tuple[str, str | None]:
    """(the rest, ISO code) of a text with a currency's code or sign at one end; None where it names none."""
    for code, signs in CURRENCIES.items():
        for sign in (code, *signs):
            if text.startswith(sign) or text.endswith(sign):
                return text.removeprefix(sign).removesuffix(sign).strip(), code
    return text, None


def _read_money(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    currency = field.currency or "EUR"
    rest, named = split_currency(text)
    if named not in (None, currency):
        return ReadFault(
            code="other_currency",
            message=f"{field.label} is kept in {currency}; “{text[:40]}” is in {named}.",
        )
    number = read_decimal(rest, reading.decimal_comma)
    if number is None:
        return ReadFault(
            code="not_money", message=f"{field.label}: “{text[:40]}” is no amount such as 12.50 {currency}."
        )
    return Money(amount=number, currency=currency)


_ISO = re.compile(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})", re.ASCII)
_DOTTED = re.compile(r"(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{4})", re.ASCII)
_SLASHED = re.compile(r"(\d{1,2})[/.-]\s?(\d{1,2})[/.-]\s?(\d{4})", re.ASCII)


def _day(text: str, field: Field, reading: Reading) -> date | ReadFault:
    # Year first and the dotted order have one reading each; 03/04/2026 has two, and the column has to say which.
    if iso := _ISO.fullmatch(text):
        year, month, day = map(int, iso.groups())
    elif (dotted := _DOTTED.fullmatch(text)) and reading.date_order is not DateOrder.MONTH_FIRST:
        day, month, year = map(int, dotted.groups())
    elif (slashed := _SLASHED.fullmatch(text)) and reading.date_order in (DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST):
        first, second, year = map(int, slashed.groups())
        month_first = reading.date_order is DateOrder.MONTH_FIRST
        day, month = (second, first) if month_first else (first, second)
    else:
        return ReadFault(
            code="not_a_date",
            message=f"{field.label}: write “{text[:40]}” as 2026-05-31 or 31.5.2026, which have one reading.",
        )
    try:
        return date(year, month, day)
    except ValueError:
        return ReadFault(code="no_such_date", message=f"{field.label}: there is no day {text}.")


# A spreadsheet writes a day as an instant at midnight.
_MIDNIGHT = re.compile(r"(.+?)[T ]+00:00(:00(\.0+)?)?$")


def _read_date(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    midnight = _MIDNIGHT.fullmatch(text)
    return _day(midnight[1] if midnight else text, field, reading)


_INSTANT = re.compile(
    r"(?P<day>[\d./-]{8,10})(?:[T ]\s*(?P<hour>\d{1,2}):(?P<minute>\d{2})(?::(?P<second>\d{2})(?:[.,]\d{1,9})?)?)?"
    r"\s*(?P<zone>Z|[+-]\d{2}:?\d{2})?",
    re.ASCII,
)


def _read_date_time(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    """An instant, kept in UTC. RFC 3339, or a day and a time in the reading's zone; a lone day is its midnight."""
    found = _INSTANT.fullmatch(text)
    if found is None:
        return ReadFault(
            code="not_a_date_time", message=f"{field.label}: write “{text[:40]}” as 2026-05-31 14:30, which is clear."
        )
    day = _day(found["day"], field, reading)
    if isinstance(day, ReadFault):
        return day
    try:
        clock = time(int(found["hour"] or 0), int(found["minute"] or 0), int(found["second"] or 0))
        if found["zone"] in (None, "Z"):
            zone = UTC if found["zone"] else reading.zone
        else:
            zone = datetime.strptime(found["zone"].replace(":", ""), "%z").tzinfo or UTC
        return datetime.combine(day, clock, zone).astimezone(UTC)
    except (ValueError, OverflowError):
        return ReadFault(code="no_such_date", message=f"{field.label}: there is no moment {text[:40]}.")


def _read_yes_no(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    folded = fold(text)
    if folded in _YES:
        return True
    if folded in _NO:
        return False
    return ReadFault(code="not_yes_no", message=f"{field.label}: “{text[:40]}” is neither yes nor no.")


def _read_choice(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    for choice in field.choices:
        if fold(choice) == fold(text):
            return choice
    if fold(text) in ("none", "-"):
        return None
    return ReadFault(
        code="no_such_choice",
        message=f"{field.label}: “{text[:40]}” is none of {', '.join(field.choices)}.",
    )


def _read_list(text: str, field: Field, reading: Reading) -> Value | ReadFault:
    rows = split_items(text, [part.key for part in field.parts])
    if isinstance(rows, str):
        return ReadFault(code="not_a_list", message=f"{field.label} {rows}")
    items: list[Item] = []
    for place, row in enumerate(rows, start=1):
        item: dict[str, Plain] = {}
        for part, cell in zip(field.parts, row, strict=True):
            value = read_value(cell, part, reading)
            if isinstance(value, ReadFault):
                return ReadFault(code=value.code, message=f"{field.label}, record {place}: {value.message}")
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
