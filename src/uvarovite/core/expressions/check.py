"""Does a tree make sense for these fields? Every fault with its place and what would do."""

from collections.abc import Iterator

from uvarovite.core.contacts import Field, FieldMap, FieldType
from uvarovite.core.expressions.names import Names, circle_through
from uvarovite.core.expressions.operators import LONGEST_PERIOD, OPERATORS, Operands, Operator
from uvarovite.core.expressions.subjects import NAME_KINDS, SUBJECTS, NameKind
from uvarovite.core.expressions.tree import (
    About,
    All,
    AnyOf,
    ChosenBySql,
    Condition,
    DateLiteral,
    History,
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
    TextLiteral,
    TodayLiteral,
)
from uvarovite.core.language import Problem, Span, nearest
from uvarovite.core.values import fold

_NOWHERE = Span(start=0, end=0)
_TYPE_WORDS = {
    FieldType.TEXT: 'a text, such as "Skarn"',
    FieldType.CHOICE: "one of its choices",
    FieldType.NUMBER: "a number, such as 12",
    FieldType.DATE: "a day, such as 2026-05-31 or today + 2 weeks",
    FieldType.DATE_TIME: "a day, such as 2026-05-31 or today - 3 days",
    FieldType.YES_NO: "nothing: it stands alone",
}


def check_criteria(node: Node, fields: FieldMap, names: Names | None = None) -> list[Problem]:
    """All problems of a tree, in the order of the text; none means that the back ends can run it.

    Without `names` what asks about more than the record is a problem: a message's conditions see the record alone.
    """
    return list(_check(node, fields, names))


def _check(node: Node, fields: FieldMap, names: Names | None) -> Iterator[Problem]:
    match node:
        case All(children=children) | AnyOf(children=children):
            for child in children:
                yield from _check(child, fields, names)
        case Not(child=child):
            yield from _check(child, fields, names)
        case Items():
            yield from _check_items(node, fields)
        case Condition():
            yield from _check_condition(node, fields)
        case _ if names is None:
            message = "This asks about more than the record; it goes into an audience's criteria, not into a message."
            yield Problem(code="only_criteria", span=node.span or _NOWHERE, message=message)
        case _:
            yield from _check_about(node, fields, names)


def _check_items(node: Items, fields: FieldMap) -> Iterator[Problem]:
    span = node.field_span or node.span or _NOWHERE
    field = fields.get(node.field)
    if field is None:
        yield unknown_field(node.field, span, {key: one for key, one in fields.items() if one.type is FieldType.LIST})
    elif field.type is not FieldType.LIST:
        message = f"{field.label} is not a list: “{node.quantifier}” and “count” go with lists."
        yield Problem(code="no_list", span=span, message=message)
    elif isinstance(node.child, All) and not node.child.children:
        yield Problem(code="empty", span=node.span or span, message=f"What is to hold for {field.label} is missing.")
    else:
        # Within the brackets the parts are the fields, and there is nothing else.
        yield from _check(node.child, {part.key: part for part in field.parts}, None)


def _check_about(node: About, fields: FieldMap, names: Names) -> Iterator[Problem]:
    span = node.span or _NOWHERE
    match node:
        case InAudience(audience=name):
            yield from _check_audience(name, fields, names, span)
            return
        case ChosenBySql(sql=sql):
            fault = names.choose(sql) if names.choose is not None else "SQL by hand cannot be used here."
            if fault is not None:
                yield Problem(code="sql", span=span, message=fault)
            return
    row = SUBJECTS[node.kind]
    named = row.name(node)
    if row.names is not None and named is not None:
        yield from _known(row.names, named, names, span)
    match node:
        case Subscribed(since=since, as_of=as_of):
            for day in (since, as_of):
                if isinstance(day, TodayLiteral):
                    yield from _check_period(day, day.span or span)
        case History(within=PeriodLiteral() as within):
            yield from _check_period(within, within.span or span)


def _check_audience(name: str, fields: FieldMap, names: Names, span: Span) -> Iterator[Problem]:
    circle = circle_through(name, names)
    if circle is not None:
        way = " → ".join(f"“{one}”" for one in circle)
        yield Problem(code="circle", span=span, message=f"An audience cannot be in itself: {way}.")
        return
    found = names.audiences.get(fold(name))
    if found is None:
        yield from _known(NameKind.AUDIENCE, name, names, span)
        return
    fault = next(iter(check_criteria(found.node, fields, names)), None)
    if fault is not None:
        message = f"The audience “{found.name}” cannot be used as it is: {fault.message}"
        yield Problem(code="faulty_audience", span=span, message=message)


def _known(kind: NameKind, name: str, names: Names, span: Span) -> Iterator[Problem]:
    known = NAME_KINDS[kind].known(names)
    if fold(name) in known:
        return
    meant = nearest(name, known.values())
    hint = f" Did you mean “{meant}”?" if meant else ""
    # What is between the quotes is what a suggestion replaces, and the quotes close the span.
    yield Problem(code="no_such_name", span=span, message=f"There is no {NAME_KINDS[kind].missing} “{name}”.{hint}")


def _check_period(period: PeriodLiteral | TodayLiteral, span: Span) -> Iterator[Problem]:
    if abs(period.count) > LONGEST_PERIOD[period.unit] or (isinstance(period, PeriodLiteral) and period.count < 0):
        message = f"At most {LONGEST_PERIOD[period.unit]:,} {period.unit}."
        yield Problem(code="period", span=span, message=message)


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
        yield Problem(code="unknown_operator", span=span, message=f"“{node.operator}” is not a comparison.")
        return
    if node.counted:
        if field.type is not FieldType.LIST:
            yield Problem(code="no_list", span=span, message=f"{field.label} is not a list: “count” goes with lists.")
            return
        # How many there are is a number like any other, and never blank.
        field = Field(key=field.key, label=f"The count of {field.label}", type=FieldType.NUMBER)
        if operator.sees_blank:
            yield Problem(code="operator_type", span=span, message="A count is never blank: compare it with 0.")
            return
    if field.type not in operator.types:
        if field.type is FieldType.LIST:
            message = f"{field.label} is a list: write “any {node.field} (…)”, “every {node.field} (…)” or “count({node.field}) > 0”."
        elif operator.key == "yes":
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
        elif isinstance(value, PeriodLiteral):
            yield from _check_period(value, value.span or span)
        else:
            yield from _check_value(field, operator, value, value.span or span)


def _check_value(field: Field, operator: Operator, value: Literal, span: Span) -> Iterator[Problem]:
    match field.type, value:
        case (FieldType.DATE | FieldType.DATE_TIME, TodayLiteral()):
            yield from _check_period(value, span)
        case (FieldType.DATE_TIME, NowLiteral()):
            if operator.key not in ("before", "after"):
                yield Problem(code="now", span=span, message="“now” goes with before and after; a day is “today”.")
        case (FieldType.DATE, NowLiteral()):
            yield Problem(code="now", span=span, message=f"{field.label} is a day: write “today”.", suggestion="today")
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
        case (FieldType.TEXT | FieldType.CHOICE, TextLiteral(text=text)) if not text.strip():
            message = f"{field.label} is compared with nothing. Type a value, or write “{field.key} is blank”."
            yield Problem(code="no_value", span=span, message=message)
        case (FieldType.CHOICE, TextLiteral(text=text)):
            # A part of a text need not be a whole choice.
            if operator.operands is Operands.ONE and operator.key not in ("is", "is_not"):
                return
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
