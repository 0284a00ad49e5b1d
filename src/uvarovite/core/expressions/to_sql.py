"""The back end for choosing people: a checked tree to one SQL condition over `contact`.

What is asked of other tables than the contact's is SQL that the store gives (TableSql).

Everything that an author wrote is a bound parameter. Field keys reach the text only after they have matched the
pattern of a key. Every leaf is wrapped so that it is never NULL: the criteria know two truth values.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Protocol

from uvarovite.core.contacts import Field, FieldMap, FieldType, field_key_problem
from uvarovite.core.expressions.names import NO_NAMES, Names
from uvarovite.core.expressions.operators import OPERATORS, Clock, day_of, period_ends
from uvarovite.core.expressions.sql import Binder, SqlFragment
from uvarovite.core.expressions.tree import (
    About,
    All,
    AnyOf,
    Condition,
    DateLiteral,
    InAudience,
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
from uvarovite.core.values import fold


@dataclass(frozen=True, slots=True, kw_only=True)
class _Scope:
    """Where values are read: in a contact, or in one record of a list. All three are SQL prefixes of a key."""

    fields: FieldMap
    contact: str
    # The JSON of a value, its text, and the folded form of a text.
    json: str
    folded: str
    within_item: bool = False


class AboutSql(Protocol):
    """The SQL of a node that asks about more than the record."""

    def __call__(self, node: About, contact: str, clock: Clock, names: Names, binder: Binder, *, joined: bool) -> str:
        """A condition over the alias `contact`, never NULL. What is named must be in `names`.

        `joined`: it stands where the database can join it, alone or beside `and`.
        """


@dataclass(frozen=True, slots=True, kw_only=True)
class TableSql:
    """What criteria ask of other tables than the contact's.

    `in_audience` makes of an audience's conditions, its id, the alias `contact` and a binder that somebody is in it;
    `in_snapshot` does so for a frozen one. `kept_elsewhere` has, by its key, the value of a field that can only be
    asked for, with a place for the alias: `{contact}`.
    """

    about: AboutSql
    in_audience: Callable[[str, int, str, Binder], str]
    in_snapshot: Callable[[int, str, Binder], str]
    kept_elsewhere: Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Maker:
    """What every step of the way needs."""

    clock: Clock
    names: Names
    binder: Binder
    tables: TableSql


def criteria_to_sql(
    node: Node,
    fields: FieldMap,
    clock: Clock,
    names: Names = NO_NAMES,
    *,
    tables: TableSql,
    contact: str = "contact",
    prefix: str = "c",
) -> SqlFragment:
    """A condition over the table alias `contact`. The tree must have passed check_criteria for the same arguments.

    The parameters hold the clock's `now` besides, for the gates that stand around the condition.
    """
    maker = _Maker(clock=clock, names=names, binder=Binder(prefix), tables=tables)
    text = _node(node, _of_contact(fields, contact), maker, joined=True)
    return SqlFragment(text=text, parameters={**maker.binder.parameters, "now": clock.now})


def _of_contact(fields: FieldMap, contact: str) -> _Scope:
    return _Scope(fields=fields, contact=contact, json=f"{contact}.own->", folded=f"{contact}.folded->>")


def _node(node: Node, scope: _Scope, maker: _Maker, *, joined: bool = False) -> str:
    """The condition of a node; `joined` while nothing but `and` stands around it."""
    match node:
        case All(children=()):
            return "TRUE"
        case All(children=children):
            return "(" + " AND ".join(_node(child, scope, maker, joined=joined) for child in children) + ")"
        case AnyOf(children=children):
            return "(" + " OR ".join(_node(child, scope, maker) for child in children) + ")"
        case Not(child=child):
            return f"NOT {_node(child, scope, maker)}"
        case Condition():
            return _condition(node, scope.fields[node.field], scope, maker)
        case Items():
            return _items(node, scope, maker)
        case InAudience(audience=name):
            found = maker.names.audiences[fold(name)]
            if found.frozen:
                inner = maker.tables.in_snapshot(found.id, scope.contact, maker.binder)
            else:
                inner = _node(found.node, scope, maker)
            if found.narrowed is not None:
                part = found.narrowed(SqlFragment(text=inner, parameters={}))
                maker.binder.parameters.update(part.parameters)
                inner = part.text
            return maker.tables.in_audience(inner, found.id, scope.contact, maker.binder)
        case _:
            return maker.tables.about(node, scope.contact, maker.clock, maker.names, maker.binder, joined=joined)


def _items(node: Items, scope: _Scope, maker: _Maker) -> str:
    key = _key(scope.fields[node.field])
    parts = {part.key: part for part in scope.fields[node.field].parts}
    inner = _Scope(
        fields=parts,
        contact=scope.contact,
        json="item.value->",
        # The folded texts of a record stand at the record's own place.
        folded=f"{scope.folded.removesuffix('>')}'{key}'->(CAST(item.place AS integer) - 1)->>",
        within_item=True,
    )
    holds = _node(node.child, inner, maker)
    # A value from before a field became a list is no array.
    items = f"CASE jsonb_typeof({scope.json}'{key}') WHEN 'array' THEN {scope.json}'{key}' ELSE '[]' END"
    records = f"FROM jsonb_array_elements({items}) WITH ORDINALITY AS item(value, place)"
    if node.quantifier == "any":
        return f"EXISTS (SELECT {records} WHERE {holds})"
    return f"coalesce((SELECT bool_and({holds}) {records}), FALSE)"


def _condition(node: Condition, field: Field, scope: _Scope, maker: _Maker) -> str:
    operator = OPERATORS[node.operator]
    if operator.sees_blank:
        return f"({operator.sql.format(field=_raw(field, scope, maker))})"
    operands: list[str]
    if node.values and isinstance(period := node.values[0], PeriodLiteral):
        ends = period_ends(period, maker.clock, forward=operator.key == "within_next")
        operands = [maker.binder.bind(day, "date") for day in ends]
    else:
        operands = [_operand(value, maker) for value in node.values]
    typed = _count(field, scope) if node.counted else _typed(field, node, scope, maker)
    text = operator.sql.format(*operands, field=typed, list=", ".join(operands))
    return f"coalesce({text}, FALSE)"


def _key(field: Field) -> str:
    if not field.asked_only and field_key_problem(field.key):
        raise ValueError(f"no field key: {field.key!r}")
    return field.key


def _count(field: Field, scope: _Scope) -> str:
    items = f"{scope.json}'{_key(field)}'"
    return f"CASE jsonb_typeof({items}) WHEN 'array' THEN jsonb_array_length({items}) ELSE 0 END"


def _raw(field: Field, scope: _Scope, maker: _Maker) -> str:
    key = _key(field)
    if field.asked_only:
        return maker.tables.kept_elsewhere[key].format(contact=scope.contact)
    if field.standard and not scope.within_item:
        return f"{scope.contact}.{key}"
    return f"{scope.json}>'{key}'"


def _typed(field: Field, node: Condition, scope: _Scope, maker: _Maker) -> str:
    key, raw = _key(field), _raw(field, scope, maker)
    match field.type:
        case _ if field.asked_only:
            # These are compared as they are kept: in lower case.
            return raw
        case FieldType.TEXT | FieldType.CHOICE:
            return f"({scope.folded}'{key}')"
        case FieldType.NUMBER:
            return f"CAST({raw} AS numeric)"
        case FieldType.MONEY:
            currency = next(value.currency for value in node.values if isinstance(value, MoneyLiteral))
            same = f"{scope.json}'{key}'->>'currency' = {maker.binder.bind(currency, 'text')}"
            return f"(CASE WHEN {same} THEN CAST({scope.json}'{key}'->>'amount' AS numeric) END)"
        case FieldType.DATE:
            return f"CAST({raw} AS date)"
        case FieldType.DATE_TIME if any(isinstance(value, NowLiteral) for value in node.values):
            return f"CAST({raw} AS timestamptz)"
        case FieldType.DATE_TIME:
            zone = maker.binder.bind(str(maker.clock.now.tzinfo), "text")
            return f"CAST(CAST({raw} AS timestamptz) AT TIME ZONE {zone} AS date)"
        case FieldType.LIST:
            raise AssertionError("a list is compared by no operator of this table but blank and not blank")
        case FieldType.YES_NO:
            return f"CAST({raw} AS boolean)"


def _operand(value: Literal, maker: _Maker) -> str:
    bind = maker.binder.bind
    match value:
        case TextLiteral(text=text):
            return bind(fold(text), "text")
        case NumberLiteral(number=number):
            return bind(number, "numeric")
        case MoneyLiteral(amount=amount):
            return bind(amount, "numeric")
        case DateLiteral(day=day):
            return bind(day, "date")
        case TodayLiteral():
            return bind(day_of(value, maker.clock), "date")
        case NowLiteral():
            return bind(maker.clock.now, "timestamptz")
        case PeriodLiteral():
            raise AssertionError("a period is no operand of a comparison")
