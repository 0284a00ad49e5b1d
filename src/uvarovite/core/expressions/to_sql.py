"""The back end for choosing people: a checked tree to one SQL condition over `contact`.

Everything that an author wrote is a bound parameter. Field keys reach the text only after they have matched the
pattern of a key. Every leaf is wrapped so that it is never NULL: the criteria know two truth values.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from uvarovite.core.contacts import Field, FieldMap, FieldType, field_key_problem
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
from uvarovite.core.values import fold


@dataclass(frozen=True, slots=True, kw_only=True)
class SqlFragment:
    """SQL text with `:name` places and their values."""

    text: str
    parameters: Mapping[str, Any]


class _Binder:
    def __init__(self, prefix: str) -> None:
        self._prefix = prefix
        self.parameters: dict[str, Any] = {}

    def bind(self, value: Any, sql_type: str) -> str:
        name = f"{self._prefix}{len(self.parameters)}"
        self.parameters[name] = value
        return f"CAST(:{name} AS {sql_type})"


def criteria_to_sql(
    node: Node, fields: FieldMap, clock: Clock, *, contact: str = "contact", prefix: str = "c"
) -> SqlFragment:
    """A condition over the table alias `contact`. The tree must have passed check_criteria for the same fields.

    The parameters hold the clock's `now` besides, for the gates that stand around the condition.
    """
    binder = _Binder(prefix)
    text = _node(node, fields, clock, contact, binder)
    return SqlFragment(text=text, parameters={**binder.parameters, "now": clock.now})


def _node(node: Node, fields: FieldMap, clock: Clock, contact: str, binder: _Binder) -> str:
    match node:
        case All(children=()):
            return "TRUE"
        case All(children=children):
            return "(" + " AND ".join(_node(child, fields, clock, contact, binder) for child in children) + ")"
        case AnyOf(children=children):
            return "(" + " OR ".join(_node(child, fields, clock, contact, binder) for child in children) + ")"
        case Not(child=child):
            return f"NOT {_node(child, fields, clock, contact, binder)}"
        case Condition():
            return _condition(node, fields[node.field], clock, contact, binder)


def _condition(node: Condition, field: Field, clock: Clock, contact: str, binder: _Binder) -> str:
    operator = OPERATORS[node.operator]
    if operator.sees_blank:
        return f"({operator.sql.format(field=_raw(field, contact))})"
    operands: list[str]
    if node.values and isinstance(period := node.values[0], PeriodLiteral):
        ends = period_ends(period, clock, forward=operator.key == "within_next")
        operands = [binder.bind(day, "date") for day in ends]
    else:
        operands = [_operand(value, binder) for value in node.values]
    typed = _typed(field, contact, node, clock, binder)
    text = operator.sql.format(*operands, field=typed, list=", ".join(operands))
    return f"coalesce({text}, FALSE)"


def _key(field: Field) -> str:
    if field_key_problem(field.key):
        raise ValueError(f"no field key: {field.key!r}")
    return field.key


def _raw(field: Field, contact: str) -> str:
    key = _key(field)
    return f"{contact}.{key}" if field.standard else f"{contact}.values->>'{key}'"


def _typed(field: Field, contact: str, node: Condition, clock: Clock, binder: _Binder) -> str:
    key = _key(field)
    match field.type:
        case FieldType.TEXT | FieldType.CHOICE:
            return f"({contact}.folded->>'{key}')"
        case FieldType.NUMBER:
            return f"CAST({contact}.values->>'{key}' AS numeric)"
        case FieldType.MONEY:
            currency = next(value.currency for value in node.values if isinstance(value, MoneyLiteral))
            same = f"{contact}.values->'{key}'->>'currency' = {binder.bind(currency, 'text')}"
            return f"(CASE WHEN {same} THEN CAST({contact}.values->'{key}'->>'amount' AS numeric) END)"
        case FieldType.DATE:
            return f"CAST({contact}.values->>'{key}' AS date)"
        case FieldType.DATE_TIME:
            zone = binder.bind(str(clock.now.tzinfo), "text")
            return f"CAST(CAST({contact}.values->>'{key}' AS timestamptz) AT TIME ZONE {zone} AS date)"
        case FieldType.LIST:
            raise AssertionError("a list is compared by no operator of this table but blank and not blank")
        case FieldType.YES_NO:
            return f"CAST({contact}.values->>'{key}' AS boolean)"


def _operand(value: Literal, binder: _Binder) -> str:
    match value:
        case TextLiteral(text=text):
            return binder.bind(fold(text), "text")
        case NumberLiteral(number=number):
            return binder.bind(number, "numeric")
        case MoneyLiteral(amount=amount):
            return binder.bind(amount, "numeric")
        case DateLiteral(day=day):
            return binder.bind(day, "date")
        case PeriodLiteral():
            raise AssertionError("a period is no operand of a comparison")
