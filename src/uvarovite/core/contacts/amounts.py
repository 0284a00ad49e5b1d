"""Numbers and amounts as people and programs write them.

1,234 and 1.234 have two readings each: a thousand and more, or one and a little. Which one is meant is a matter of the
column, or of the organisation where somebody types; nothing here takes sides. Every other writing has one reading,
whatever the style: 1,234.50, 1.234,50, 12,5, 1 234, 1'234.
"""

import re
from decimal import Decimal, InvalidOperation
from enum import StrEnum

from babel import Locale, UnknownLocaleError

from uvarovite.core.values import CURRENCIES

# Fifteen digits: what a number keeps on its way through JSON and a spreadsheet.
LARGEST_NUMBER = Decimal(10) ** 15

_PADDING = re.compile(r"[\s\u00a0\u202f'’]")
_PLAIN = re.compile(r"[+-]?\d+", re.ASCII)
_EITHER = re.compile(r"[+-]?[1-9]\d{0,2}[.,]\d{3}", re.ASCII)
_POINT_IS_DECIMAL = re.compile(r"[+-]?(\d+\.\d+|\d{1,3}(,\d{3})+\.\d+|\d{1,3}(,\d{3}){2,})", re.ASCII)
_COMMA_IS_DECIMAL = re.compile(r"[+-]?(\d+,\d+|\d{1,3}(\.\d{3})+,\d+|\d{1,3}(\.\d{3}){2,})", re.ASCII)


class NumberCell(str):
    """The text of a cell that a workbook keeps as a number: its point is the decimal one, in a column of any style.

    Never equal to a text that only looks the same, so that what is remembered of one is not taken for the other.
    """

    __slots__ = ()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, NumberCell) and str.__eq__(self, other)

    def __ne__(self, other: object) -> bool:
        return not self == other

    def __hash__(self) -> int:
        return hash((NumberCell, str(self)))


class Style(StrEnum):
    """What a number's text says about the sign of its fraction; EITHER has two readings."""

    POINT = "point"
    COMMA = "comma"
    EITHER = "either"


def style_of(text: str) -> Style | None:
    """What a text decides about its column; None where it decides nothing, or is no number."""
    if isinstance(text, NumberCell):
        return None
    text = _PADDING.sub("", split_currency(text.strip())[0])
    if _EITHER.fullmatch(text):
        return Style.EITHER
    if _POINT_IS_DECIMAL.fullmatch(text):
        return Style.POINT
    return Style.COMMA if _COMMA_IS_DECIMAL.fullmatch(text) else None


def read_decimal(text: str, decimal_comma: bool | None = None) -> Decimal | None:
    """The number, or None when it is none. 1,234 and 1.234 are taken only where `decimal_comma` says how."""
    if isinstance(text, NumberCell):
        decimal_comma = False
    text = _PADDING.sub("", text)
    if not _PLAIN.fullmatch(text):
        style = Style.POINT if isinstance(text, NumberCell) else style_of(text)
        if style is Style.EITHER:
            if decimal_comma is None:
                return None
            style = Style.COMMA if decimal_comma else Style.POINT
        if style is None:
            return None
        group, decimal = (".", ",") if style is Style.COMMA else (",", ".")
        text = text.replace(group, "").replace(decimal, ".")
    try:
        number = Decimal(text)
    except InvalidOperation:  # pragma: no cover - the patterns admit only numbers
        return None
    return number if abs(number) < LARGEST_NUMBER else None


def has_decimal_comma(locale: str) -> bool:
    """Does a locale (such as `de` or `en-GB`) write 1,5 for one and a half? By CLDR; an unknown locale does not."""
    try:
        symbols = Locale.parse(locale, sep="-" if "-" in locale else "_").number_symbols["latn"]
    except (UnknownLocaleError, ValueError, KeyError):
        return False
    return bool(symbols["decimal"] == ",")


def split_currency(text: str) -> tuple[str, str | None]:
    """(the rest, ISO code) of a text with a currency's code or sign at one end; None where it names none."""
    for code, signs in CURRENCIES.items():
        for sign in (code, *signs):
            if text.startswith(sign) or text.endswith(sign):
                return text.removeprefix(sign).removesuffix(sign).strip(), code
    return text, None
