"""What criteria can name besides fields: topics, tags, campaigns, files, and other audiences.

A name in criteria is what people see on screen, compared like any text. What it stands for is looked up when the
criteria are used, so that a renamed audience has to be renamed in them, and says so.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from uvarovite.core.expressions.sql import SqlFragment
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    Condition,
    InAudience,
    Items,
    Node,
    Not,
)
from uvarovite.core.values import fold


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedAudience:
    """An audience that criteria can refer to, with its own conditions; a `frozen` one is its snapshot instead.

    `narrowed` takes the condition of those who match to that of the part that the audience consists of.
    """

    id: int
    name: str
    node: Node
    frozen: bool = False
    narrowed: Callable[[SqlFragment], SqlFragment] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """Something with an id and the name that people see."""

    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Names:
    """Everything by its folded name. `own` is the folded name of the audience whose criteria are looked at.

    `choose` runs a SELECT that was written by hand and keeps whom it gives in `chosen_table` of it; it answers what is
    wrong with the SELECT, in words, or None.
    """

    topics: Mapping[str, Named] = field(default_factory=dict)
    tags: Mapping[str, Named] = field(default_factory=dict)
    campaigns: Mapping[str, Named] = field(default_factory=dict)
    files: Mapping[str, str] = field(default_factory=dict)
    audiences: Mapping[str, NamedAudience] = field(default_factory=dict)
    own: str | None = None
    choose: Callable[[str], str | None] | None = None


def audiences_in(node: Node) -> list[InAudience]:
    """Every reference to another audience, in the order of the text."""
    match node:
        case InAudience():
            return [node]
        case All(children=children) | AnyOf(children=children):
            return [found for child in children for found in audiences_in(child)]
        case Not(child=child) | Items(child=child):
            return audiences_in(child)
        case _:
            return []


def fields_in(node: Node) -> set[str]:
    """The keys of the contact's fields that a tree asks about; the parts of a list belong to the list."""
    match node:
        case Condition(field=key) | Items(field=key):
            return {key}
        case All(children=children) | AnyOf(children=children):
            return {key for child in children for key in fields_in(child)}
        case Not(child=child):
            return fields_in(child)
        case _:
            return set()


def circle_through(name: str, names: Names) -> Sequence[str] | None:
    """The names on the way from the audience `name` back to itself or to `names.own`, or None.

    Both ends of the way are named; the audiences that are saved hold no circle among themselves.
    """
    start = names.own if names.own is not None else fold(name)
    way: list[str] = []

    def walk(folded: str) -> bool:
        found = names.audiences.get(folded)
        if found is None or folded in seen:
            return False
        seen.add(folded)
        way.append(found.name)
        for reference in audiences_in(found.node):
            to = fold(reference.audience)
            if to == start:
                way.append(reference.audience)
                return True
            if walk(to):
                return True
        way.pop()
        return False

    seen: set[str] = set()
    if fold(name) == names.own:
        return [name, name]
    return way if walk(fold(name)) else None


NO_NAMES = Names()
