"""What an Inlay text consists of."""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

from uvarovite.core.contacts import FieldType
from uvarovite.core.expressions import Node, PeriodLiteral
from uvarovite.core.language import Span

# What every message can insert besides the person's own fields.
PROVIDED: dict[str, FieldType] = {
    "today": FieldType.DATE,
    "now": FieldType.DATE_TIME,
    "organisation.name": FieldType.TEXT,
    "organisation.address": FieldType.TEXT,
    "sender.name": FieldType.TEXT,
    "sender.signature": FieldType.TEXT,
    "topic.name": FieldType.TEXT,
    "unsubscribe_link": FieldType.TEXT,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Text that is the same for everyone."""

    text: str
    span: Span


# What the application puts where somebody has still to type: never sent.
UNFINISHED = "…"


@dataclass(frozen=True, slots=True, kw_only=True)
class Name:
    """A field, a part of a list's record (`b.walk`), or what is provided."""

    name: str
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Amount:
    """A number as it is written, with its currency where it is money."""

    number: Decimal
    currency: str | None
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Quoted:
    """A text between quotes."""

    text: str
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Duration:
    """`14 days`."""

    period: PeriodLiteral
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Calculation:
    """`left sign right`; the sign is one of + - * /."""

    sign: str
    left: "ValueNode"
    right: "ValueNode"
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """`count(walk_bookings)`: one of FUNCTIONS with what stands between its brackets."""

    function: str
    arguments: tuple["ValueNode", ...]
    span: Span
    name_span: Span


ValueNode = Name | Amount | Quoted | Duration | Calculation | Call


@dataclass(frozen=True, slots=True, kw_only=True)
class Insert:
    """`@{value as format "pattern" else "fallback"}`."""

    value: ValueNode
    span: Span
    format: str | None = None
    format_span: Span | None = None
    pattern: str | None = None
    fallback: str | None = None

    @property
    def name(self) -> str:
        """What it is called where it is marked: the field, or the first one of a calculation."""
        return next(names_in(self.value), "")


@dataclass(frozen=True, slots=True, kw_only=True)
class Arm:
    """One branch; `condition` is None for the last, `@{else}`. `span` is that of its `@{if …}`, `@{elif …}` or `@{else}`."""

    condition: Node | None
    body: tuple["InlayNode", ...]
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Branches:
    """`@{if …} … @{elif …} … @{else} … @{end}`."""

    arms: tuple[Arm, ...]
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Each:
    """`@{each variable in list by part} … @{else} … @{end}`; what stands behind `else` is for whoever has none."""

    variable: Name
    listed: Name
    order: Name | None
    body: tuple["InlayNode", ...]
    otherwise: tuple["InlayNode", ...]
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """`@{# for colleagues}`; never sent."""

    text: str
    span: Span


InlayNode = Stretch | Insert | Branches | Each | Note


def names_in(value: ValueNode) -> Iterator[str]:
    """Every field, part and provided name that a value is made of, in order."""
    match value:
        case Name(name=name):
            yield name
        case Calculation(left=left, right=right):
            yield from names_in(left)
            yield from names_in(right)
        case Call(arguments=arguments):
            for argument in arguments:
                yield from names_in(argument)


def blank_without(value: ValueNode) -> Iterator[str]:
    """The names of which each makes the value blank where it is blank itself; a function can do without."""
    if isinstance(value, Name):
        yield value.name
    elif isinstance(value, Calculation):
        yield from blank_without(value.left)
        yield from blank_without(value.right)


def inserts(nodes: tuple[InlayNode, ...], *, always: bool = False) -> Iterator[Insert]:
    """Every insert, in order; with `always` only those that no condition and no list can keep out."""
    for node in nodes:
        if isinstance(node, Insert):
            yield node
        elif isinstance(node, Branches) and not always:
            for arm in node.arms:
                yield from inserts(arm.body)
        elif isinstance(node, Each) and not always:
            yield from inserts(node.body)
            yield from inserts(node.otherwise)
