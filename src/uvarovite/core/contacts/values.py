"""A cell's text to a typed value. Nothing is guessed where two readings are possible; a fault says what would do."""

import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation

from uvarovite.core.contacts.fields import Field, FieldType
from uvarovite.core.values import CURRENCIES, Money, fold

Value = str | Decimal | Money | date | bool | None

# Longer texts are no record field but a document; the bound also keeps a hostile file from filling the table.
LONGEST_TEXT = 2_000
# Fifteen digits: what a number keeps on its way through JSON and a spreadsheet.
LARGEST_NUMBER = Decimal(10) ** 15

_YES = frozenset({"yes", "y", "true", "1", "x", "ja", "oui", "tak", "ναι", "はい", "✓"})
_NO = frozenset({"no", "n", "false", "0", "nein", "non", "nie", "όχι", "いいえ", "-"})


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadFault:
    """Why a text is no value of a field."""

    code: str
    message: str


ValueReader = Callable[[str], Value | ReadFault]


def read_value(text: str, field: Field) -> Value | ReadFault:
    """Read one cell for one field; a cell of nothing but white space is blank (None)."""
    text = text.strip()
    if not text:
        return None
    return _READERS[field.type](text, field)


def _read_text(text: str, field: Field) -> Value | ReadFault:
    if len(text) > LONGEST_TEXT:
        return ReadFault(code="too_long", message=f"{field.label} is longer than {LONGEST_TEXT} characters.")
    if any(unicodedata.category(sign) == "Cc" and sign not in "\n\t" for sign in text):
        return ReadFault(code="control_character", message=f"{field.label} holds a control character.")
    # Runs of blanks come from other programs' padding; nobody writes "Anna  Maria" on purpose.
    return re.sub(r"[^\S\n]+", " ", unicodedata.normalize("NFC", text))


def _decimal(text: str) -> Decimal | None:
    """Decimal point or comma; groups of three by the other sign, a blank or an apostrophe."""
    text = re.sub(r"[\s\u00a0\u202f'’]", "", text)
    if re.fullmatch(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?", text) and ("." in text or text.count(",") > 1):
        text = text.replace(",", "")
    elif re.fullmatch(r"[+-]?\d{1,3}(\.\d{3})+,\d+", text):
        text = text.replace(".", "").replace(",", ".")
    elif re.fullmatch(r"[+-]?\d+,\d{1,2}", text):
        text = text.replace(",", ".")
    if not re.fullmatch(r"[+-]?\d+(\.\d+)?", text, re.ASCII):
        return None
    try:
        number = Decimal(text)
    except InvalidOperation:  # pragma: no cover - the pattern admits only numbers
        return None
    return number if abs(number) < LARGEST_NUMBER else None


def _read_number(text: str, field: Field) -> Value | ReadFault:
    number = _decimal(text)
    if number is None:
        return ReadFault(code="not_a_number", message=f"{field.label}: “{text[:40]}” is no number such as 12 or 12.5.")
    return number


def _read_money(text: str, field: Field) -> Value | ReadFault:
    currency = field.currency or "EUR"
    rest, named = text, currency
    for code, signs in CURRENCIES.items():
        for sign in (code, *signs):
            if rest.startswith(sign) or rest.endswith(sign):
                rest, named = rest.removeprefix(sign).removesuffix(sign), code
                break
    if named != currency:
        return ReadFault(
            code="other_currency",
            message=f"{field.label} is kept in {currency}; “{text[:40]}” is in {named}.",
        )
    number = _decimal(rest)
    if number is None:
        return ReadFault(
            code="not_money", message=f"{field.label}: “{text[:40]}” is no amount such as 12.50 {currency}."
        )
    return Money(amount=number, currency=currency)


def _read_date(text: str, field: Field) -> Value | ReadFault:
    # Only ISO 8601 and the dotted order, which have one reading each; 03/04/2026 has two.
    if iso := re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text, re.ASCII):
        year, month, day = map(int, iso.groups())
    elif dotted := re.fullmatch(r"(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{4})", text, re.ASCII):
        day, month, year = map(int, dotted.groups())
    else:
        return ReadFault(
            code="not_a_date",
            message=f"{field.label}: write “{text[:40]}” as 2026-05-31 or 31.5.2026, which have one reading.",
        )
    try:
        return date(year, month, day)
    except ValueError:
        return ReadFault(code="no_such_date", message=f"{field.label}: there is no day {text}.")


def _read_yes_no(text: str, field: Field) -> Value | ReadFault:
    folded = fold(text)
    if folded in _YES:
        return True
    if folded in _NO:
        return False
    return ReadFault(code="not_yes_no", message=f"{field.label}: “{text[:40]}” is neither yes nor no.")


def _read_choice(text: str, field: Field) -> Value | ReadFault:
    for choice in field.choices:
        if fold(choice) == fold(text):
            return choice
    if fold(text) in ("none", "-"):
        return None
    return ReadFault(
        code="no_such_choice",
        message=f"{field.label}: “{text[:40]}” is none of {', '.join(field.choices)}.",
    )


_READERS: dict[FieldType, Callable[[str, Field], Value | ReadFault]] = {
    FieldType.TEXT: _read_text,
    FieldType.NUMBER: _read_number,
    FieldType.MONEY: _read_money,
    FieldType.DATE: _read_date,
    FieldType.YES_NO: _read_yes_no,
    FieldType.CHOICE: _read_choice,
}
