"""What the criteria and the Inlay share: source text, spans, problems and the lexer."""

from uvarovite.core.language.lexer import Lexer, Token, TokenKind
from uvarovite.core.language.problems import LanguageError, Problem, nearest
from uvarovite.core.language.source import Place, Span, caret, from_screen_offset, place_of, screen_offset

__all__ = [
    "LanguageError",
    "Lexer",
    "Place",
    "Problem",
    "Span",
    "Token",
    "TokenKind",
    "caret",
    "from_screen_offset",
    "nearest",
    "place_of",
    "screen_offset",
]
