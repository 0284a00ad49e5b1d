"""How a value is shown, by Unicode CLDR for the locale of a message and its reader (through Babel)."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, tzinfo
from functools import lru_cache
from typing import Any

from babel import Locale, UnknownLocaleError
from babel.dates import format_date, format_datetime, format_time, parse_pattern
from babel.lists import format_list
from babel.numbers import format_currency, format_decimal, format_percent

from uvarovite.core.contacts import FieldType, Item, Value
from uvarovite.core.values import Money


@lru_cache(maxsize=512)
def locale_for(language: str, reader: str | None, organisation: str) -> Locale:
    """The locale of a message for one reader: always of the message's language ("" is the organisation's).

    Within it the reader's own region counts: whoever reads English in the United States reads American dates. A language
    without a region that is the organisation's own means the organisation's: English from a British museum is British.
    """
    own = _parse(organisation) or Locale.parse("en")
    written = (_parse(language) if language else None) or own
    theirs = _parse(reader) if reader else None
    if theirs is not None and theirs.language == written.language and theirs.territory is not None:
        return theirs
    return own if own.language == written.language and written.territory is None else written


@lru_cache(maxsize=512)
def readers_locale(reader: str | None, organisation: str) -> Locale:
    """The locale of runs that were released before messages had a language: the reader's, or the organisation's."""
    own = _parse(organisation) or Locale.parse("en")
    theirs = _parse(reader) if reader else None
    if theirs is None or (theirs.language == own.language and theirs.territory is None):
        return own
    return theirs


def _parse(text: str) -> Locale | None:
    try:
        return Locale.parse(text.replace("-", "_"))
    except (ValueError, UnknownLocaleError, TypeError):
        return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Format:
    """One row: what `as name` does, and to which types. `takes_pattern` allows a CLDR date pattern behind it."""

    name: str
    types: frozenset[FieldType]
    show: Callable[[Any, Locale, str | None], str]
    meaning: str
    takes_pattern: bool = False


def _date(value: date, locale: Locale, pattern: str | None) -> str:
    return format_date(value, pattern or "medium", locale=locale)


def _date_time(value: datetime, locale: Locale, pattern: str | None) -> str:
    return format_datetime(value, pattern or "short", locale=locale)


def _time(value: datetime, locale: Locale, pattern: str | None) -> str:
    return format_time(value, "short", tzinfo=value.tzinfo, locale=locale)


def _names(value: tuple[Item, ...], locale: Locale, pattern: str | None) -> str:
    # A list's first part says what each record is; the others need a place of their own in the message.
    firsts = [str(next((part for part in item.values() if part is not None), "")) for item in value]
    return format_list(firsts, locale=locale)


def _money(value: Money, locale: Locale, pattern: str | None) -> str:
    return format_currency(value.amount, value.currency, locale=locale)


_T = FieldType
_TEXTS = frozenset({_T.TEXT, _T.CHOICE})

_ROWS = (
    Format(name="text", types=_TEXTS, show=lambda v, loc, p: str(v), meaning="as it is"),
    Format(name="upper", types=_TEXTS, show=lambda v, loc, p: str(v).upper(), meaning="in capital letters"),
    Format(name="lower", types=_TEXTS, show=lambda v, loc, p: str(v).lower(), meaning="in small letters"),
    Format(name="title", types=_TEXTS, show=lambda v, loc, p: str(v).title(), meaning="each word with a capital"),
    Format(
        name="number",
        types=frozenset({_T.NUMBER}),
        show=lambda v, loc, p: format_decimal(v, locale=loc),
        meaning="1,234.5 as the reader writes it",
    ),
    Format(
        name="percent",
        types=frozenset({_T.NUMBER}),
        show=lambda v, loc, p: format_percent(v, locale=loc),
        meaning="0.25 as 25%",
    ),
    Format(name="money", types=frozenset({_T.MONEY}), show=_money, meaning="€1,234.50 as the reader writes it"),
    Format(
        name="date",
        types=frozenset({_T.DATE, _T.DATE_TIME}),
        show=_date,
        meaning='5 Oct 2026 as the reader writes it, or by a CLDR pattern: as date "d MMMM"',
        takes_pattern=True,
    ),
    Format(
        name="date_time",
        types=frozenset({_T.DATE_TIME}),
        show=_date_time,
        meaning="05/10/2026, 14:30 as the reader writes it, in the organisation's time zone",
    ),
    Format(
        name="time",
        types=frozenset({_T.DATE_TIME}),
        show=_time,
        meaning="14:30 as the reader writes it, in the organisation's time zone",
    ),
    Format(
        name="names",
        types=frozenset({_T.LIST}),
        show=_names,
        meaning="the first part of each record: “Fluorite, Galena and Quartz”",
    ),
)

FORMATS: dict[str, Format] = {row.name: row for row in _ROWS}

# What a type is shown as where no format is given; yes/no has none, since words for it depend on the sentence.
DEFAULT_FORMAT: dict[FieldType, str] = {
    _T.TEXT: "text",
    _T.CHOICE: "text",
    _T.NUMBER: "number",
    _T.MONEY: "money",
    _T.DATE: "date",
    _T.DATE_TIME: "date_time",
    _T.LIST: "names",
}

# Letters that a CLDR date pattern can use for a day (UTS 35, part 4, table of date field symbols).
_DATE_LETTERS = frozenset("GyYuUrQqMLwWdDFgEec")


def pattern_problem(pattern: str) -> str | None:
    """Why a text is no date pattern, or None when it is one."""
    try:
        parsed = parse_pattern(pattern)
        format_date(date(2026, 5, 31), pattern, locale="en")
    except (ValueError, KeyError, AttributeError, NotImplementedError, TypeError) as fault:
        return f"“{pattern}” is no date pattern ({fault}); try “d MMMM y”."
    if not any(letter in _DATE_LETTERS for letter in parsed.pattern):
        return f"“{pattern}” shows no part of a date; try “d MMMM y”."
    return None


def show_plainly(value: Value, type_: FieldType, locale: Locale, zone: tzinfo | None) -> str:
    """A value in the usual form of its type; what has none, such as yes or no, is empty."""
    return show_value(value, type_, None, None, locale, zone) if type_ in DEFAULT_FORMAT else ""


def show_value(
    value: Value, type_: FieldType, name: str | None, pattern: str | None, locale: Locale, zone: tzinfo | None
) -> str:
    """A value that is not blank, as text for the reader; instants in `zone`. Never raises for a checked format."""
    if isinstance(value, datetime):
        value = value.astimezone(zone)
    return FORMATS[name or DEFAULT_FORMAT[type_]].show(value, locale, pattern)
