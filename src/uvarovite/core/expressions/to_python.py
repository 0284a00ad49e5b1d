"""The back end for merging: a checked tree to a closure over one record."""

from collections.abc import Callable, Iterable
from datetime import datetime
from decimal import Decimal
from typing import Any

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.expressions.operators import OPERATORS, Clock, day_of, period_ends
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    Condition,
    DateLiteral,
    Items,
    Literal,
    MoneyLiteral,
    Node,
    Not,
    NowLiteral,
    NumberLiteral,
    PeriodLiteral,
    TextLiteral,
    TodayLiteral,
)
from uvarovite.core.values import Money, fold

Predicate = Callable[[Record, Clock], bool]


def compile_criteria(node: Node, fields: FieldMap) -> Predicate:
    """A function of a record and a clock. The tree must have passed check_criteria for the same fields, without names:
    what asks about more than the record has no answer here.
    """
    match node:
        case Condition():
            return _compile_condition(node)
        case Items(field=key, quantifier=quantifier, child=child):
            holds = compile_criteria(child, {part.key: part for part in fields[key].parts})
            return _compile_items(key, holds, all if quantifier == "every" else any)
        case Not(child=child):
            inner = compile_criteria(child, fields)
            return lambda record, clock: not inner(record, clock)
        case All(children=children):
            every = [compile_criteria(child, fields) for child in children]
            return lambda record, clock: all(test(record, clock) for test in every)
        case AnyOf(children=children):
            some = [compile_criteria(child, fields) for child in children]
            return lambda record, clock: any(test(record, clock) for test in some)
        case _:
            raise AssertionError("history is asked about in SQL alone")


def _compile_items(key: str, holds: Predicate, quantified: Callable[[Iterable[bool]], bool]) -> Predicate:
    def test(record: Record, clock: Clock) -> bool:
        items = record.get(key)
        # Nothing is true of the records of a list that has none.
        return isinstance(items, tuple) and bool(items) and quantified(holds(item, clock) for item in items)

    return test


def _compile_condition(node: Condition) -> Predicate:
    operator, key = OPERATORS[node.operator], node.field
    if operator.sees_blank:
        return lambda record, clock: operator.python(record.get(key), ())
    if node.values and isinstance(period := node.values[0], PeriodLiteral):
        forward = operator.key == "within_next"

        def within(record: Record, clock: Clock) -> bool:
            value = comparable(record.get(key), None, clock)
            return value is not None and operator.python(value, period_ends(period, clock, forward=forward))

        return within
    currency = next((value.currency for value in node.values if isinstance(value, MoneyLiteral)), None)
    if any(isinstance(value, NowLiteral) for value in node.values):
        return lambda record, clock: _is_instant(record.get(key)) and operator.python(record[key], (clock.now,))
    if any(isinstance(value, TodayLiteral) for value in node.values):

        def relative(record: Record, clock: Clock) -> bool:
            value = comparable(record.get(key), None, clock)
            return value is not None and operator.python(value, [_operand(one, clock) for one in node.values])

        return relative
    given = [_operand(value, None) for value in node.values]
    if node.counted:

        def counted(record: Record, clock: Clock) -> bool:
            items = record.get(key)
            return operator.python(Decimal(len(items) if isinstance(items, tuple) else 0), given)

        return counted

    def compare(record: Record, clock: Clock) -> bool:
        value = comparable(record.get(key), currency, clock)
        return value is not None and operator.python(value, given)

    return compare


def _is_instant(value: object) -> bool:
    return isinstance(value, datetime)


def comparable(value: Any, currency: str | None, clock: Clock) -> Any:
    """The value as it is compared: texts folded, an instant as its day in the clock's zone, money as its amount, or None
    when its currency is another."""
    if isinstance(value, str):
        return fold(value)
    if isinstance(value, datetime):
        return value.astimezone(clock.now.tzinfo).date()
    if isinstance(value, Money):
        return value.amount if value.currency == currency else None
    return value


def _operand(value: Literal, clock: Clock | None) -> Any:
    match value:
        case TextLiteral(text=text):
            return fold(text)
        case NumberLiteral(number=number):
            return number
        case MoneyLiteral(amount=amount):
            return amount
        case DateLiteral(day=day):
            return day
        case TodayLiteral() if clock is not None:
            return day_of(value, clock)
        case _:
            raise AssertionError("a period is no operand of a comparison, and today needs a clock")
