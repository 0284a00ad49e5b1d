"""What an Inlay text consists of."""

from collections.abc import Iterator
from dataclasses import dataclass

from uvarovite.core.contacts import FieldType
from uvarovite.core.expressions import Node
from uvarovite.core.language import Span

# What every message can insert besides the person's own fields.
PROVIDED: dict[str, FieldType] = {
    "today": FieldType.DATE,
    "organisation.name": FieldType.TEXT,
    "organisation.address": FieldType.TEXT,
    "sender.name": FieldType.TEXT,
    "topic.name": FieldType.TEXT,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Text that is the same for everyone."""

    text: str
    span: Span


# What the application puts where somebody has still to type: never sent.
UNFINISHED = "…"


@dataclass(frozen=True, slots=True, kw_only=True)
class Insert:
    """`@{name as format "pattern" else "fallback"}`."""

    name: str
    span: Span
    name_span: Span
    format: str | None = None
    format_span: Span | None = None
    pattern: str | None = None
    fallback: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Arm:
    """One branch; `condition` is None for the last, `@{else}`."""

    condition: Node | None
    body: tuple["InlayNode", ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Branches:
    """`@{if …} … @{elif …} … @{else} … @{end}`."""

    arms: tuple[Arm, ...]
    span: Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """`@{# for colleagues}`; never sent."""

    text: str
    span: Span


InlayNode = Stretch | Insert | Branches | Note


def inserts(nodes: tuple[InlayNode, ...], *, always: bool = False) -> Iterator[Insert]:
    """Every insert, in order; with `always` only those that no condition can keep out."""
    for node in nodes:
        if isinstance(node, Insert):
            yield node
        elif isinstance(node, Branches) and not always:
            for arm in node.arms:
                yield from inserts(arm.body)
