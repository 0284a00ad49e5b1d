"""The operators: one row each, with its types, its words, what it does in Python and what it does in SQL.

A row is the whole truth about an operator. The parser, the checker, both back ends, the pickers on screen and the
table in docs/languages/criteria.md read it; to add an operator is to add a row.

Rules that hold in every row: a comparison with a blank is false (the back ends see to it, a row never meets a blank
except where `sees_blank` is set); text arrives folded on both sides.
"""

import calendar
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from enum import StrEnum
from typing import Any
from zoneinfo import ZoneInfo

from uvarovite.core.contacts import FieldType
from uvarovite.core.expressions.tree import PeriodLiteral, TodayLiteral


@dataclass(frozen=True, slots=True, kw_only=True)
class Clock:
    """`now` is aware and in the organisation's time zone; `today` is its day there."""

    now: datetime
    today: date

    @classmethod
    def at(cls, now: datetime, time_zone: str) -> "Clock":
        """The clock at an aware instant in a time zone, an IANA name."""
        local = now.astimezone(ZoneInfo(time_zone))
        return cls(now=local, today=local.date())


class Operands(StrEnum):
    """How many operands follow, and of what kind."""

    NONE = "none"
    ONE = "one"
    TWO = "two"
    LIST = "list"
    PERIOD = "period"


@dataclass(frozen=True, slots=True, kw_only=True)
class Operator:
    """One row. `words` is how it is written, `said` how it reads in a row on screen; `sql` is a format with {field} and {0}, {1} (or {list}) for operands.

    `python` gets the value and the operands, compared in the same folded or plain form as in SQL.
    """

    key: str
    words: str
    said: str
    types: frozenset[FieldType]
    operands: Operands
    python: Callable[[Any, Sequence[Any]], bool]
    sql: str
    meaning: str
    sees_blank: bool = False


def add_months(day: date, months: int) -> date:
    """The same day of a later or earlier month, or that month's last day, as PostgreSQL adds intervals."""
    index = day.year * 12 + day.month - 1 + months
    year, month = divmod(index, 12)
    return date(year, month + 1, min(day.day, calendar.monthrange(year, month + 1)[1]))


def period_ends(period: PeriodLiteral, clock: Clock, *, forward: bool) -> tuple[date, date]:
    """First and last day of `within next` (from today on) or `within last` (up to today), both inclusive."""
    sign = 1 if forward else -1
    if period.unit == "months":
        other = add_months(clock.today, sign * period.count)
    else:
        other = clock.today + timedelta(days=sign * period.count * (7 if period.unit == "weeks" else 1))
    return (clock.today, other) if forward else (other, clock.today)


def day_of(literal: TodayLiteral, clock: Clock) -> date:
    """The day that a literal relative to today stands for."""
    if literal.unit == "months":
        return add_months(clock.today, literal.count)
    return clock.today + timedelta(days=literal.count * (7 if literal.unit == "weeks" else 1))


_T = FieldType
_TEXTS = frozenset({_T.TEXT, _T.CHOICE})
_AMOUNTS = frozenset({_T.NUMBER, _T.MONEY})
_DATES = frozenset({_T.DATE, _T.DATE_TIME})
_EVERY = frozenset(FieldType)

_ROWS = (
    Operator(
        key="is",
        words="is",
        said="is",
        types=_TEXTS | _AMOUNTS | _DATES,
        operands=Operands.ONE,
        python=lambda value, given: bool(value == given[0]),
        sql="{field} = {0}",
        meaning="is the same; texts ignore case",
    ),
    Operator(
        key="is_not",
        words="is not",
        said="is not",
        types=_TEXTS | _AMOUNTS | _DATES,
        operands=Operands.ONE,
        python=lambda value, given: bool(value != given[0]),
        sql="{field} <> {0}",
        meaning="is there and differs",
    ),
    Operator(
        key="in",
        words="in",
        said="is one of",
        types=_TEXTS | _AMOUNTS | _DATES,
        operands=Operands.LIST,
        python=lambda value, given: value in given,
        sql="{field} IN ({list})",
        meaning="is one of",
    ),
    Operator(
        key="not_in",
        words="not in",
        said="is not one of",
        types=_TEXTS | _AMOUNTS | _DATES,
        operands=Operands.LIST,
        python=lambda value, given: value not in given,
        sql="{field} NOT IN ({list})",
        meaning="is there and is not one of",
    ),
    Operator(
        key="contains",
        words="contains",
        said="contains",
        types=_TEXTS,
        operands=Operands.ONE,
        python=lambda value, given: given[0] in value,
        sql="position({0} in {field}) > 0",
        meaning="has this text anywhere in it",
    ),
    Operator(
        key="starts_with",
        words="starts with",
        said="starts with",
        types=_TEXTS,
        operands=Operands.ONE,
        python=lambda value, given: value.startswith(given[0]),
        sql="starts_with({field}, {0})",
        meaning="begins with this text",
    ),
    Operator(
        key="ends_with",
        words="ends with",
        said="ends with",
        types=_TEXTS,
        operands=Operands.ONE,
        python=lambda value, given: value.endswith(given[0]),
        sql="right({field}, length({0})) = {0}",
        meaning="ends with this text",
    ),
    Operator(
        key="less",
        words="<",
        said="is less than",
        types=_AMOUNTS,
        operands=Operands.ONE,
        python=lambda value, given: value < given[0],
        sql="{field} < {0}",
        meaning="is less than",
    ),
    Operator(
        key="at_most",
        words="<=",
        said="is at most",
        types=_AMOUNTS,
        operands=Operands.ONE,
        python=lambda value, given: value <= given[0],
        sql="{field} <= {0}",
        meaning="is at most",
    ),
    Operator(
        key="more",
        words=">",
        said="is more than",
        types=_AMOUNTS,
        operands=Operands.ONE,
        python=lambda value, given: value > given[0],
        sql="{field} > {0}",
        meaning="is more than",
    ),
    Operator(
        key="at_least",
        words=">=",
        said="is at least",
        types=_AMOUNTS,
        operands=Operands.ONE,
        python=lambda value, given: value >= given[0],
        sql="{field} >= {0}",
        meaning="is at least",
    ),
    Operator(
        key="between",
        words="between",
        said="is between",
        types=_AMOUNTS | _DATES,
        operands=Operands.TWO,
        python=lambda value, given: given[0] <= value <= given[1],
        sql="{field} BETWEEN {0} AND {1}",
        meaning="lies between the two, both included",
    ),
    Operator(
        key="before",
        words="before",
        said="is before",
        types=_DATES,
        operands=Operands.ONE,
        python=lambda value, given: value < given[0],
        sql="{field} < {0}",
        meaning="is an earlier day",
    ),
    Operator(
        key="after",
        words="after",
        said="is after",
        types=_DATES,
        operands=Operands.ONE,
        python=lambda value, given: value > given[0],
        sql="{field} > {0}",
        meaning="is a later day",
    ),
    Operator(
        key="on",
        words="on",
        said="is on",
        types=_DATES,
        operands=Operands.ONE,
        python=lambda value, given: bool(value == given[0]),
        sql="{field} = {0}",
        meaning="is that day",
    ),
    Operator(
        key="within_next",
        words="within next",
        said="is within the next",
        types=_DATES,
        operands=Operands.PERIOD,
        python=lambda value, given: given[0] <= value <= given[1],
        sql="{field} BETWEEN {0} AND {1}",
        meaning="lies between today and the end of that time",
    ),
    Operator(
        key="within_last",
        words="within last",
        said="is within the last",
        types=_DATES,
        operands=Operands.PERIOD,
        python=lambda value, given: given[0] <= value <= given[1],
        sql="{field} BETWEEN {0} AND {1}",
        meaning="lies between that time ago and today",
    ),
    Operator(
        key="blank",
        words="is blank",
        said="is blank",
        types=_EVERY,
        operands=Operands.NONE,
        python=lambda value, given: value is None,
        sql="{field} IS NULL",
        meaning="has no value",
        sees_blank=True,
    ),
    Operator(
        key="not_blank",
        words="is not blank",
        said="is not blank",
        types=_EVERY,
        operands=Operands.NONE,
        python=lambda value, given: value is not None,
        sql="{field} IS NOT NULL",
        meaning="has a value",
        sees_blank=True,
    ),
    Operator(
        key="yes",
        words="",
        said="is yes",
        types=frozenset({_T.YES_NO}),
        operands=Operands.NONE,
        python=lambda value, given: value is True,
        sql="{field}",
        meaning="a yes/no field stands alone",
    ),
)

OPERATORS: dict[str, Operator] = {row.key: row for row in _ROWS}

# A number beyond this cannot be a field's value; the bound keeps both back ends exact.
LARGEST_OPERAND = Decimal(10) ** 15

# Fifty years: further than any record of a person looks.
LONGEST_PERIOD = {"days": 18_300, "weeks": 2_600, "months": 600}
