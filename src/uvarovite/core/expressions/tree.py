"""The tree of the criteria: what is stored, what the row editor edits, what both back ends read.

Spans tell where a node stood in the text; they are neither stored nor compared. Stored trees carry a version, so that
a later vocabulary can still read them.
"""

import dataclasses
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated, Any
from typing import Literal as Tag

import pydantic

from uvarovite.core.language import Span

VERSION = 1

At = Annotated[Span | None, pydantic.Field(exclude=True)]


@dataclass(frozen=True, slots=True, kw_only=True)
class TextLiteral:
    """A text between quotes; also the value of a choice."""

    text: str
    kind: Tag["text"] = "text"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberLiteral:
    """A plain number."""

    number: Decimal
    kind: Tag["number"] = "number"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneyLiteral:
    """An amount with its currency's ISO 4217 code."""

    amount: Decimal
    currency: str
    kind: Tag["money"] = "money"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class DateLiteral:
    """A calendar day."""

    day: date
    kind: Tag["date"] = "date"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class PeriodLiteral:
    """A count of days, weeks or months, for `within`."""

    count: int
    unit: Tag["days", "weeks", "months"]
    kind: Tag["period"] = "period"
    span: At = dataclasses.field(default=None, compare=False)


Literal = Annotated[
    TextLiteral | NumberLiteral | MoneyLiteral | DateLiteral | PeriodLiteral,
    pydantic.Field(discriminator="kind"),
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One question about one field. `operator` is a key of the operator table; `values` are its operands."""

    field: str
    operator: str
    values: tuple[Literal, ...] = ()
    kind: Tag["condition"] = "condition"
    span: At = dataclasses.field(default=None, compare=False)
    field_span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class All:
    """True when every child is. With no children it is `everyone`."""

    children: tuple["Node", ...]
    kind: Tag["all"] = "all"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnyOf:
    """True when at least one child is. It always has children."""

    children: Annotated[tuple["Node", ...], pydantic.Field(min_length=1)]
    kind: Tag["any"] = "any"


@dataclass(frozen=True, slots=True, kw_only=True)
class Not:
    """True when its child is false."""

    child: "Node"
    kind: Tag["not"] = "not"


Node = Annotated[Condition | All | AnyOf | Not, pydantic.Field(discriminator="kind")]

_ADAPTER: pydantic.TypeAdapter[Condition | All | AnyOf | Not] = pydantic.TypeAdapter(Node)


def node_to_json(node: Node) -> dict[str, Any]:
    """The stored form: {"version": 1, "tree": ...}."""
    return {"version": VERSION, "tree": _ADAPTER.dump_python(node, mode="json")}


def node_from_json(stored: dict[str, Any]) -> Node:
    """Read the stored form. Raises ValueError when it is none, or of a later version."""
    if stored.get("version") != VERSION:
        raise ValueError(f"criteria of version {stored.get('version')!r} cannot be read")
    return _ADAPTER.validate_python(stored.get("tree"))
