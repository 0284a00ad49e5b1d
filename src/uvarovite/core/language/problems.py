"""What is wrong with a text: a code for programs, a span for the caret, a sentence that says what would do."""

import difflib
from collections.abc import Iterable
from dataclasses import dataclass

from uvarovite.core.language.source import Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """`code` is stable; `message` is for people and may change; `suggestion` replaces the span when taken."""

    code: str
    span: Span
    message: str
    suggestion: str | None = None


class LanguageError(Exception):
    """A text that cannot be read. Whose doing: the author's. Trying again with the same text is of no use."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.message)
        self.problem = problem


def _plain(name: str) -> str:
    return name.replace("_", "").replace(" ", "").casefold()


def nearest(word: str, known: Iterable[str]) -> str | None:
    """The known word that was most likely meant, or None. Ignores case, blanks and underscores when comparing."""
    plain = {_plain(name): name for name in known}
    found = difflib.get_close_matches(_plain(word), plain, n=1, cutoff=0.6)
    return plain[found[0]] if found else None
