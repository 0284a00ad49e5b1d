"""A tree to its text: the one way of writing it, so that parsing the text gives the tree again."""

from decimal import Decimal

from uvarovite.core.expressions.operators import OPERATORS, Operands
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


def print_criteria(node: Node) -> str:
    """The text of a tree. A group of one child prints as the child."""
    match node:
        case Condition():
            return _condition(node)
        case Not(child=child):
            inner = print_criteria(child)
            return f"not {inner}" if isinstance(child, Condition | Not) else f"not ({inner})"
        case All(children=()):
            return "everyone"
        case All(children=children):
            return " and ".join(_inside(child) for child in children)
        case AnyOf(children=children):
            return " or ".join(_inside(child) for child in children)


def _inside(child: Node) -> str:
    text = print_criteria(child)
    return f"({text})" if isinstance(child, All | AnyOf) and len(child.children) > 1 else text


def _condition(node: Condition) -> str:
    operator = OPERATORS[node.operator]
    head = f"{node.field} {operator.words}".rstrip()
    values = [_literal(value) for value in node.values]
    match operator.operands:
        case Operands.NONE:
            return head
        case Operands.LIST:
            return f"{head} ({', '.join(values)})"
        case Operands.TWO:
            return f"{head} {values[0]} and {values[1]}"
        case _:
            return f"{head} {values[0]}"


def _number(number: Decimal) -> str:
    return format(number, "f")


def _literal(value: Literal) -> str:
    match value:
        case TextLiteral(text=text):
            escaped = text.replace("\\", "\\\\").replace('"', '\\"')
            return f'"{escaped}"'
        case NumberLiteral(number=number):
            return _number(number)
        case MoneyLiteral(amount=amount, currency=currency):
            return f"{_number(amount)} {currency}"
        case DateLiteral(day=day):
            return day.isoformat()
        case PeriodLiteral(count=count, unit=unit):
            return f"{count} {unit if count != 1 else unit[:-1]}"
