"""Text with `@{…}` in it to a tree. Every node keeps its place in the text of its message part."""

import re
from dataclasses import dataclass, field
from typing import NoReturn

from uvarovite.core.expressions import ExpressionParser, Node
from uvarovite.core.inlay.tree import Arm, Branches, InlayNode, Insert, Note, Stretch
from uvarovite.core.language import LanguageError, Lexer, Problem, Span, Token, TokenKind

# A message part is some pages at most; the bound keeps every keystroke quick.
LONGEST_PART = 50_000
DEEPEST_BRANCHES = 20

_OPENING = re.compile(r"@(@?)\{")
# From behind `@{` to its `}`, passing over quoted texts, which may hold one.
_INSIDE = re.compile(r'((?:[^}"\n]|"(?:[^"\\\n]|\\.)*")*)\}')


@dataclass
class _Open:
    """A branch that waits for its end."""

    span: Span
    arms: list[Arm] = field(default_factory=list)
    condition: Node | None = None
    body: list[InlayNode] = field(default_factory=list)
    has_else: bool = False

    def close_arm(self) -> None:
        self.arms.append(Arm(condition=self.condition, body=tuple(self.body)))
        self.body = []


def parse_inlay(source: str) -> tuple[InlayNode, ...]:
    """The nodes of one message part. Raises LanguageError with the first fault."""
    if len(source) > LONGEST_PART:
        span = Span(start=LONGEST_PART, end=len(source))
        _fail("too_long", span, f"A part of a message has at most {LONGEST_PART:,} characters.")
    opened = [_Open(span=Span(start=0, end=0))]
    at = 0
    while found := _OPENING.search(source, at):
        _stretch(opened[-1], source[at : found.start()], at)
        if found[1]:
            opened[-1].body.append(Stretch(text="@{", span=Span(start=found.start(), end=found.end())))
            at = found.end()
            continue
        inside = _INSIDE.match(source, found.end())
        if inside is None:
            _fail("open_inlay", Span(start=found.start(), end=found.end()), "This @{ has no closing }.")
        at = inside.end()
        _read(source, Span(start=found.start(), end=at), inside, opened)
    _stretch(opened[-1], source[at:], at)
    if len(opened) > 1:
        _fail("open_block", opened[-1].span, "This @{if …} has no @{end}.")
    return tuple(opened[0].body)


def _fail(code: str, span: Span, message: str, suggestion: str | None = None) -> NoReturn:
    raise LanguageError(Problem(code=code, span=span, message=message, suggestion=suggestion))


def _stretch(block: _Open, text: str, start: int) -> None:
    if text:
        block.body.append(Stretch(text=text, span=Span(start=start, end=start + len(text))))


def _read(source: str, span: Span, inside: re.Match[str], opened: list[_Open]) -> None:
    if inside[1].lstrip().startswith("#"):
        opened[-1].body.append(Note(text=inside[1].lstrip()[1:].strip(), span=span))
        return
    tokens = Lexer(source, inside.start(1), inside.end(1)).tokens
    first = tokens[0]
    block = opened[-1]
    match first.text if first.kind is TokenKind.WORD else "":
        case "if":
            if len(opened) > DEEPEST_BRANCHES:
                _fail("too_deep", span, f"Branches can stand in each other at most {DEEPEST_BRANCHES} deep.")
            opened.append(_Open(span=span, condition=_condition(source, first, inside.end(1))))
        case "elif":
            _inside_branch(opened, first, span)
            block.close_arm()
            block.condition = _condition(source, first, inside.end(1))
        case "else":
            _inside_branch(opened, first, span)
            _nothing_more(tokens[1])
            block.close_arm()
            block.condition, block.has_else = None, True
        case "end":
            if len(opened) == 1:
                _fail("stray_end", span, "This @{end} closes nothing.")
            _nothing_more(tokens[1])
            block.close_arm()
            opened.pop()
            opened[-1].body.append(Branches(arms=tuple(block.arms), span=Span(start=block.span.start, end=span.end)))
        case _:
            block.body.append(_insert(tokens, span))


def _inside_branch(opened: list[_Open], word: Token, span: Span) -> None:
    if len(opened) == 1:
        _fail("stray_branch", span, f"This @{{{word.text}}} belongs to no @{{if …}}.")
    if opened[-1].has_else:
        _fail("after_else", span, f"After @{{else}} no @{{{word.text}}} can follow.")


def _condition(source: str, word: Token, end: int) -> Node:
    parser = ExpressionParser(Lexer(source, word.span.end, end))
    node = parser.expression()
    parser.expect_end()
    return node


def _nothing_more(token: Token) -> None:
    if token.kind is not TokenKind.END:
        _fail("unexpected", token.span, "Nothing more was expected before }.")


def _insert(tokens: list[Token], span: Span) -> Insert:
    name = tokens[0]
    if name.kind is not TokenKind.WORD:
        _fail("no_field", span, "Between @{ and } stands a field, such as @{first_name}.")
    at = 1
    format_name: Token | None = None
    pattern: str | None = None
    fallback: str | None = None
    if _word(tokens[at], "as"):
        format_name = tokens[at + 1]
        if format_name.kind is not TokenKind.WORD:
            _fail("no_format", tokens[at].span, "After “as” stands a format, such as date or money.")
        at += 2
        if tokens[at].kind is TokenKind.TEXT:
            pattern = tokens[at].text
            at += 1
    if _word(tokens[at], "else"):
        value = tokens[at + 1]
        if value.kind is not TokenKind.TEXT:
            _fail("no_fallback", tokens[at].span, 'After “else” stands a text between quotes: else "friend".')
        fallback = value.text
        at += 2
    if tokens[at].kind is not TokenKind.END:
        _fail("unexpected", tokens[at].span, 'Here “as”, else "…" or } was expected.')
    return Insert(
        name=name.text,
        span=span,
        name_span=name.span,
        format=format_name.text if format_name else None,
        format_span=format_name.span if format_name else None,
        pattern=pattern,
        fallback=fallback,
    )


def _word(token: Token, text: str) -> bool:
    return token.kind is TokenKind.WORD and token.text == text
