"""Text to tokens, one pass, one token at a time, over any stretch of a source.

Tokens are words (`first_name`, `starts`), quoted texts with backslash escapes, numbers, dates and symbols. The lexer
works on a stretch so that a condition inside an Inlay keeps its place in the whole message part.
"""

import re
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.language.problems import LanguageError, Problem
from uvarovite.core.language.source import Span


class TokenKind(StrEnum):
    """What a token is; END closes every stretch."""

    WORD = "word"
    TEXT = "text"
    NUMBER = "number"
    DATE = "date"
    SYMBOL = "symbol"
    END = "end"


@dataclass(frozen=True, slots=True, kw_only=True)
class Token:
    """`text` is the token as written; for TEXT it is the content with its escapes resolved."""

    kind: TokenKind
    text: str
    span: Span


_TOKEN = re.compile(
    r"""(?P<space>\s+)
      | (?P<date>\d{4}-\d{2}-\d{2}(?![\w-]))
      | (?P<number>-?\d+(?:\.\d+)?(?!\w))
      | (?P<word>[^\W\d]\w*(?:\.[^\W\d]\w*)*)
      | (?P<text>"(?:[^"\\]|\\.)*")
      | (?P<symbol><=|>=|[<>(),=+*/-])
    """,
    re.VERBOSE | re.DOTALL,
)


class Lexer:
    """The tokens of one stretch of a source. Raises LanguageError on construction when a character fits nowhere."""

    def __init__(self, source: str, start: int = 0, end: int | None = None) -> None:
        self.source = source
        self.tokens: list[Token] = []
        end = len(source) if end is None else end
        at = start
        while at < end:
            found = _TOKEN.match(source, at, end)
            if found is None:
                raise LanguageError(_misfit(source, at, end))
            kind, text = found.lastgroup or "", found.group()
            span = Span(start=at, end=found.end())
            at = found.end()
            if kind == "space":
                continue
            if kind == "text":
                text = re.sub(r"\\(.)", r"\1", text[1:-1], flags=re.DOTALL)
            self.tokens.append(Token(kind=TokenKind(kind), text=text, span=span))
        self.tokens.append(Token(kind=TokenKind.END, text="", span=Span(start=end, end=end)))


def _misfit(source: str, at: int, end: int) -> Problem:
    if source[at] == '"':
        return Problem(
            code="open_text",
            span=Span(start=at, end=end),
            message='This text has no closing quote: end it with ".',
        )
    if source[at] in "“”„‟«»'‘’":
        return Problem(
            code="wrong_quote",
            span=Span(start=at, end=at + 1),
            message='Texts stand between straight double quotes, as in "Skarn".',
        )
    run = re.compile(r"\d\S*|\S").match(source, at, end)
    text = run.group() if run else source[at]
    if text[0].isdigit():
        return Problem(
            code="bad_number",
            span=Span(start=at, end=at + len(text)),
            message=f"“{text}” is neither a number (12.50) nor a date (2026-05-31).",
        )
    return Problem(
        code="unknown_sign",
        span=Span(start=at, end=at + 1),
        message=f"“{text}” has no meaning here.",
    )
