"""What can stand at the caret of criteria that are being written.

The parser itself is asked: it reads the text up to the word under the caret, and where it stops tells what it waited
for. So completion cannot offer what the language does not have.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from uvarovite.core.contacts import Field, FieldMap, FieldType
from uvarovite.core.expressions.names import Names
from uvarovite.core.expressions.operators import OPERATORS
from uvarovite.core.expressions.parse import ExpressionParser
from uvarovite.core.expressions.printing import quoted
from uvarovite.core.expressions.subjects import EVENTS, NAME_KINDS, SUBJECTS, NameKind
from uvarovite.core.expressions.tree import Condition, History, Subscribed
from uvarovite.core.language import LanguageError, Lexer, Problem
from uvarovite.core.values import fold

MOST_OPTIONS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """A text that can be put in, and what it is in a few words."""

    text: str
    about: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Completion:
    """Options for the stretch from `start` to `end` (characters from 0). `values_of` names a field whose values help.

    `typed` is what stands there already, folded; the options begin with it, or hold it.
    """

    start: int
    end: int
    typed: str
    options: Sequence[Option]
    values_of: str | None = None


_EVENTS = tuple(Option(text=row.key, about=row.about) for row in EVENTS.values())
_LISTS = (
    Option(text="any", about="any record of a list"),
    Option(text="every", about="every record of a list"),
    Option(text="count(", about="how many records a list has"),
)
_NOT = Option(text="not", about="the opposite")
_NEVER = Option(text="never", about="never received, opened …")
_ABOUTS = tuple(
    option
    for row in SUBJECTS.values()
    for option in ((Option(text=row.words, about=row.about),) if row.words else (*_EVENTS, _NEVER))
)
_JOINS = (Option(text="and", about="both"), Option(text="or", about="one of them"))
_PERIODS = tuple(Option(text=period) for period in ("30 days", "2 weeks", "6 months"))
_UNITS = tuple(Option(text=unit) for unit in ("days", "weeks", "months"))


def complete_criteria(source: str, at: int, fields: FieldMap, names: Names | None) -> Completion:
    """What can stand at `at`. Without `names` only what a message's conditions can ask is offered."""
    head = source[:at]
    word_start, typed, in_text = _word(head)
    base = head[:word_start]
    options, begin, values_of = _options(base, fields, names)
    if begin is not None:
        # Some words of an operator stand there already.
        word_start, typed = begin, head[begin:]
    folded = fold(" ".join(typed.split()))
    if in_text:
        options = [one for one in options if one.text.startswith('"')]
    fitting = [one for one in options if _fits(one.text, folded)]
    fitting.sort(key=lambda one: not fold(one.text.strip('"')).startswith(folded))
    # A word that is whole already needs no completing.
    if [fold(one.text) for one in fitting] == [folded]:
        fitting = []
    rest = re.match(r'[^"\n]*"' if in_text else r"\w+", source[at:])
    end = at + (rest.end() if rest else 0)
    return Completion(start=word_start, end=end, typed=folded, options=fitting[:MOST_OPTIONS], values_of=values_of)


def value_options(values: Iterable[str], typed: str) -> list[Option]:
    """Real values of a field as options."""
    return [Option(text=quoted(value), about="is there") for value in values if typed in fold(value)]


def _word(head: str) -> tuple[int, str, bool]:
    """(start, what stands there, within a text?) of the word that ends at the caret."""
    try:
        Lexer(head)
    except LanguageError as fault:
        if fault.problem.code == "open_text":
            start = fault.problem.span.start
            return start, head[start + 1 :], True
    found = re.search(r"\w*$", head)
    start = found.start() if found else len(head)
    return start, head[start:], False


def _fits(text: str, typed: str) -> bool:
    return typed in fold(text.replace("_", " ")) or typed in fold(text)


_Found = tuple[list[Option], int | None, str | None]


def _options(base: str, fields: FieldMap, names: Names | None) -> _Found:
    """(options, where they begin if earlier than the word, field whose values help) behind a text that is whole so far."""
    if not base.strip():
        return [*_start(fields, names), Option(text="everyone", about="no condition at all")], None, None
    try:
        parser = ExpressionParser(Lexer(base))
    except LanguageError:
        return [], None, None
    problem: Problem | None = None
    try:
        parser.expression()
        parser.expect_end()
    except LanguageError as fault:
        problem = fault.problem
    scope = fields
    for key in parser.lists:
        found = scope.get(key)
        scope = {part.key: part for part in found.parts} if found is not None else {}
    known = names if not parser.lists else None
    if problem is None or problem.code == "open_bracket":
        return _behind(parser, scope, open_list=_in_list(parser, problem)), None, None
    at_end = problem.span.start >= len(base.rstrip())
    field = scope.get(parser.field) if parser.field else None
    match problem.code:
        case "no_field" if at_end:
            last = base.rstrip().split()[-1]
            if last in ("any", "every") or base.rstrip().endswith("count("):
                return _fields(scope, only=FieldType.LIST), None, None
            return _start(scope, known), None, None
        case "no_field" if base[problem.span.start : problem.span.end] == "in" and names is not None:
            return [Option(text="audience", about=SUBJECTS["in_audience"].about)], None, None
        case "no_value" if at_end:
            # A part of a list has no column of its own to look through.
            free = field is not None and field.type is FieldType.TEXT and not parser.lists
            values_of = field.key if field is not None and free else None
            return _values(field), None, values_of
        case "no_name" if at_end and names is not None and parser.named is not None:
            return _named(parser.named, names), None, None
        case "word" if at_end and problem.suggestion:
            return [Option(text=problem.suggestion)], None, None
        case "never" if at_end:
            return list(_EVENTS), None, None
        case "between" if at_end:
            return [Option(text="and")], None, None
        case "list" if at_end:
            return [Option(text="(")], None, None
        case "period" if at_end:
            return list(_UNITS if base.rstrip()[-1].isdigit() else _PERIODS), None, None
        case "unknown_operator" | "within" | "no_operator" if not at_end or problem.code != "no_operator":
            return _operators(field), problem.span.start, None
        case "no_operator":
            # A count is a number, and never blank.
            counted = [row for row in OPERATORS.values() if FieldType.NUMBER in row.types and not row.sees_blank]
            return [Option(text=row.words, about=row.meaning) for row in counted], None, None
    return [], None, None


def _in_list(parser: ExpressionParser, problem: Problem | None) -> bool:
    """Is the open bracket that of a list of values?"""
    return (
        problem is not None
        and parser.operator is not None
        and parser.operator.operands == "list"
        and (not isinstance(parser.leaf, Condition) or parser.leaf.operator != parser.operator.key)
    )


def _behind(parser: ExpressionParser, scope: FieldMap, *, open_list: bool) -> list[Option]:
    """Behind something whole: an operator where only a field stands, what can be added to it, and what joins."""
    if open_list:
        return [Option(text=","), Option(text=")")]
    match parser.leaf:
        case Condition(operator="yes", field=key):
            field = scope.get(key)
            if field is None or field.type is not FieldType.YES_NO:
                return _operators(field)
            return [*_operators(field), *_JOINS]
        case History(campaign=None, within=None):
            return [
                *_JOINS,
                Option(text="campaign", about="in one campaign"),
                Option(text="within last", about="lately"),
            ]
        case History(within=None):
            return [*_JOINS, Option(text="within last", about="lately")]
        case Subscribed(since=None, as_of=None):
            return [
                *_JOINS,
                Option(text="since", about="since a day or longer"),
                Option(text="as of", about="as it was at the end of a day"),
            ]
    return list(_JOINS)


def _start(fields: FieldMap, names: Names | None) -> list[Option]:
    lists = _LISTS if any(field.type is FieldType.LIST for field in fields.values()) else ()
    return [*_fields(fields), *lists, _NOT, *(_ABOUTS if names is not None else ())]


def _fields(fields: FieldMap, only: FieldType | None = None) -> list[Option]:
    return [Option(text=key, about=field.label) for key, field in fields.items() if only in (None, field.type)]


def _operators(field: Field | None) -> list[Option]:
    return [
        Option(text=row.words, about=row.meaning)
        for row in OPERATORS.values()
        if row.words and (field is None or field.type in row.types)
    ]


def _values(field: Field | None) -> list[Option]:
    match field:
        case Field(choices=choices) if choices:
            return [Option(text=quoted(choice)) for choice in choices]
        case Field(type=FieldType.DATE | FieldType.DATE_TIME):
            return [
                Option(text="today"),
                Option(text="today + 2 weeks", about="from today on"),
                Option(text="today - 30 days", about="up to today"),
            ]
        case Field(type=FieldType.MONEY, currency=currency):
            return [Option(text=f"50 {currency}", about="an amount")]
        case _:
            return []


def _named(kind: NameKind, names: Names) -> list[Option]:
    known = NAME_KINDS[kind].known(names)
    return [Option(text=quoted(name)) for key, name in known.items() if (kind, key) != (NameKind.AUDIENCE, names.own)]
