"""Does an Inlay text make sense for these fields? Every fault with its place and what would do."""

from collections.abc import Iterator

from uvarovite.core.contacts import FieldMap, FieldType
from uvarovite.core.expressions import check_criteria
from uvarovite.core.expressions.check import unknown_field
from uvarovite.core.inlay.formats import FORMATS, pattern_problem
from uvarovite.core.inlay.tree import PROVIDED, UNFINISHED, Branches, InlayNode, Insert, Stretch
from uvarovite.core.language import Problem, Span, nearest


def check_inlay(nodes: tuple[InlayNode, ...], fields: FieldMap) -> list[Problem]:
    """All problems, in the order of the text; none means that it can be compiled and rendering never raises."""
    return list(_check(nodes, fields))


def _check(nodes: tuple[InlayNode, ...], fields: FieldMap) -> Iterator[Problem]:
    for node in nodes:
        if isinstance(node, Branches):
            for arm in node.arms:
                if arm.condition is not None:
                    yield from check_criteria(arm.condition, fields)
                yield from _check(arm.body, fields)
                for part in arm.body:
                    if isinstance(part, Stretch) and part.text.strip() == UNFINISHED:
                        yield _unfinished(part.span)
        elif isinstance(node, Insert):
            yield from _check_insert(node, fields)


def _unfinished(span: Span) -> Problem:
    return Problem(
        code="unfinished", span=span, message=f"Type the words that stand here: “{UNFINISHED}” is not finished."
    )


def _check_insert(node: Insert, fields: FieldMap) -> Iterator[Problem]:
    field = fields.get(node.name)
    type_ = field.type if field else PROVIDED.get(node.name)
    if type_ is None:
        if "." in node.name:
            meant = nearest(node.name, PROVIDED)
            hint = f" Did you mean “{meant}”?" if meant else ""
            message = f"“{node.name}” is not provided.{hint}"
            yield Problem(code="unknown_field", span=node.name_span, message=message, suggestion=meant)
        else:
            yield unknown_field(node.name, node.name_span, fields)
        return
    label = field.label if field else node.name
    if node.fallback is not None and node.fallback.strip() == UNFINISHED:
        message = f"Type what stands here for whoever has no {label.lower()}: “{node.fallback}” is not finished."
        yield Problem(code="unfinished", span=node.span, message=message)
    if node.format is None:
        if type_ is FieldType.YES_NO:
            yield Problem(
                code="yes_no_text",
                span=node.span,
                message=f"{label} is yes or no; choose the words: @{{if {node.name}}} … @{{else}} … @{{end}}.",
            )
        return
    span = node.format_span or node.span
    format_ = FORMATS.get(node.format)
    if format_ is None:
        meant = nearest(node.format, FORMATS)
        hint = f" Did you mean “{meant}”?" if meant else f" There are {', '.join(FORMATS)}."
        message = f"There is no format “{node.format}”.{hint}"
        yield Problem(code="unknown_format", span=span, message=message, suggestion=meant)
    elif type_ not in format_.types:
        able = [row.name for row in FORMATS.values() if type_ in row.types]
        hint = f" These do: {', '.join(able)}." if able else ""
        yield Problem(code="format_type", span=span, message=f"“{node.format}” does not go with {label}.{hint}")
    elif node.pattern is not None:
        fault = (
            pattern_problem(node.pattern)
            if format_.takes_pattern
            else f"“as {node.format}” takes no pattern; leave “{node.pattern}” out."
        )
        if fault:
            yield Problem(code="pattern", span=span, message=fault)
