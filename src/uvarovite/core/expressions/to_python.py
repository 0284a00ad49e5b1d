"""The back end for merging: a checked tree to a closure over one record."""

from collections.abc import Callable
from datetime import datetime
from typing import Any

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.expressions.operators import OPERATORS, Clock, period_ends
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    Condition,
    DateLiteral,
    Literal,
    MoneyLiteral,
    Node,
    Not,
    NumberLiteral,
    PeriodLiteral,
    TextLiteral,
)
from uvarovite.core.values import Money, fold

Predicate = Callable[[Record, Clock], bool]


def compile_criteria(node: Node, fields: FieldMap) -> Predicate:
    """A function of a record and a clock. The tree must have passed check_criteria for the same fields."""
    match node:
        case Condition():
            return _compile_condition(node)
        case Not(child=child):
            inner = compile_criteria(child, fields)
            return lambda record, clock: not inner(record, clock)
        case All(children=children):
            every = [compile_criteria(child, fields) for child in children]
            return lambda record, clock: all(test(record, clock) for test in every)
        case AnyOf(children=children):
            some = [compile_criteria(child, fields) for child in children]
            return lambda record, clock: any(test(record, clock) for test in some)


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
    given = [_operand(value) for value in node.values]
    currency = next((value.currency for value in node.values if isinstance(value, MoneyLiteral)), None)

    def compare(record: Record, clock: Clock) -> bool:
        value = comparable(record.get(key), currency, clock)
        return value is not None and operator.python(value, given)

    return compare


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


def _operand(value: Literal) -> Any:
    match value:
        case TextLiteral(text=text):
            return fold(text)
        case NumberLiteral(number=number):
            return number
        case MoneyLiteral(amount=amount):
            return amount
        case DateLiteral(day=day):
            return day
        case PeriodLiteral():
            raise AssertionError("a period is no operand of a comparison")
