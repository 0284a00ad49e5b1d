"""A checked Inlay text to closures, once; then each recipient costs only what is theirs.

Rendering is a pure function of the record and the context. It gives pieces, so that the lens can show which parts are
a person's own, where they came from and whether a fallback stood in.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date

from babel import Locale

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.expressions import Clock, compile_criteria
from uvarovite.core.inlay.escaping import Escape
from uvarovite.core.inlay.formats import show_value
from uvarovite.core.inlay.tree import PROVIDED, Branches, InlayNode, Insert, Stretch


@dataclass(frozen=True, slots=True, kw_only=True)
class InlayContext:
    """What a message knows besides the record: the reader's locale, the clock, and the texts of PROVIDED."""

    locale: Locale
    clock: Clock
    provided: Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """A stretch of rendered text, escaped. `name` is the inserted field; `fallback` tells that it was blank."""

    text: str
    name: str | None = None
    fallback: bool = False


_Step = Callable[[Record, InlayContext, Escape, list[Piece]], None]


class Template:
    """One compiled message part."""

    def __init__(self, steps: list[_Step]) -> None:
        self._steps = steps

    def pieces(self, record: Record, context: InlayContext, escape: Escape, constant: Escape) -> list[Piece]:
        """The rendered pieces; `escape` is for values, `constant` for the author's own text."""
        out: list[Piece] = []
        for step in self._steps:
            step(record, context, escape, out)
        return [piece if piece.name else Piece(text=constant(piece.text)) for piece in out]

    def render(self, record: Record, context: InlayContext, escape: Escape, constant: Escape | None = None) -> str:
        """The rendered text. `constant` is `escape` unless the author's text stands under other rules (URLs)."""
        return "".join(piece.text for piece in self.pieces(record, context, escape, constant or escape))


def compile_inlay(nodes: tuple[InlayNode, ...], fields: FieldMap) -> Template:
    """A template from nodes that passed check_inlay for the same fields."""
    return Template([step for node in nodes if (step := _compile(node, fields)) is not None])


def _compile(node: InlayNode, fields: FieldMap) -> _Step | None:
    match node:
        case Stretch(text=text):
            piece = Piece(text=text)
            return lambda record, context, escape, out: out.append(piece)
        case Insert():
            return _compile_insert(node, fields)
        case Branches(arms=arms):
            compiled = [
                (
                    compile_criteria(arm.condition, fields) if arm.condition is not None else None,
                    [step for inner in arm.body if (step := _compile(inner, fields)) is not None],
                )
                for arm in arms
            ]

            def branch(record: Record, context: InlayContext, escape: Escape, out: list[Piece]) -> None:
                for condition, steps in compiled:
                    if condition is None or condition(record, context.clock):
                        for step in steps:
                            step(record, context, escape, out)
                        return

            return branch
        case _:
            return None


def _compile_insert(node: Insert, fields: FieldMap) -> _Step:
    name, fallback = node.name, node.fallback or ""
    provided = name not in fields
    type_ = PROVIDED[name] if provided else fields[name].type

    def insert(record: Record, context: InlayContext, escape: Escape, out: list[Piece]) -> None:
        value = _provided(name, context) if provided else record.get(name)
        if value is None:
            out.append(Piece(text=escape(fallback), name=name, fallback=True))
        else:
            text = show_value(value, type_, node.format, node.pattern, context.locale, context.clock.now.tzinfo)
            out.append(Piece(text=escape(text), name=name))

    return insert


def _provided(name: str, context: InlayContext) -> str | date | None:
    return context.clock.today if name == "today" else context.provided.get(name) or None
