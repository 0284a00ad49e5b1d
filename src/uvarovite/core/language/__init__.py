"""What the criteria and the Inlay share: source text, spans, problems and the lexer."""

from uvarovite.core.language.lexer import Lexer, Token, TokenKind
from uvarovite.core.language.problems import LanguageError, Problem, nearest
from uvarovite.core.language.source import Place, Span, caret, place_of

__all__ = [
    "LanguageError",
    "Lexer",
    "Place",
    "Problem",
    "Span",
    "Token",
    "TokenKind",
    "caret",
    "nearest",
    "place_of",
]
