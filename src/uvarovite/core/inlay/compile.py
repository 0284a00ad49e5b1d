"""A checked Inlay text to a program for the place where it stands."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime

from babel import Locale

from uvarovite.core.contacts import FieldMap, Record, Value
from uvarovite.core.expressions import compile_criteria, print_criteria
from uvarovite.core.inlay.check import fields_within
from uvarovite.core.inlay.escaping import Escape
from uvarovite.core.inlay.formats import DEFAULT_FORMAT, show_value
from uvarovite.core.inlay.program import PLAINLY, Either, Fixed, Mark, Op, Own, Program, Repeat, run_program
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


# The same days and amounts come back for many people, and Babel works each out anew.
_REMEMBERED = 4_096
_LOCALES = 64


def _compile_insert(node: Insert, fields: FieldMap, place: Place) -> Own:
    value = resolve(node.value, fields)
    assert not isinstance(value, Problem), value
    evaluate, type_, format_, pattern = value.evaluate, value.type, node.format, node.pattern
    as_it_is = (format_ or DEFAULT_FORMAT.get(type_)) == "text"
    # By locale, which is kept so that its id stays its own: hashing one takes longer than all the rest.
    shown: dict[int, tuple[Locale, dict[Value, str]]] = {}

    def show(record: Record, context: InlayContext) -> str | None:
        found = evaluate(record, context)
        if found is None or (as_it_is and type(found) is str):
            return found
        locale = context.locale
        if isinstance(found, datetime | tuple):
            # Instants are equal wherever they are told; lists have no hash.
            return show_value(found, type_, format_, pattern, locale, context.clock.now.tzinfo)
        known = shown.get(id(locale))
        if known is None:
            if len(shown) >= _LOCALES:
                shown.clear()
            known = shown[id(locale)] = (locale, {})
        told = known[1].get(found)
        if told is None:
            if len(known[1]) >= _REMEMBERED:
                known[1].clear()
            told = known[1][found] = show_value(found, type_, format_, pattern, locale, None)
        return told

    return Own(
        show=show,
        value=evaluate,
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
