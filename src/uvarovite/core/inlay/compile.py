"""A checked Inlay text to a program for the place where it stands."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from uvarovite.core.contacts import FieldMap, FieldType, Record, Value
from uvarovite.core.expressions import compile_criteria, print_criteria
from uvarovite.core.inlay.check import fields_within
from uvarovite.core.inlay.escaping import Escape
from uvarovite.core.inlay.formats import show_value
from uvarovite.core.inlay.program import Either, Fixed, Mark, Op, Own, Program, Repeat
from uvarovite.core.inlay.run import PLAINLY, run_program
from uvarovite.core.inlay.tree import Branches, Each, InlayNode, Insert, Stretch
from uvarovite.core.inlay.values import InlayContext, resolve
from uvarovite.core.language import Problem


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where a text stands: how the author's own words and a person's values are escaped there.

    `is_marked` allows a mark around a value, which only the text of an element can have.
    """

    fixed: Escape
    own: Escape
    is_marked: bool = False


def compile_nodes(nodes: tuple[InlayNode, ...], fields: FieldMap, place: Place) -> Program:
    """The program of nodes that passed check_inlay for the same fields."""
    return tuple(op for node in nodes if (op := compile_node(node, fields, place)) is not None)


def compile_node(node: InlayNode, fields: FieldMap, place: Place) -> Op | None:
    """The one of a node; None for what is never sent."""
    match node:
        case Stretch(text=text):
            return Fixed(text=place.fixed(text))
        case Insert():
            return _compile_insert(node, fields, place)
        case Branches(arms=arms):
            return Either(
                arms=tuple(
                    (
                        compile_criteria(arm.condition, fields) if arm.condition is not None else None,
                        compile_nodes(arm.body, fields, place),
                    )
                    for arm in arms
                ),
                words=condition_words(node),
                span=node.span,
            )
        case Each():
            return Repeat(
                listed=node.listed.name,
                variable=node.variable.name,
                order=node.order.name if node.order else None,
                body=compile_nodes(node.body, fields_within(node, fields), place),
                otherwise=compile_nodes(node.otherwise, fields, place),
                span=node.span,
            )
        case _:
            return None


def condition_words(node: Branches) -> tuple[str, ...]:
    """What each arm asks, "" for the last, which asks nothing."""
    return tuple("" if arm.condition is None else print_criteria(arm.condition) for arm in node.arms)


# What the same value is read as differs: an instant is told where the reader is, and a list has no hash to be found by.
_TOLD_ANEW = frozenset({FieldType.DATE_TIME, FieldType.LIST})


def _compile_insert(node: Insert, fields: FieldMap, place: Place) -> Own:
    value = resolve(node.value, fields)
    assert not isinstance(value, Problem), value
    type_, format_, pattern = value.type, node.format, node.pattern

    def show(found: Value, context: InlayContext) -> str:
        return show_value(found, type_, format_, pattern, context.locale, context.clock.now.tzinfo)

    return Own(
        value=value.evaluate,
        key=value.key,
        show=show,
        is_constant=type_ not in _TOLD_ANEW,
        fallback=place.own(node.fallback or ""),
        escape=place.own,
        name=node.name,
        span=node.span,
        is_marked=place.is_marked,
    )


class Template:
    """One compiled message part, for any place."""

    def __init__(self, nodes: tuple[InlayNode, ...], fields: FieldMap) -> None:
        self._nodes = nodes
        self._fields = fields
        self._programs: dict[tuple[Place, Mark | None], Callable[[Record, InlayContext], str]] = {}

    def render(
        self,
        record: Record,
        context: InlayContext,
        escape: Escape,
        constant: Escape | None = None,
        mark: Mark | None = None,
    ) -> str:
        """The rendered text. `constant` is `escape` unless the author's text stands under other rules (URLs)."""
        place = Place(fixed=constant or escape, own=escape)
        run = self._programs.get((place, mark))
        if run is None:
            program = compile_nodes(self._nodes, self._fields, place)
            run = self._programs[place, mark] = run_program(program, replace(PLAINLY, mark=mark))
        return run(record, context)


def compile_inlay(nodes: tuple[InlayNode, ...], fields: FieldMap) -> Template:
    """A template from nodes that passed check_inlay for the same fields."""
    return Template(nodes, fields)
