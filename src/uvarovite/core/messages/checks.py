"""What is wrong with a message's words, before it meets anybody."""

from collections.abc import Iterator
from dataclasses import replace

from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import check_criteria, parse_criteria
from uvarovite.core.inlay import Each, InlayNode, blank_without, check_inlay, inserts, parse_inlay
from uvarovite.core.inlay.tree import Branches
from uvarovite.core.language import LanguageError, Problem, Span
from uvarovite.core.messages.attachments import attachment_problems
from uvarovite.core.messages.blocks import MOST_BLOCKS, PartKind, PartProblem, WrittenPart, part_problem
from uvarovite.core.messages.build import LEAVE, NOWHERE
from uvarovite.core.messages.document import MessageContent, all_blocks, written_parts
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.links import MOST_LINKS, link_problem, picture_problem

# Deeper than a reader can follow.
DEEPEST = 5


def check_message(content: MessageContent, fields: FieldMap) -> list[PartProblem]:
    """All problems, in reading order. None means that it can be compiled and rendering never raises."""
    found: list[PartProblem] = []
    for prefix, words in content.versions():
        found += [replace(one, part=prefix + one.part) for one in _check_words(words, fields)]
    for key in content.needed:
        if key not in fields:
            message = f"The message needs the field “{key}”, which is not there any more."
            found.append(part_problem("needed", "needed", message))
    told = [other.language for other in content.others]
    if len(set(told)) < len(told) or content.language in told:
        found.append(part_problem("others", "twice", "There are two versions in one language; remove one of them."))
    for place, one in enumerate(content.attachments):
        if not any(one.goes_with(language) for language in content.languages()):
            message = "This goes to readers of a language in which the message has no words. Choose to whom it goes."
            found.append(part_problem(f"attachments.{place}.language", "no_readers", message))
    if not found and sum(_links(words, fields) for _, words in content.versions()) > MOST_LINKS:
        message = f"All versions together have at most {MOST_LINKS} links."
        found.append(part_problem("blocks", "many_links", message))
    return found


def _links(words: MessageContent, fields: FieldMap) -> int:
    return sum(part.kind is PartKind.LINK for part in written_parts(words, fields))


def _check_words(content: MessageContent, fields: FieldMap) -> list[PartProblem]:
    """What is wrong with the words in one language."""
    found = list(_check_form(content, fields))
    if found:
        return found
    parts = list(written_parts(content, fields))
    for part in parts:
        found += [PartProblem(part=part.path, source=part.source, problem=problem) for problem in _problems_of(part)]
    for seat, block in all_blocks(content, fields):
        found += block.problems(seat.path)
    found += attachment_problems(content.attachments, fields)
    if content.language and content.language not in LANGUAGES:
        message = f"There are no words for the footer in the language “{content.language}”. Choose one of the list."
        found.append(part_problem("language", "language", message))
    if not any(part.kind is PartKind.WORDS and part.source.strip() for part in parts):
        found.append(part_problem("blocks", "no_words", "The message has no text yet."))
    if sum(part.kind is PartKind.LINK for part in parts) > MOST_LINKS:
        found.append(part_problem("blocks", "many_links", f"A message has at most {MOST_LINKS} links."))
    return found


def _check_form(content: MessageContent, fields: FieldMap) -> Iterator[PartProblem]:
    """What would make the rest of the checks endless."""
    for number, (seat, _) in enumerate(all_blocks(content, fields)):
        if number >= MOST_BLOCKS:
            yield part_problem("blocks", "many_blocks", f"A message has at most {MOST_BLOCKS} blocks.")
            return
        if sum(step.isdigit() for step in seat.path.split(".")) > DEEPEST:
            yield part_problem(seat.path, "too_deep", "Blocks stand in each other too deep here; take this one out.")
            return


def _problems_of(part: WrittenPart) -> Iterator[Problem]:
    try:
        if part.kind is PartKind.CRITERIA:
            yield from check_criteria(parse_criteria(part.source), part.seat.fields)
            return
        nodes = parse_inlay(part.source)
    except LanguageError as fault:
        yield fault.problem
        return
    yield from check_inlay(nodes, part.seat.fields)
    if part.seat.repeated and (nested := next(_loops(nodes), None)) is not None:
        message = "What is repeated for each record of a list cannot stand in what is repeated already."
        yield Problem(code="nested_each", span=nested.span, message=message)
    if part.path == "subject" and not part.source.strip():
        yield Problem(code="no_subject", span=NOWHERE, message="The subject is empty.")
    told = None
    if part.kind is PartKind.LINK and part.source.strip() != LEAVE:
        told = link_problem(part.source)
    elif part.kind is PartKind.PICTURE:
        told = picture_problem(part.source)
    if told:
        yield Problem(code="bad_link", span=Span(start=0, end=len(part.source)), message=told)


def _loops(nodes: tuple[InlayNode, ...]) -> Iterator[Each]:
    for node in nodes:
        if isinstance(node, Each):
            yield node
        elif isinstance(node, Branches):
            for arm in node.arms:
                yield from _loops(arm.body)


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
    return _inserted(content, fields, with_fallback=False)


def fields_with_fallback(content: MessageContent, fields: FieldMap) -> list[tuple[str, str]]:
    """(part, field) of every insert whose fallback everybody reads who has nothing in the field. The content is checked."""
    return _inserted(content, fields, with_fallback=True)


def _inserted(content: MessageContent, fields: FieldMap, *, with_fallback: bool) -> list[tuple[str, str]]:
    found = [
        (prefix + part, name)
        for prefix, words in content.versions()
        for part, name in _blank_in(words, fields, with_fallback=with_fallback)
    ]
    return list(dict.fromkeys(found))


def _blank_in(words: MessageContent, fields: FieldMap, *, with_fallback: bool) -> Iterator[tuple[str, str]]:
    for part in written_parts(words, fields):
        if part.kind in (PartKind.CRITERIA, PartKind.LIST) or not part.seat.always:
            continue
        for insert in inserts(parse_inlay(part.source), always=True):
            if (insert.fallback is not None) is with_fallback:
                for name in blank_without(insert.value):
                    if name in fields:
                        yield part.path, name
