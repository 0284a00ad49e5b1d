"""The tree of the criteria: what is stored, what the row editor edits, what both back ends read.

Spans tell where a node stood in the text; they are neither stored nor compared.
"""

import dataclasses
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated
from typing import Literal as Tag

import pydantic
from pydantic.json_schema import SkipJsonSchema

from uvarovite.core.language import Span
from uvarovite.core.values import StoredForm, form_of

At = Annotated[SkipJsonSchema[Span | None], pydantic.Field(exclude=True)]
# As text, so that no program makes a float of it on the way.
Exact = Annotated[Decimal, pydantic.WithJsonSchema({"type": "string"})]


@dataclass(frozen=True, slots=True, kw_only=True)
class TextLiteral:
    """A text between quotes; also the value of a choice."""

    text: str
    kind: Tag["text"] = "text"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberLiteral:
    """A plain number."""

    number: Exact
    kind: Tag["number"] = "number"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneyLiteral:
    """An amount with its currency's ISO 4217 code."""

    amount: Exact
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


@dataclass(frozen=True, slots=True, kw_only=True)
class TodayLiteral:
    """Today in the organisation's time zone, or so many days, weeks or months after it (before it: negative)."""

    count: int = 0
    unit: Tag["days", "weeks", "months"] = "days"
    kind: Tag["today"] = "today"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class NowLiteral:
    """This very moment; it is compared with instants, not with days."""

    kind: Tag["now"] = "now"
    span: At = dataclasses.field(default=None, compare=False)


Literal = Annotated[
    TextLiteral | NumberLiteral | MoneyLiteral | DateLiteral | PeriodLiteral | TodayLiteral | NowLiteral,
    pydantic.Field(discriminator="kind"),
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One question about one field. `operator` is a key of the operator table; `values` are its operands.

    `counted`: it is asked of how many records a list has, which is never blank.
    """

    field: str
    operator: str
    values: tuple[Literal, ...] = ()
    counted: bool = False
    kind: Tag["condition"] = "condition"
    span: At = dataclasses.field(default=None, compare=False)
    field_span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Items:
    """A condition on the records of a list: true for any of them, or for every one, of which there is at least one.

    The child's fields are the list's parts.
    """

    field: str
    quantifier: Tag["any", "every"]
    child: "Node"
    kind: Tag["items"] = "items"
    span: At = dataclasses.field(default=None, compare=False)
    field_span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Subscribed:
    """Subscribed to a topic (by name), perhaps since that day or longer, or as of the end of a day. Only in criteria."""

    topic: str
    since: Annotated[DateLiteral | TodayLiteral, pydantic.Field(discriminator="kind")] | None = None
    as_of: Annotated[DateLiteral | TodayLiteral, pydantic.Field(discriminator="kind")] | None = None
    kind: Tag["subscribed"] = "subscribed"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class History:
    """Something that happened with the mail to a person, at all or in a campaign (by name), ever or lately.

    Only in criteria. Machines' opens and clicks do not count.
    """

    event: Tag["received", "opened", "clicked", "replied", "bounced"]
    campaign: str | None = None
    within: PeriodLiteral | None = None
    never: bool = False
    kind: Tag["history"] = "history"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Imported:
    """WordsOfFile in, or changed, by a file or live source of this name. Only in criteria."""

    file: str
    kind: Tag["imported"] = "imported"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class InAudience:
    """In another audience (by name), its hand-picked people included. Only in criteria."""

    audience: str
    kind: Tag["in_audience"] = "in_audience"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tagged:
    """Has a tag. Only in criteria."""

    tag: str
    kind: Tag["tagged"] = "tagged"
    span: At = dataclasses.field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenBySql:
    """Whose contact_id a SELECT over the read-only views gives. Only in criteria."""

    sql: str
    kind: Tag["by_sql"] = "by_sql"
    span: At = dataclasses.field(default=None, compare=False)


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


# What asks about more than the record.
About = Subscribed | History | Imported | InAudience | Tagged | ChosenBySql

Node = Annotated[
    Condition | Items | Subscribed | History | Imported | InAudience | Tagged | ChosenBySql | All | AnyOf | Not,
    pydantic.Field(discriminator="kind"),
]

# Version 1 knew conditions and groups alone.
CRITERIA_FORM: StoredForm[Condition | Items | About | All | AnyOf | Not] = form_of(
    Node, version=2, under="tree", older={1: lambda form: form}
)
