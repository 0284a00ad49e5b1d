"""What criteria ask about besides the record: one row for each subject, and one for each thing that happens with mail.

The parser, the printer, the checker, completion, what is meant by a text, the pickers on screen and the table in
docs/languages/criteria.md read the rows; store.expressions.about has one SQL for each subject and each event.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, Literal

from uvarovite.core.expressions.names import Names
from uvarovite.core.expressions.tree import (
    About,
    All,
    AnyOf,
    ChosenBySql,
    Condition,
    History,
    Imported,
    InAudience,
    Items,
    Node,
    Not,
    Subscribed,
    Tagged,
)
from uvarovite.core.values import fold


class NameKind(StrEnum):
    """What can be named between quotes."""

    TOPIC = "topic"
    TAG = "tag"
    CAMPAIGN = "campaign"
    FILE = "file"
    AUDIENCE = "audience"


@dataclass(frozen=True, slots=True, kw_only=True)
class NameRow:
    """`known` gives the names that there are by their folded form; `missing` says what there is none of."""

    missing: str
    known: Callable[[Names], Mapping[str, str]]


NAME_KINDS: Mapping[NameKind, NameRow] = {
    NameKind.TOPIC: NameRow(missing="topic", known=lambda names: {key: one.name for key, one in names.topics.items()}),
    NameKind.TAG: NameRow(missing="tag", known=lambda names: {key: one.name for key, one in names.tags.items()}),
    NameKind.CAMPAIGN: NameRow(
        missing="campaign", known=lambda names: {key: one.name for key, one in names.campaigns.items()}
    ),
    NameKind.FILE: NameRow(missing="imported file", known=lambda names: names.files),
    NameKind.AUDIENCE: NameRow(
        missing="audience", known=lambda names: {key: one.name for key, one in names.audiences.items()}
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """One row. `key` is the kind of its node, which `make` makes, `words` how it begins in a text, of which `tells` say that it is meant (a
    field may be called like the first), `habits` how else people begin it. `label` is for pickers, `about` for
    completion, and `meaning` says of each form that it can have in a text when that is true.

    `names` is what it names, by the node's field `attribute`.
    """

    key: str
    make: Callable[..., About]
    words: str
    tells: int = 1
    label: str
    about: str
    habits: tuple[str, ...] = ()
    names: NameKind | None = None
    attribute: str = ""
    example: str
    meaning: Mapping[str, str]

    def name(self, node: About) -> str | None:
        """What a node of this subject names, if anything."""
        named: str | None = getattr(node, self.attribute) if self.attribute else None
        return named


SUBJECTS: Mapping[str, Subject] = {
    row.key: row
    for row in (
        Subject(
            key="history",
            make=History,
            words="",
            label="Their mail",
            about="what happened with their mail",
            names=NameKind.CAMPAIGN,
            attribute="campaign",
            example='opened campaign "Autumn walks"',
            meaning={
                'opened campaign "Autumn walks" within last 60 days': "in that campaign, on one of these days or today",
                "never clicked": "it did not; with a campaign and a time span likewise",
            },
        ),
        Subject(
            key="subscribed",
            make=Subscribed,
            words="subscribed to",
            label="Subscribed to",
            about="is subscribed to a topic",
            habits=("subscribed to", "subscribed", "subscribes to", "opted in to", "opted into"),
            names=NameKind.TOPIC,
            attribute="topic",
            example='subscribed to "Field walks"',
            meaning={
                'subscribed to "Field walks"': (
                    "the ledger has them as subscribed now, a pause included, and nobody left from their address"
                ),
                'subscribed to "Field walks" since 2026-05-31': "and has had them so since that day or longer",
                'subscribed to "Field walks" as of 2026-05-31': (
                    "the ledger had them as subscribed at the end of that day"
                ),
            },
        ),
        Subject(
            key="tagged",
            make=Tagged,
            words="tagged",
            label="Tagged",
            about="has a tag",
            habits=("tagged with", "tagged as", "tagged", "has the tag", "has tag", "with tag", "tag is", "tag ="),
            names=NameKind.TAG,
            attribute="tag",
            example='tagged "lamp owner"',
            meaning={'tagged "lamp owner"': "they have the tag"},
        ),
        Subject(
            key="in_audience",
            make=InAudience,
            words="in audience",
            tells=2,
            label="In audience",
            about="is in another audience",
            habits=("in audience", "in the audience", "is in audience", "audience is", "member of"),
            names=NameKind.AUDIENCE,
            attribute="audience",
            example='in audience "Walkers"',
            meaning={
                'in audience "Walkers"': (
                    "that audience's criteria or a hand have them in; an audience is never in itself"
                )
            },
        ),
        Subject(
            key="imported",
            make=Imported,
            words="imported from",
            label="Imported from",
            about="came with a file",
            habits=("imported from", "imported with", "from file", "from the file"),
            names=NameKind.FILE,
            attribute="file",
            example='imported from "people.csv"',
            meaning={
                'imported from "people.csv"': (
                    "that file or live source brought them anything: themselves, a value, a tag, a consent"
                )
            },
        ),
        Subject(
            key="by_sql",
            make=ChosenBySql,
            words="chosen by sql",
            tells=2,
            label="Chosen by SQL",
            about="whom a SELECT of yours gives",
            example='chosen by sql "SELECT contact_id FROM contacts"',
            meaning={
                'chosen by sql "SELECT contact_id FROM contacts WHERE …"': (
                    "the `SELECT` gives them; it reads the [views](../guide/audiences.md#sql-by-hand) and nothing else"
                )
            },
        ),
    )
}


EventName = Literal["received", "opened", "clicked", "replied", "bounced"]


@dataclass(frozen=True, slots=True, kw_only=True)
class EventRow:
    """What can happen with somebody's mail. Its key is the word for it; `habits` are what else people write."""

    key: EventName
    about: str
    habits: tuple[str, ...]


EVENTS: Mapping[str, EventRow] = {
    row.key: row
    for row in (
        EventRow(
            key="received",
            about="was sent something, and the relay took it",
            habits=("receive", "got", "get", "sent"),
        ),
        EventRow(key="opened", about="opened a message", habits=("open", "read")),
        EventRow(key="clicked", about="clicked a link", habits=("click",)),
        EventRow(key="replied", about="answered", habits=("reply", "answered")),
        EventRow(key="bounced", about="could not be reached", habits=("bounce",)),
    )
}


def renamed(node: Node, kind: NameKind, old: str, new: str) -> Node:
    """The tree with every reference to the thing of that kind called `old` naming it `new`."""
    match node:
        case All(children=children) | AnyOf(children=children):
            return replace(node, children=tuple(renamed(child, kind, old, new) for child in children))
        case Not(child=child) | Items(child=child):
            return replace(node, child=renamed(child, kind, old, new))
        case Condition():
            return node
    row = SUBJECTS[node.kind]
    named = row.name(node)
    if row.names is kind and named is not None and fold(named) == fold(old):
        change: dict[str, Any] = {row.attribute: new}
        return replace(node, **change)
    return node
