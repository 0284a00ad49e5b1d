"""Does an Inlay text make sense for these fields? Every fault with its place and what would do."""

from collections.abc import Iterator

from uvarovite.core.contacts import Field, FieldMap, FieldType
from uvarovite.core.expressions import check_criteria
from uvarovite.core.expressions.check import unknown_field
from uvarovite.core.inlay.formats import FORMATS, pattern_problem
from uvarovite.core.inlay.tree import UNFINISHED, Branches, Each, InlayNode, Insert, Name, Stretch
from uvarovite.core.inlay.values import Resolved, item_fields, resolve
from uvarovite.core.language import Problem, Span, nearest


def check_inlay(nodes: tuple[InlayNode, ...], fields: FieldMap) -> list[Problem]:
    """All problems, in the order of the text; none means that it can be compiled and rendering never raises."""
    return list(_check(nodes, fields))


def fields_within(node: Each, fields: FieldMap) -> dict[str, Field]:
    """The fields that what is repeated sees: those from around, and the parts of a record as `b.walk`."""
    return {**fields, **item_fields(node.variable.name, fields[node.listed.name])}


def _check(nodes: tuple[InlayNode, ...], fields: FieldMap) -> Iterator[Problem]:
    for node in nodes:
        match node:
            case Branches(arms=arms):
                for arm in arms:
                    if arm.condition is not None:
                        yield from check_criteria(arm.condition, fields)
                    yield from _check(arm.body, fields)
                    yield from _unfinished(arm.body)
            case Each():
                yield from _check_each(node, fields)
            case Insert():
                yield from _check_insert(node, fields)


def _unfinished(body: tuple[InlayNode, ...]) -> Iterator[Problem]:
    for part in body:
        if isinstance(part, Stretch) and part.text.strip() == UNFINISHED:
            message = f"Type the words that stand here: “{UNFINISHED}” is not finished."
            yield Problem(code="unfinished", span=part.span, message=message)


def _check_each(node: Each, fields: FieldMap) -> Iterator[Problem]:
    listed = fields.get(node.listed.name)
    if listed is None:
        lists = {key: field for key, field in fields.items() if field.type is FieldType.LIST}
        yield unknown_field(node.listed.name, node.listed.span, lists)
        return
    if listed.type is not FieldType.LIST:
        message = f"{listed.label} is no list, so there is nothing to go through."
        yield Problem(code="no_list", span=node.listed.span, message=message)
        return
    if node.variable.name in fields:
        message = f"“{node.variable.name}” is a field already; call one record of the list something else."
        yield Problem(code="each_name", span=node.variable.span, message=message)
        return
    if node.order is not None and node.order.name not in (keys := [part.key for part in listed.parts]):
        meant = nearest(node.order.name, keys)
        message = f"{listed.label} has no part “{node.order.name}”; there are {', '.join(keys)}."
        yield Problem(code="unknown_part", span=node.order.span, message=message, suggestion=meant)
    yield from _check(node.body, fields_within(node, fields))
    yield from _check(node.otherwise, fields)
    yield from _unfinished(node.body)
    yield from _unfinished(node.otherwise)


def _check_insert(node: Insert, fields: FieldMap) -> Iterator[Problem]:
    value = resolve(node.value, fields)
    if isinstance(value, Problem):
        yield value
        return
    if value.period is not None:
        message = "A duration is added to a date or taken from one: renews_on + 14 days."
        yield Problem(code="cannot_reckon", span=node.span, message=message)
        return
    if node.fallback is not None and node.fallback.strip() == UNFINISHED:
        message = f"Type what stands here for whoever has no {value.label.lower()}: “{node.fallback}” is not finished."
        yield Problem(code="unfinished", span=node.span, message=message)
    yield from _check_format(node, value)


def _check_format(node: Insert, value: Resolved) -> Iterator[Problem]:
    if node.format is None:
        if value.type is FieldType.YES_NO:
            name = node.value.name if isinstance(node.value, Name) else "…"
            yield Problem(
                code="yes_no_text",
                span=node.span,
                message=f"{value.label} is yes or no; choose the words: @{{if {name}}} … @{{else}} … @{{end}}.",
            )
        return
    span: Span = node.format_span or node.span
    format_ = FORMATS.get(node.format)
    if format_ is None:
        meant = nearest(node.format, FORMATS)
        hint = f" Did you mean “{meant}”?" if meant else f" There are {', '.join(FORMATS)}."
        message = f"There is no format “{node.format}”.{hint}"
        yield Problem(code="unknown_format", span=span, message=message, suggestion=meant)
    elif value.type not in format_.types:
        able = [row.name for row in FORMATS.values() if value.type in row.types]
        hint = f" These do: {', '.join(able)}." if able else ""
        message = f"“{node.format}” does not go with {value.label}.{hint}"
        yield Problem(code="format_type", span=span, message=message)
    elif node.pattern is not None:
        fault = (
            pattern_problem(node.pattern)
            if format_.takes_pattern
            else f"“as {node.format}” takes no pattern; leave “{node.pattern}” out."
        )
        if fault:
            yield Problem(code="pattern", span=span, message=fault)
