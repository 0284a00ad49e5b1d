"""Written criteria in pieces, whatever signs stand in them, and stepping through the pieces."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import NoReturn

from uvarovite.core.expressions.meant import habits

_OPENING, _CLOSING = "“„‟”«»‹›‘’‚‛'\"", "”“‟»«›‹’‘‛'\""
_PIECE = re.compile(
    rf"""(?P<space>\s+)
      | (?P<text>"(?:[^"\\]|\\.)*" | [{_OPENING}][^"“”„‟«»]*?[{_CLOSING}](?![\w]))
      | (?P<open>["“„«][^"“”„‟«»]*$)
      | (?P<date>\d{{4}}-\d{{2}}-\d{{2}} | \d{{1,2}}[./]\d{{1,2}}[./]\d{{4}})
      | (?P<number>[€$£]?\s?-?\d[\d.,'’]*\d\s?[€$£]? | [€$£]?\s?-?\d\s?[€$£]?)
      | (?P<word>[^\W\d](?:[\w.'’-]*\w)?)
      | (?P<sign><=|>=|=>|=<|==|!=|<>|&&|\|\||[≠≥≤<>(),=!&|+*:-])
    """,
    re.VERBOSE | re.DOTALL,
)


@dataclass(frozen=True, slots=True)
class Piece:
    """`text` is what stands there, of a text between quotes what stands between them; `word` is it in lower case."""

    kind: str
    text: str
    begin: int
    end: int

    @property
    def word(self) -> str:
        return self.text.lower().replace("’", "'") if self.kind in ("word", "sign", "number") else ""


class Unclear(Exception):
    """No single meaning."""


def _pieces(text: str) -> list[Piece]:
    found: list[Piece] = []
    at = 0
    while at < len(text):
        match = _PIECE.match(text, at)
        if match is None:
            raise Unclear
        kind, piece = match.lastgroup or "", match.group()
        if kind == "text":
            inner = re.sub(r"\\(.)", r"\1", piece[1:-1], flags=re.DOTALL) if piece[0] == '"' else piece[1:-1]
            found.append(Piece("text", inner, at, match.end()))
        elif kind == "open":
            # A quote that is never closed goes to the end, unless something else begins on the way there.
            if re.search(r"\b(and|or)\b|[()]", piece):
                raise Unclear
            found.append(Piece("text", piece[1:].strip(), at, match.end()))
        elif kind != "space":
            found.append(Piece(kind, piece, at, match.end()))
        at = match.end()
    return found


class PieceReader:
    """Steps through the pieces of a text. Raises Unclear where a character fits nowhere."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._all = _pieces(text)
        self._at = 0

    def _here(self, ahead: int = 0) -> Piece | None:
        place = self._at + ahead
        return self._all[place] if place < len(self._all) else None

    def _word(self, ahead: int = 0) -> str:
        piece = self._here(ahead)
        return piece.word if piece else ""

    def _take(self, phrases: Iterable[str]) -> str | None:
        """Step over the longest of the phrases that stands here."""
        for phrase in sorted(phrases, key=lambda one: -len(one.split())):
            parts = phrase.split()
            if all(self._matches(part, place) for place, part in enumerate(parts)):
                self._at += len(parts)
                return phrase
        return None

    def _matches(self, part: str, ahead: int) -> bool:
        piece = self._here(ahead)
        if part == '""':
            return piece is not None and piece.kind == "text" and not piece.text
        return self._word(ahead) == part

    def _unclear(self) -> NoReturn:
        raise Unclear

    def _until_joint(self) -> int:
        """How many pieces stand here before the next `and`, `or`, bracket, comma or the end."""
        count = 0
        while piece := self._here(count):
            word = piece.word
            if word in habits.AND | habits.OR | {")", "(", ","}:
                break
            if any(self._phrase_at(count, phrase) for phrase in habits.EXCEPT):
                break
            count += 1
        return count

    def _phrase_at(self, ahead: int, phrase: str) -> bool:
        return all(self._word(ahead + place) == part for place, part in enumerate(phrase.split()))

    def _text_from(self, at: int, count: int) -> str:
        pieces = self._all[at : at + count]
        return self._text[pieces[0].begin : pieces[-1].end] if len(pieces) == count and pieces else ""
