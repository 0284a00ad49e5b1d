"""Where something stands in a source text."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """From character `start` up to, not including, `end`; both count from 0."""

    start: int
    end: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A span for people: line and column count from 1, the length in characters is at least 1."""

    line: int
    column: int
    length: int


def place_of(source: str, span: Span) -> Place:
    """Line, column and length of a span; a span past the end stands just behind the last character."""
    start = min(span.start, len(source))
    line = source.count("\n", 0, start) + 1
    column = start - (source.rfind("\n", 0, start) + 1) + 1
    return Place(line=line, column=column, length=max(1, span.end - span.start))


def screen_offset(source: str, at: int) -> int:
    """A place in the unit that browsers count in: UTF-16 code units, of which an emoji has two."""
    return len(source[:at].encode("utf-16-le")) // 2


def from_screen_offset(source: str, at: int) -> int:
    """The place of a browser's offset; one in the middle of a character is that character's, one past the end the end."""
    units = source.encode("utf-16-le")[: max(0, at) * 2]
    return min(len(source), len(units.decode("utf-16-le", "ignore")))


def caret(source: str, span: Span) -> str:
    """The line of a span with a caret under each of its characters, for terminals and logs."""
    place = place_of(source, span)
    line = source.split("\n")[place.line - 1]
    width = max(1, min(place.length, len(line) - place.column + 1))
    return f"{line}\n{' ' * (place.column - 1)}{'^' * width}"
