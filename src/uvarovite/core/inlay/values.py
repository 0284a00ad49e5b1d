"""What an insert shows: a row for each calculation and each function, with the types that they take and give.

One pass over a value finds what is wrong with it, or gives the closure that works it out for one person. A blank makes a
calculation blank; what cannot be worked out (by nothing divided, a day that no calendar has) is blank, too.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from decimal import Decimal, DecimalException
from typing import Any

from babel import Locale

from uvarovite.core.contacts import Field, FieldMap, FieldType, Record, Value
from uvarovite.core.expressions import Clock, PeriodLiteral
from uvarovite.core.expressions.check import unknown_field
from uvarovite.core.expressions.operators import add_months
from uvarovite.core.inlay.formats import show_plainly
from uvarovite.core.inlay.postal import POSTAL_FIELDS, postal_lines
from uvarovite.core.inlay.tree import PROVIDED, Amount, Calculation, Call, Duration, Name, Quoted, ValueNode
from uvarovite.core.language import Problem, Span, nearest
from uvarovite.core.values import Money


@dataclass(slots=True, kw_only=True)
class InlayContext:
    """What a message knows besides the record: the reader's locale, the clock, and the texts of PROVIDED.

    There is one for each message, and freezing it would take longer than all that is asked of it.
    """

    locale: Locale
    clock: Clock
    provided: Mapping[str, str]


Evaluate = Callable[[Record, InlayContext], Value]


@dataclass(frozen=True, slots=True, kw_only=True)
class Resolved:
    """A value that makes sense: its type, the currency of money, what it is called, and how it is worked out.

    `key` is set for what a field holds, as it is; `period` for `14 days`, which is no value by itself.
    """

    type: FieldType
    label: str
    evaluate: Evaluate
    currency: str | None = None
    key: str | None = None
    period: PeriodLiteral | None = None


_T = FieldType


def resolve(node: ValueNode, fields: FieldMap) -> Resolved | Problem:
    """A value for these fields, or the first thing that is wrong with it. A part of a record is a field `b.walk`."""
    match node:
        case Name():
            return _named(node, fields)
        case Amount(number=number, currency=None):
            return Resolved(type=_T.NUMBER, label=str(number), evaluate=lambda record, context: number)
        case Amount(number=number, currency=currency):
            money = Money(amount=number, currency=str(currency))
            return Resolved(type=_T.MONEY, label=str(number), currency=currency, evaluate=lambda record, context: money)
        case Quoted(text=text):
            return Resolved(type=_T.TEXT, label="a text", evaluate=lambda record, context: text)
        case Duration(period=period):
            return Resolved(type=_T.NUMBER, label="a duration", period=period, evaluate=lambda record, context: None)
        case Calculation():
            return _calculation(node, fields)
        case Call():
            return _call(node, fields)


def _problem(code: str, span: Span, message: str, suggestion: str | None = None) -> Problem:
    return Problem(code=code, span=span, message=message, suggestion=suggestion)


def _named(node: Name, fields: FieldMap) -> Resolved | Problem:
    name, field = node.name, fields.get(node.name)
    if field is not None:
        return Resolved(
            type=field.type,
            label=field.label,
            currency=field.currency,
            key=name,
            evaluate=lambda record, context: record.get(name),
        )
    if name in PROVIDED:
        return Resolved(type=PROVIDED[name], label=name, evaluate=_provided(name))
    if "." not in name:
        return unknown_field(name, node.span, fields)
    parts = [key for key in fields if key.startswith(f"{name.split('.', maxsplit=1)[0]}.")]
    meant = nearest(name, parts or PROVIDED)
    hint = f" Did you mean “{meant}”?" if meant else ""
    return _problem("unknown_field", node.span, f"“{name}” is not provided.{hint}", meant)


def _provided(name: str) -> Evaluate:
    match name:
        case "today":
            return lambda record, context: context.clock.today
        case "now":
            return lambda record, context: context.clock.now
        case _:
            return lambda record, context: context.provided.get(name) or None


# ---------------------------------------------------------------- calculations


def _moved(day: date, period: PeriodLiteral, sign: int) -> date:
    """A day, or an instant by the clock on the wall where it is, so many days, weeks or months on."""
    if period.unit != "months":
        return day + timedelta(days=sign * period.count * (7 if period.unit == "weeks" else 1))
    if isinstance(day, datetime):
        return datetime.combine(add_months(day.date(), sign * period.count), day.timetz())
    return add_months(day, sign * period.count)


def _money(amount: Decimal, like: Money) -> Money:
    return Money(amount=amount, currency=like.currency)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """One calculation: what it takes, what it gives. Money of both sides is of one currency."""

    sign: str
    left: FieldType
    right: FieldType
    gives: FieldType
    work: Callable[[Any, Any], Value]


_RULES = (
    *(
        Rule(sign=sign, left=_T.NUMBER, right=_T.NUMBER, gives=_T.NUMBER, work=work)
        for sign, work in (
            ("+", lambda a, b: a + b), ("-", lambda a, b: a - b), ("*", lambda a, b: a * b), ("/", lambda a, b: a / b),
        )
    ),
    Rule(sign="+", left=_T.MONEY, right=_T.MONEY, gives=_T.MONEY, work=lambda a, b: _money(a.amount + b.amount, a)),
    Rule(sign="-", left=_T.MONEY, right=_T.MONEY, gives=_T.MONEY, work=lambda a, b: _money(a.amount - b.amount, a)),
    Rule(sign="/", left=_T.MONEY, right=_T.MONEY, gives=_T.NUMBER, work=lambda a, b: a.amount / b.amount),
    Rule(sign="*", left=_T.MONEY, right=_T.NUMBER, gives=_T.MONEY, work=lambda a, b: _money(a.amount * b, a)),
    Rule(sign="*", left=_T.NUMBER, right=_T.MONEY, gives=_T.MONEY, work=lambda a, b: _money(a * b.amount, b)),
    Rule(sign="/", left=_T.MONEY, right=_T.NUMBER, gives=_T.MONEY, work=lambda a, b: _money(a.amount / b, a)),
    Rule(sign="-", left=_T.DATE, right=_T.DATE, gives=_T.NUMBER, work=lambda a, b: Decimal((a - b).days)),
)  # fmt: skip
RULES: Mapping[tuple[str, FieldType, FieldType], Rule] = {(row.sign, row.left, row.right): row for row in _RULES}
_NAMES = {
    _T.TEXT: "a text", _T.NUMBER: "a number", _T.MONEY: "money", _T.DATE: "a date", _T.DATE_TIME: "a date and time",
    _T.YES_NO: "yes or no", _T.CHOICE: "a choice", _T.LIST: "a list",
}  # fmt: skip


def _calculation(node: Calculation, fields: FieldMap) -> Resolved | Problem:
    left, right = resolve(node.left, fields), resolve(node.right, fields)
    if isinstance(left, Problem):
        return left
    if isinstance(right, Problem):
        return right
    if right.period is not None:
        return _shifted(node, left, right.period)
    rule = RULES.get((node.sign, left.type, right.type)) if left.period is None else None
    if rule is None:
        said = "a duration" if left.period else _NAMES[left.type]
        message = f"“{node.sign}” cannot reckon with {said} and {_NAMES[right.type]}."
        return _problem("cannot_reckon", node.span, message)
    if left.type is right.type is _T.MONEY and left.currency != right.currency:
        message = (
            f"{left.label} is in {left.currency}, {right.label} in {right.currency}: they are not reckoned together."
        )
        return _problem("other_currency", node.span, message)
    work, first, second = rule.work, left.evaluate, right.evaluate
    same_currency = left.type is right.type is _T.MONEY

    def evaluate(record: Record, context: InlayContext) -> Value:
        one, other = first(record, context), second(record, context)
        if one is None or other is None:
            return None
        if same_currency and one.currency != other.currency:  # type: ignore[union-attr]
            return None  # left from before the field's currency was changed
        try:
            return work(one, other)
        except DecimalException:
            return None

    return Resolved(type=rule.gives, label=left.label, currency=left.currency or right.currency, evaluate=evaluate)


def _shifted(node: Calculation, day: Resolved, period: PeriodLiteral) -> Resolved | Problem:
    if node.sign not in "+-" or day.period is not None or day.type not in (_T.DATE, _T.DATE_TIME):
        message = "Days, weeks and months are added to a date or taken from one: renews_on + 14 days."
        return _problem("cannot_reckon", node.span, message)
    sign, of = (1 if node.sign == "+" else -1), day.evaluate

    def evaluate(record: Record, context: InlayContext) -> Value:
        value = of(record, context)
        if isinstance(value, datetime):
            value = value.astimezone(context.clock.now.tzinfo)
        try:
            return _moved(value, period, sign) if isinstance(value, date) else None
        except (OverflowError, ValueError):
            return None

    return Resolved(type=day.type, label=day.label, evaluate=evaluate)


# ---------------------------------------------------------------- functions


@dataclass(frozen=True, slots=True, kw_only=True)
class Function:
    """One row: `use` is how it is written, `meaning` what it gives."""

    name: str
    use: str
    meaning: str
    resolve: Callable[[Call, FieldMap], Resolved | Problem]


def _call(node: Call, fields: FieldMap) -> Resolved | Problem:
    row = FUNCTIONS.get(node.function)
    if row is None:
        meant = nearest(node.function, FUNCTIONS)
        hint = f" Did you mean “{meant}”?" if meant else f" There are {', '.join(FUNCTIONS)}."
        return _problem("unknown_function", node.name_span, f"There is no “{node.function}( )”.{hint}", meant)
    return row.resolve(node, fields)


def _wrong_use(node: Call) -> Problem:
    return _problem("function_use", node.span, f"Write {FUNCTIONS[node.function].use}.")


def _count(node: Call, fields: FieldMap) -> Resolved | Problem:
    match node.arguments:
        case (Name() as name,):
            listed = resolve(name, fields)
        case _:
            return _wrong_use(node)
    if isinstance(listed, Problem):
        return listed
    if listed.type is not _T.LIST:
        return _problem("no_list", name.span, f"{listed.label} is no list, so there is nothing to count.")
    of = listed.evaluate

    def evaluate(record: Record, context: InlayContext) -> Value:
        items = of(record, context)
        return Decimal(len(items) if isinstance(items, tuple) else 0)

    return Resolved(type=_T.NUMBER, label=listed.label, evaluate=evaluate)


def _sum(node: Call, fields: FieldMap) -> Resolved | Problem:
    match node.arguments:
        case (Name() as name,) if "." in name.name:
            key, part_key = name.name.split(".", 1)
        case _:
            return _wrong_use(node)
    listed = fields.get(key)
    if listed is None or listed.type is not _T.LIST:
        return unknown_field(key, name.span, {one: field for one, field in fields.items() if field.type is _T.LIST})
    part = next((one for one in listed.parts if one.key == part_key), None)
    if part is None:
        meant = nearest(part_key, [one.key for one in listed.parts])
        message = f"{listed.label} has no part “{part_key}”; there are {', '.join(one.key for one in listed.parts)}."
        return _problem("unknown_part", name.span, message, f"{key}.{meant}" if meant else None)
    if part.type not in (_T.NUMBER, _T.MONEY):
        return _problem("cannot_reckon", name.span, f"{part.label} is {_NAMES[part.type]}, which has no sum.")

    def evaluate(record: Record, context: InlayContext) -> Value:
        items = record.get(key)
        together: Decimal | None = None
        currency: str | None = None
        for item in items if isinstance(items, tuple) else ():
            value = item.get(part_key)
            if isinstance(value, Money):
                number, of = value.amount, value.currency
            elif isinstance(value, Decimal):
                number, of = value, None
            else:
                continue
            if together is None:
                together, currency = number, of
            elif of == currency:
                together += number
            else:
                return None  # of two currencies: some are left from before a field was changed
        return together if together is None or currency is None else Money(amount=together, currency=currency)

    return Resolved(type=part.type, label=part.label, currency=part.currency, evaluate=evaluate)


def _join(node: Call, fields: FieldMap) -> Resolved | Problem:
    if len(node.arguments) < 2 or not isinstance(node.arguments[0], Quoted):
        return _wrong_use(node)
    between, parts = node.arguments[0].text, list[Resolved]()
    for argument in node.arguments[1:]:
        part = resolve(argument, fields)
        if isinstance(part, Problem):
            return part
        if part.period is not None or part.type is _T.YES_NO:
            return _problem("cannot_join", argument.span, f"{part.label} has no words of its own to be joined.")
        parts.append(part)

    def evaluate(record: Record, context: InlayContext) -> Value:
        shown = (_plainly(part, record, context) for part in parts)
        return between.join(text for text in shown if text.strip()) or None

    return Resolved(type=_T.TEXT, label=parts[0].label, evaluate=evaluate)


def _plainly(part: Resolved, record: Record, context: InlayContext) -> str:
    value = part.evaluate(record, context)
    return "" if value is None else show_plainly(value, part.type, context.locale, context.clock.now.tzinfo)


def _postal_address(node: Call, fields: FieldMap) -> Resolved | Problem:
    if node.arguments:
        return _wrong_use(node)
    if not any(key in fields for key in POSTAL_FIELDS):
        message = f"No field holds a part of a postal address: their keys would be {', '.join(POSTAL_FIELDS)}."
        return _problem("no_postal_fields", node.span, message)

    def evaluate(record: Record, context: InlayContext) -> Value:
        parts = {key: value for key in POSTAL_FIELDS if isinstance(value := record.get(key), str)}
        return "\n".join(postal_lines(parts, context.locale.territory)) or None

    return Resolved(type=_T.TEXT, label="Postal address", evaluate=evaluate)


_FUNCTIONS = (
    Function(
        name="count",
        use="count(walk_bookings)",
        meaning="how many records a list has; 0 where it has none",
        resolve=_count,
    ),
    Function(
        name="sum",
        use="sum(walk_bookings.price)",
        meaning="a part of all records of a list together; blank where there is none",
        resolve=_sum,
    ),
    Function(
        name="join",
        use='join(", ", town, country)',
        meaning="values with a text between them; a blank one leaves no stray comma",
        resolve=_join,
    ),
    Function(
        name="postal_address",
        use="postal_address()",
        meaning="the postal address in lines, as the country of the message's locale writes it",
        resolve=_postal_address,
    ),
)
FUNCTIONS: Mapping[str, Function] = {row.name: row for row in _FUNCTIONS}


def item_fields(variable: str, listed: Field) -> dict[str, Field]:
    """The parts of a list's records as the fields that they are in what is repeated for each, such as `b.walk`."""
    return {f"{variable}.{part.key}": replace(part, key=f"{variable}.{part.key}") for part in listed.parts}


def as_kept(value: Value) -> str:
    """A value as it is kept, before any format: for whoever asks where words come from; "" for none."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case Money():
            return f"{value.amount} {value.currency}"
        case tuple():
            return "1 record" if len(value) == 1 else f"{len(value)} records"
        case _:
            return str(value)
