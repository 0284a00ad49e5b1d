"""Text with `@{…}` in it to a tree. Every node keeps its place in the text of its message part."""

import re
from dataclasses import dataclass, field
from typing import NoReturn

from uvarovite.core.contacts import field_key_problem
from uvarovite.core.expressions import ExpressionParser, Node
from uvarovite.core.inlay.parse_value import ValueParser
from uvarovite.core.inlay.tree import Arm, Branches, Each, InlayNode, Insert, Name, Note, Stretch
from uvarovite.core.language import LanguageError, Lexer, Problem, Span, Token, TokenKind

# A message part is some pages at most; the bound keeps every keystroke quick.
LONGEST_PART = 50_000
DEEPEST_BRANCHES = 20

_OPENING = re.compile(r"@(@?)\{")
# From behind `@{` to its `}`, passing over quoted texts, which may hold one.
_INSIDE = re.compile(r'((?:[^}"\n]|"(?:[^"\\\n]|\\.)*")*)\}')


@dataclass
class _Open:
    """A block that waits for its end: branches, or with `variable` what is repeated."""

    span: Span
    variable: Name | None = None
    listed: Name | None = None
    order: Name | None = None
    arms: list[Arm] = field(default_factory=list)
    condition: Node | None = None
    arm_span: Span = field(default=Span(start=0, end=0))
    body: list[InlayNode] = field(default_factory=list)
    has_else: bool = False

    def close_arm(self) -> None:
        self.arms.append(Arm(condition=self.condition, body=tuple(self.body), span=self.arm_span))
        self.body = []

    def closed(self, end: int) -> InlayNode:
        span = Span(start=self.span.start, end=end)
        if self.variable is None or self.listed is None:
            return Branches(arms=tuple(self.arms), span=span)
        otherwise = self.arms[1].body if len(self.arms) > 1 else ()
        return Each(
            variable=self.variable,
            listed=self.listed,
            order=self.order,
            body=self.arms[0].body,
            otherwise=otherwise,
            span=span,
        )


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
        word = "each" if opened[-1].variable else "if"
        _fail("open_block", opened[-1].span, f"This @{{{word} …}} has no @{{end}}.")
    return tuple(opened[0].body)


def inlays_in(source: str) -> list[Span]:
    """Where inlays stand in a text, and the signs of a literal one; whether they can be read is not asked."""
    found, at = [], 0
    while opening := _OPENING.search(source, at):
        inside = None if opening[1] else _INSIDE.match(source, opening.end())
        at = inside.end() if inside else opening.end()
        found.append(Span(start=opening.start(), end=at))
    return found


def _fail(code: str, span: Span, message: str, suggestion: str | None = None) -> NoReturn:
    raise LanguageError(Problem(code=code, span=span, message=message, suggestion=suggestion))


def _stretch(block: _Open, text: str, start: int) -> None:
    if text:
        block.body.append(Stretch(text=text, span=Span(start=start, end=start + len(text))))


def _read(source: str, span: Span, inside: re.Match[str], opened: list[_Open]) -> None:
    if inside[1].lstrip().startswith("#"):
        opened[-1].body.append(Note(text=inside[1].lstrip()[1:].strip(), span=span))
        return
    lexer = Lexer(source, inside.start(1), inside.end(1))
    first, second = lexer.tokens[0], lexer.tokens[min(1, len(lexer.tokens) - 1)]
    block = opened[-1]
    match first.text if first.kind is TokenKind.WORD else "":
        case "if":
            _deeper(opened, span)
            opened.append(_Open(span=span, arm_span=span, condition=_condition(source, first, inside.end(1))))
        case "each":
            _deeper(opened, span)
            if any(one.variable for one in opened):
                _fail("nested_each", span, "An @{each …} cannot stand in another one.")
            opened.append(_each(lexer.tokens, span))
        case "elif":
            _inside_branch(opened, first, span)
            block.close_arm()
            block.condition, block.arm_span = _condition(source, first, inside.end(1)), span
        case "else":
            _inside_branch(opened, first, span)
            _nothing_more(second)
            block.close_arm()
            block.condition, block.has_else, block.arm_span = None, True, span
        case "end":
            if len(opened) == 1:
                _fail("stray_end", span, "This @{end} closes nothing.")
            _nothing_more(second)
            block.close_arm()
            opened.pop()
            opened[-1].body.append(block.closed(span.end))
        case _:
            block.body.append(_insert(lexer, span))


def _deeper(opened: list[_Open], span: Span) -> None:
    if len(opened) > DEEPEST_BRANCHES:
        _fail("too_deep", span, f"Branches can stand in each other at most {DEEPEST_BRANCHES} deep.")


def _inside_branch(opened: list[_Open], word: Token, span: Span) -> None:
    if len(opened) == 1 or (word.text == "elif" and opened[-1].variable):
        _fail("stray_branch", span, f"This @{{{word.text}}} belongs to no @{{if …}}.")
    if opened[-1].has_else:
        _fail("after_else", span, f"After @{{else}} no @{{{word.text}}} can follow.")


def _condition(source: str, word: Token, end: int) -> Node:
    parser = ExpressionParser(Lexer(source, word.span.end, end))
    node = parser.expression()
    parser.expect_end()
    return node


_EACH = "Write @{each b in walk_bookings}: a name of your own for one record, and the list."


def _each(tokens: list[Token], span: Span) -> _Open:
    words = [token for token in tokens[1:] if token.kind is not TokenKind.END]
    if not all(token.kind is TokenKind.WORD for token in words) or [token.text for token in words[1::2]] not in (
        ["in"],
        ["in", "by"],
    ):
        _fail("each", span, _EACH)
    if len(words) % 2 == 0:
        _fail("each", span, _EACH)
    variable, listed = words[0], words[2]
    if fault := field_key_problem(variable.text):
        _fail("each_name", variable.span, fault)
    return _Open(
        span=span,
        arm_span=span,
        variable=Name(name=variable.text, span=variable.span),
        listed=Name(name=listed.text, span=listed.span),
        order=Name(name=words[4].text, span=words[4].span) if len(words) > 4 else None,
    )


def _nothing_more(token: Token) -> None:
    if token.kind is not TokenKind.END:
        _fail("unexpected", token.span, "Nothing more was expected before }.")


def _insert(lexer: Lexer, span: Span) -> Insert:
    if lexer.tokens[0].kind is TokenKind.END:
        _fail("no_field", span, "Between @{ and } stands a field, such as @{first_name}.")
    parser = ValueParser(lexer)
    value = parser.value()
    format_name: Token | None = None
    pattern: str | None = None
    fallback: str | None = None
    if _word(parser.token, "as"):
        word = parser.advance()
        format_name = parser.token
        if format_name.kind is not TokenKind.WORD:
            _fail("no_format", word.span, "After “as” stands a format, such as date or money.")
        parser.advance()
        if parser.token.kind is TokenKind.TEXT:
            pattern = parser.advance().text
    if _word(parser.token, "else"):
        word = parser.advance()
        if parser.token.kind is not TokenKind.TEXT:
            _fail("no_fallback", word.span, 'After “else” stands a text between quotes: else "friend".')
        fallback = parser.advance().text
    if parser.token.kind is not TokenKind.END:
        _fail("unexpected", parser.token.span, 'Here “as”, else "…" or } was expected.')
    return Insert(
        value=value,
        span=span,
        format=format_name.text if format_name else None,
        format_span=format_name.span if format_name else None,
        pattern=pattern,
        fallback=fallback,
    )


def _word(token: Token, text: str) -> bool:
    return token.kind is TokenKind.WORD and token.text == text
