"""Words with marks: passages that follow each other, each bold or not, part of a link or not.

The texts of all passages together are one Inlay text, so that a condition may begin in one passage and end in another; the
marks lie over it. Whatever is left out by a condition takes its marks with it, so that tags are always balanced.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import groupby
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from uvarovite.core.inlay import Stretch
from uvarovite.core.language import Span

MOST_PASSAGES = 1_000
Colour = Literal["", "accent", "quiet"]


class Part(BaseModel):
    """Something of a message's document."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Passage(Part):
    """A stretch of words with its marks. `link` is an address with inlays, "" where it is none."""

    text: str = Field(max_length=50_000)
    bold: bool = False
    italic: bool = False
    colour: Colour = ""
    link: str = Field(default="", max_length=2_000)


def _from_text(told: Any) -> Any:
    """Words without marks may be told as a text."""
    return ([{"text": told}] if told else []) if isinstance(told, str) else told


Words = Annotated[tuple[Passage, ...], BeforeValidator(_from_text), Field(max_length=MOST_PASSAGES)]


def source_of(words: tuple[Passage, ...]) -> str:
    """The Inlay text of words."""
    return "".join(passage.text for passage in words)


@dataclass(frozen=True, slots=True, kw_only=True)
class Marks:
    """What lies over a stretch. `link` is the place of its link among those of the words, None where it is none."""

    bold: bool = False
    italic: bool = False
    colour: Colour = ""
    link: int | None = None


NONE = Marks()


@dataclass(frozen=True, slots=True, kw_only=True)
class Marked:
    """The source of words and which marks lie over which stretch of it, in order; `links` are the addresses."""

    source: str
    over: tuple[tuple[Span, Marks], ...]
    links: tuple[str, ...]

    def at(self, span: Span) -> Marks | None:
        """The marks over a whole span; None where several differ."""
        found = [marks for one, marks in self.over if one.start < span.end and one.end > span.start]
        return found[0] if found and all(marks == found[0] for marks in found) else None

    def where(self, place: int) -> Marks:
        """The marks over one sign of the source."""
        return next((marks for one, marks in self.over if one.end > place), NONE)

    def cut(self, node: Stretch) -> Iterator[tuple[str, Marks]]:
        """A constant stretch, cut where marks change."""
        if len(node.text) != node.span.end - node.span.start:
            # A literal `@{`, which is written with three signs, is never cut.
            yield node.text, self.where(node.span.start)
            return
        for one, marks in self.over:
            start, end = max(one.start, node.span.start), min(one.end, node.span.end)
            if start < end:
                yield node.text[start - node.span.start : end - node.span.start], marks


def marked(words: tuple[Passage, ...]) -> Marked:
    """Words as one source with marks over it. Passages of one link that follow each other are one link."""
    over: list[tuple[Span, Marks]] = []
    links: list[str] = []
    at = 0
    for link, passages in groupby((one for one in words if one.text), key=lambda one: one.link):
        place = len(links) if link else None
        if link:
            links.append(link)
        for one in passages:
            span = Span(start=at, end=at + len(one.text))
            over.append((span, Marks(bold=one.bold, italic=one.italic, colour=one.colour, link=place)))
            at = span.end
    return Marked(source=source_of(words), over=tuple(over), links=tuple(links))
