"""A tree to its text: the one way of writing it, so that parsing the text gives the tree again."""

from decimal import Decimal

from uvarovite.core.expressions.operators import OPERATORS, Operands
from uvarovite.core.expressions.subjects import SUBJECTS
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    ChosenBySql,
    Condition,
    DateLiteral,
    History,
    Imported,
    InAudience,
    Items,
    Literal,
    MoneyLiteral,
    Node,
    Not,
    NowLiteral,
    NumberLiteral,
    PeriodLiteral,
    Subscribed,
    Tagged,
    TextLiteral,
    TodayLiteral,
)


def print_criteria(node: Node) -> str:
    """The text of a tree. A group of one child prints as the child."""
    match node:
        case Condition():
            return _condition(node)
        case Items(field=field, quantifier=quantifier, child=child):
            return f"{quantifier} {field} ({print_criteria(child)})"
        case Subscribed(topic=topic, since=since, as_of=as_of):
            when = f" since {_literal(since)}" if since is not None else ""
            return f"subscribed to {quoted(topic)}{when}" + (f" as of {_literal(as_of)}" if as_of is not None else "")
        case History(event=event, campaign=campaign, within=within, never=never):
            words = [*(["never"] if never else []), event]
            words += [f"campaign {quoted(campaign)}"] if campaign is not None else []
            words += [f"within last {_literal(within)}"] if within is not None else []
            return " ".join(words)
        case ChosenBySql(sql=sql):
            return f"{SUBJECTS[node.kind].words} {quoted(sql)}"
        case Imported() | InAudience() | Tagged():
            row = SUBJECTS[node.kind]
            return f"{row.words} {quoted(row.name(node) or '')}"
        case Not(child=child):
            inner = print_criteria(child)
            return f"not ({inner})" if isinstance(child, All | AnyOf) else f"not {inner}"
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
    asked = f"count({node.field})" if node.counted else node.field
    head = f"{asked} {operator.words}".rstrip()
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
            return quoted(text)
        case NumberLiteral(number=number):
            return _number(number)
        case MoneyLiteral(amount=amount, currency=currency):
            return f"{_number(amount)} {currency}"
        case DateLiteral(day=day):
            return day.isoformat()
        case PeriodLiteral(count=count, unit=unit):
            return f"{count} {unit if count != 1 else unit[:-1]}"
        case TodayLiteral(count=0):
            return "today"
        case TodayLiteral(count=count, unit=unit):
            sign = "+" if count > 0 else "-"
            return f"today {sign} {abs(count)} {unit if abs(count) != 1 else unit[:-1]}"
        case NowLiteral():
            return "now"


def quoted(text: str) -> str:
    """A text as it stands in criteria."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return f'"{escaped}"'
