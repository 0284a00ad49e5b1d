"""What is wrong with a message's words, before it meets anybody."""

from dataclasses import dataclass

from uvarovite.core.contacts import FieldMap
from uvarovite.core.inlay import blank_without, check_inlay, inserts, parse_inlay
from uvarovite.core.language import LanguageError, Problem, Span
from uvarovite.core.messages.document import Button, MessageContent, content_parts
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.links import link_problem


@dataclass(frozen=True, slots=True, kw_only=True)
class PartProblem:
    """A problem and the part of the message where it stands (see content_parts)."""

    part: str
    source: str
    problem: Problem


def check_message(content: MessageContent, fields: FieldMap) -> list[PartProblem]:
    """All problems, in reading order. None means that compile_message works and rendering never raises."""
    found: list[PartProblem] = []
    for part, source in content_parts(content):
        try:
            nodes = parse_inlay(source)
        except LanguageError as fault:
            found.append(PartProblem(part=part, source=source, problem=fault.problem))
            continue
        found += [PartProblem(part=part, source=source, problem=problem) for problem in check_inlay(nodes, fields)]
        whole = Span(start=0, end=len(source))
        if part == "subject" and not source.strip():
            problem = Problem(code="no_subject", span=whole, message="The subject is empty.")
            found.append(PartProblem(part=part, source=source, problem=problem))
        if part.endswith(".url") and (fault_text := link_problem(source)):
            problem = Problem(code="bad_link", span=whole, message=fault_text)
            found.append(PartProblem(part=part, source=source, problem=problem))
    if content.language and content.language not in LANGUAGES:
        message = f"There are no words for the footer in the language “{content.language}”. Choose one of the list."
        problem = Problem(code="language", span=Span(start=0, end=0), message=message)
        found.append(PartProblem(part="language", source="", problem=problem))
    for key in content.needed:
        if key not in fields:
            message = f"The message needs the field “{key}”, which is not there any more."
            problem = Problem(code="needed", span=Span(start=0, end=0), message=message)
            found.append(PartProblem(part="needed", source="", problem=problem))
    if not any(not isinstance(block, Button) and getattr(block, "text", "").strip() for block in content.blocks):
        problem = Problem(code="no_words", span=Span(start=0, end=0), message="The message has no text yet.")
        found.append(PartProblem(part="blocks", source="", problem=problem))
    return found


def mended(found: PartProblem, fields: FieldMap) -> str | None:
    """The part with the problem's suggestion in it; None unless that can be read and is one problem less."""
    span, suggestion = found.problem.span, found.problem.suggestion
    if suggestion is None:
        return None
    text = found.source[: span.start] + suggestion + found.source[span.end :]
    return text if _faults(text, fields) < _faults(found.source, fields) else None


def _faults(source: str, fields: FieldMap) -> float:
    try:
        return len(check_inlay(parse_inlay(source), fields))
    except LanguageError:
        return float("inf")


def fields_without_fallback(content: MessageContent, fields: FieldMap) -> list[tuple[str, str]]:
    """(part, field) of every insert that would leave a hole where the field is blank. The content is checked."""
    holes: list[tuple[str, str]] = []
    for part, source in content_parts(content):
        for insert in inserts(parse_inlay(source), always=True):
            if insert.fallback is None:
                names = [name for name in blank_without(insert.value) if name in fields]
                holes += [(part, name) for name in dict.fromkeys(names) if (part, name) not in holes]
    return holes
