"""Days as people and programs write them.

A year of four digits in front, or a month by its name, leaves one reading. 03/04/2026 has two, 3.4.26 does not say in
which century, and 46174 is how a spreadsheet counts days: what is meant is said for the column that it stands in.
"""

import re
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from functools import lru_cache

from babel import Locale

# Whose names of months are read, besides numbers: the languages of the museum's neighbours.
_LANGUAGES = ("en", "de", "fr", "pl", "nl", "es", "it", "pt", "da", "sv")
# Day 0 as spreadsheets count; 1900 is no leap year, though they think so, hence a day before their own day 1.
_SPREADSHEET_EPOCH = date(1899, 12, 30)
# Days 10000 to 99999 are the years 1927 to 2173: no other number in a column of days looks like one of them.
_SERIAL = re.compile(r"(\d{5})(?:\.0+)?", re.ASCII)
_NUMBERS = re.compile(r"(\d{1,4})\s?([./-])\s?(\d{1,2})\s?\2\s?(\d{1,4})", re.ASCII)
_DAY_NAME_YEAR = re.compile(r"(\d{1,2})(?:\.|st|nd|rd|th|er)?[ -](?:de |of )?([^\W\d_]+)\.?,?[ -](?:de )?(\d{4}|\d{2})")
_NAME_DAY_YEAR = re.compile(r"([^\W\d_]+)\.? (\d{1,2})(?:st|nd|rd|th)?,? (\d{4}|\d{2})")


class DateOrder(StrEnum):
    """In which order a column writes day, month and year; SERIAL counts days as spreadsheets do."""

    YEAR_FIRST = "ymd"
    DAY_FIRST = "dmy"
    MONTH_FIRST = "mdy"
    SERIAL = "serial"


@dataclass(frozen=True, slots=True, kw_only=True)
class DayEvidence:
    """What a text decides, or leaves open, about its column.

    `order` is the one order that it can be read in; `either` tells that day and month could change places, `short` that
    the year has two digits, `serial` that it could be a spreadsheet's number.
    """

    order: DateOrder | None = None
    either: bool = False
    short: bool = False
    serial: bool = False


def day_evidence(text: str) -> DayEvidence:
    """What a text says about how its column writes days."""
    text = text.strip()
    if _SERIAL.fullmatch(text):
        return DayEvidence(serial=True)
    if named := _DAY_NAME_YEAR.match(text) or _NAME_DAY_YEAR.match(text):
        return DayEvidence(short=len(named[3]) == 2)
    found = _NUMBERS.match(text)
    if found is None or len(found[1]) == 4:
        return DayEvidence()
    first, second, short = int(found[1]), int(found[3]), len(found[4]) <= 2
    if first > 12 >= second:
        return DayEvidence(order=DateOrder.DAY_FIRST, short=short)
    if second > 12 >= first:
        return DayEvidence(order=DateOrder.MONTH_FIRST, short=short)
    # With dots the day comes first, in every country that writes them.
    return DayEvidence(either=found[2] != ".", short=short)


class UnreadDay(StrEnum):
    """Why a text is no day: it is none at all, it has two readings, its century is open, or the calendar lacks it."""

    NONE = "none"
    ORDER = "order"
    CENTURY = "century"
    MISSING = "missing"


def read_day(text: str, order: DateOrder | None, century: int | None) -> date | UnreadDay:
    """The day. `order` and `century` (1900 or 2000, for years of two digits) say what the text leaves open."""
    if order is DateOrder.SERIAL and (serial := _SERIAL.fullmatch(text)):
        return _SPREADSHEET_EPOCH + timedelta(days=int(serial[1]))
    if named := _DAY_NAME_YEAR.fullmatch(text):
        return _day(named[3], _months().get(named[2].casefold()), int(named[1]), century)
    if named := _NAME_DAY_YEAR.fullmatch(text):
        return _day(named[3], _months().get(named[1].casefold()), int(named[2]), century)
    found = _NUMBERS.fullmatch(text)
    if found is None:
        return UnreadDay.NONE
    first, sign, second, last = found[1], found[2], int(found[3]), found[4]
    if len(first) in (3, 4) or order is DateOrder.YEAR_FIRST:
        return _day(first, second, int(last), century) if len(first) in (2, 4) else UnreadDay.NONE
    if order is DateOrder.MONTH_FIRST:
        return _day(last, int(first), second, century)
    if order is DateOrder.DAY_FIRST or sign == ".":
        return _day(last, second, int(first), century)
    return UnreadDay.ORDER


def _day(year: str, month: int | None, day: int, century: int | None) -> date | UnreadDay:
    if month is None or len(year) not in (2, 4):
        return UnreadDay.NONE
    if len(year) == 2 and century is None:
        return UnreadDay.CENTURY
    try:
        return date(int(year) + (century or 0 if len(year) == 2 else 0), month, day)
    except ValueError:
        return UnreadDay.MISSING


@lru_cache(maxsize=1)
def _months() -> dict[str, int]:
    """Month by its folded name or short form, without a point; a name that two languages use otherwise is nobody's."""
    found: dict[str, set[int]] = {}
    for language in _LANGUAGES:
        months = Locale(language).months
        for context in ("format", "stand-alone"):
            for width in ("wide", "abbreviated"):
                for number, name in months[context][width].items():
                    found.setdefault(name.casefold().strip("."), set()).add(number)
    return {name: numbers.pop() for name, numbers in found.items() if len(numbers) == 1 and not name.isdigit()}
