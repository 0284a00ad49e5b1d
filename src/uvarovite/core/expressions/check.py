"""Does a tree make sense for these fields? Every fault with its place and what would do."""

from collections.abc import Iterator

from uvarovite.core.contacts import Field, FieldMap, FieldType
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
from uvarovite.core.language import Problem, Span, nearest
from uvarovite.core.values import fold

_NOWHERE = Span(start=0, end=0)
_TYPE_WORDS = {
    FieldType.TEXT: 'a text, such as "Skarn"',
    FieldType.CHOICE: "one of its choices",
    FieldType.NUMBER: "a number, such as 12",
    FieldType.DATE: "a day, such as 2026-05-31",
    FieldType.DATE_TIME: "a day, such as 2026-05-31",
    FieldType.LIST: "nothing; ask whether it is blank",
    FieldType.YES_NO: "nothing: it stands alone",
}


def check_criteria(node: Node, fields: FieldMap) -> list[Problem]:
    """All problems of a tree, in the order of the text; none means that both back ends can run it."""
    return list(_check(node, fields))


def _check(node: Node, fields: FieldMap) -> Iterator[Problem]:
    match node:
        case All(children=children) | AnyOf(children=children):
            for child in children:
                yield from _check(child, fields)
        case Not(child=child):
            yield from _check(child, fields)
        case Condition():
            yield from _check_condition(node, fields)


def unknown_field(name: str, span: Span, fields: FieldMap) -> Problem:
    """The problem of a name that is no field, with the field that was probably meant."""
    meant = nearest(name, fields) or nearest(name, {field.label: 0 for field in fields.values()})
    meant = next((key for key, field in fields.items() if meant in (key, field.label)), None)
    hint = f" Did you mean “{meant}”?" if meant else ""
    return Problem(code="unknown_field", span=span, message=f"There is no field “{name}”.{hint}", suggestion=meant)


def _check_condition(node: Condition, fields: FieldMap) -> Iterator[Problem]:
    span = node.span or _NOWHERE
    field = fields.get(node.field)
    if field is None:
        yield unknown_field(node.field, node.field_span or span, fields)
        return
    operator = OPERATORS.get(node.operator)
    if operator is None:
        yield Problem(code="unknown_operator", span=span, message=f"There is no operator “{node.operator}”.")
        return
    if field.type not in operator.types:
        if operator.key == "yes":
            message = f"“{node.field}” needs a comparison, such as “{node.field} is …” or “{node.field} is blank”."
        else:
            able = [row.words for row in OPERATORS.values() if field.type in row.types and row.words]
            message = f"“{operator.words}” does not go with {field.label}; these do: {', '.join(able)}."
            if field.type is FieldType.YES_NO:
                message = f"{field.label} is yes or no: write “{node.field}” or “not {node.field}”."
        yield Problem(code="operator_type", span=span, message=message)
        return
    counts = {Operands.NONE: 0, Operands.ONE: 1, Operands.TWO: 2, Operands.PERIOD: 1}
    wanted = counts.get(operator.operands, max(1, len(node.values)))
    if len(node.values) != wanted:
        yield Problem(code="operands", span=span, message=f"“{operator.words}” takes {wanted} values here.")
        return
    for value in node.values:
        if isinstance(value, PeriodLiteral) != (operator.operands is Operands.PERIOD):
            yield Problem(code="value_type", span=value.span or span, message="A time span goes with “within” only.")
        elif not isinstance(value, PeriodLiteral):
            yield from _check_value(field, value, value.span or span)


def _check_value(field: Field, value: Literal, span: Span) -> Iterator[Problem]:
    match field.type, value:
        case (FieldType.MONEY, MoneyLiteral(currency=currency)):
            if currency != field.currency:
                yield Problem(
                    code="currency",
                    span=span,
                    message=f"{field.label} is kept in {field.currency}, not in {currency}.",
                )
        case (FieldType.MONEY, NumberLiteral(number=number)):
            yield Problem(
                code="no_currency",
                span=span,
                message=f"{field.label} is money: write {number} {field.currency}.",
                suggestion=f"{number} {field.currency}",
            )
        case (FieldType.CHOICE, TextLiteral(text=text)):
            if field.choices and fold(text) not in {fold(choice) for choice in field.choices}:
                meant = nearest(text, field.choices)
                hint = f" Did you mean “{meant}”?" if meant else ""
                yield Problem(
                    code="no_such_choice",
                    span=span,
                    message=f"{field.label} is never “{text}”; it is {', '.join(field.choices)} or blank.{hint}",
                    suggestion=f'"{meant}"' if meant else None,
                )
        case (
            (FieldType.TEXT, TextLiteral())
            | (FieldType.NUMBER, NumberLiteral())
            | (FieldType.DATE | FieldType.DATE_TIME, DateLiteral())
        ):
            return
        case _:
            wanted = _TYPE_WORDS.get(field.type, f"an amount, such as 50 {field.currency}")
            yield Problem(code="value_type", span=span, message=f"{field.label} is compared with {wanted}.")
