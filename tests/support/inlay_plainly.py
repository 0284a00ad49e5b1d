"""The Inlay's meaning told a second time, as plainly as can be: a walk over the tree for one person, nothing compiled.

What is compiled is held against this. It shares with it how one value is shown, and what a condition says.
"""

from calendar import monthrange
from datetime import date, datetime, timedelta
from decimal import Decimal, DecimalException

from uvarovite.core.contacts import FieldMap, FieldType, Record, Value
from uvarovite.core.expressions import compile_criteria
from uvarovite.core.inlay.formats import DEFAULT_FORMAT, show_value
from uvarovite.core.inlay.tree import (
    PROVIDED,
    Amount,
    Branches,
    Calculation,
    Call,
    Duration,
    Each,
    InlayNode,
    Insert,
    Name,
    Quoted,
    Stretch,
    ValueNode,
)
from uvarovite.core.inlay.values import InlayContext
from uvarovite.core.values import Money


def tell(nodes: tuple[InlayNode, ...], fields: FieldMap, record: Record, context: InlayContext) -> str:
    """What stands there for a person, as plain text."""
    told = ""
    for node in nodes:
        match node:
            case Stretch(text=text):
                told += text
            case Insert():
                value = worked_out(node.value, record, context)
                shown = node.fallback or "" if value is None else _show(value, node.format, node.pattern, context)
                told += shown
            case Branches(arms=arms):
                for arm in arms:
                    if arm.condition is None or compile_criteria(arm.condition, fields)(record, context.clock):
                        told += tell(arm.body, fields, record, context)
                        break
            case Each():
                told += _each(node, fields, record, context)
    return told


def _each(node: Each, fields: FieldMap, record: Record, context: InlayContext) -> str:
    items = record.get(node.listed.name)
    if not isinstance(items, tuple) or not items:
        return tell(node.otherwise, fields, record, context)
    if node.order is not None:
        key = node.order.name
        there = [item for item in items if item.get(key) is not None]
        there.sort(key=lambda item: _in_order(item[key]))
        items = (*there, *(item for item in items if item.get(key) is None))
    parts = {part.key: part for part in fields[node.listed.name].parts}
    within = {**fields, **{f"{node.variable.name}.{key}": part for key, part in parts.items()}}
    told = ""
    for item in items:
        seen = {**record, **{f"{node.variable.name}.{key}": item.get(key) for key in parts}}
        told += tell(node.body, within, seen, context)
    return told


def _in_order(value: object) -> object:
    match value:
        case Money():
            return (value.currency, value.amount)
        case str():
            return value.casefold()
        case _:
            return value


def _show(value: Value, format_: str | None, pattern: str | None, context: InlayContext) -> str:
    type_ = next(
        type_
        for kind, type_ in (
            (str, FieldType.TEXT), (Decimal, FieldType.NUMBER), (Money, FieldType.MONEY),
            (datetime, FieldType.DATE_TIME), (date, FieldType.DATE), (tuple, FieldType.LIST),
        )
        if isinstance(value, kind)
    )  # fmt: skip
    return show_value(value, type_, format_ or DEFAULT_FORMAT[type_], pattern, context.locale, context.clock.now.tzinfo)


def worked_out(node: ValueNode, record: Record, context: InlayContext) -> Value:
    """A value for a person; None where it is blank."""
    match node:
        case Name(name="today") if "today" not in record:
            return context.clock.today
        case Name(name="now") if "now" not in record:
            return context.clock.now
        case Name(name=name):
            return context.provided.get(name) or None if name in PROVIDED else record.get(name)
        case Amount(number=number, currency=currency):
            return number if currency is None else Money(amount=number, currency=currency)
        case Quoted(text=text):
            return text
        case Duration():
            return None
        case Calculation(sign=sign, left=left, right=Duration(period=period)):
            day = worked_out(left, record, context)
            if isinstance(day, datetime):
                day = day.astimezone(context.clock.now.tzinfo).replace(fold=0)
            if not isinstance(day, date):
                return None
            count = period.count if sign == "+" else -period.count
            try:
                if period.unit == "months":
                    return _months_on(day, count)
                return day + (timedelta(weeks=count) if period.unit == "weeks" else timedelta(days=count))
            except (OverflowError, ValueError):
                return None
        case Calculation(sign=sign, left=left, right=right):
            try:
                return _reckoned(sign, worked_out(left, record, context), worked_out(right, record, context))
            except DecimalException:
                return None
        case Call():
            return _called(node, record, context)


def _months_on(day: date, count: int) -> date:
    year, month = divmod(day.year * 12 + day.month - 1 + count, 12)
    return day.replace(year=year, month=month + 1, day=min(day.day, monthrange(year, month + 1)[1]))


def _reckoned(sign: str, left: Value, right: Value) -> Value:
    match left, right:
        case (None, _) | (_, None):
            return None
        case Decimal(), Decimal():
            return {"+": left.__add__, "-": left.__sub__, "*": left.__mul__, "/": left.__truediv__}[sign](right)
        case Money(), Money() if left.currency != right.currency:
            return None
        case Money(), Money() if sign == "/":
            return left.amount / right.amount
        case Money(), Money():
            amount = left.amount + right.amount if sign == "+" else left.amount - right.amount
            return Money(amount=amount, currency=left.currency)
        case Money(), Decimal():
            amount = left.amount * right if sign == "*" else left.amount / right
            return Money(amount=amount, currency=left.currency)
        case Decimal(), Money():
            return Money(amount=left * right.amount, currency=right.currency)
        case date(), date():
            return Decimal((left - right).days)
    raise AssertionError(f"{left} {sign} {right} was not refused")


def _called(node: Call, record: Record, context: InlayContext) -> Value:
    match node.function, node.arguments:
        case "count", (Name(name=name),):
            items = record.get(name)
            return Decimal(len(items) if isinstance(items, tuple) else 0)
        case "sum", (Name(name=name),):
            key, part = name.split(".")
            items = record.get(key)
            values = [item[part] for item in items if item.get(part) is not None] if isinstance(items, tuple) else []
            together: Value = None
            for place, value in enumerate(values):
                together = value if place == 0 else _reckoned("+", together, value)
                if together is None:
                    return None
            return together
        case "join", (Quoted(text=between), *rest):
            values = [worked_out(one, record, context) for one in rest]
            shown = [_show(value, None, None, context) for value in values if value is not None]
            return between.join(text for text in shown if text.strip()) or None
    raise AssertionError(f"{node.function} was not refused")
