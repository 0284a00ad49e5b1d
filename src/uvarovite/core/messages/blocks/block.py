"""What every kind of block is: a form, the parts that an author writes, its HTML and its plain text.

A new kind is a file beside this one and its name in the list of all kinds.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from pydantic import Field

from uvarovite.core.contacts import FieldMap, FieldType
from uvarovite.core.inlay.program import Program
from uvarovite.core.inlay.values import item_fields
from uvarovite.core.language import Problem
from uvarovite.core.messages.build import NOWHERE, Build
from uvarovite.core.messages.passages import Part, Passage, source_of

# Far beyond what anyone reads; the bound keeps rendering and every keystroke quick.
MOST_BLOCKS = 200
# A gap between blocks of plain text.
GAP = "\n\n"


class PartKind(StrEnum):
    """What stands in a part: words, one line, an address to link to, one of a picture, criteria, a list to go through."""

    WORDS = "words"
    LINE = "line"
    LINK = "link"
    PICTURE = "picture"
    CRITERIA = "criteria"
    LIST = "list"


@dataclass(frozen=True, slots=True, kw_only=True)
class Seat:
    """Where a block stands, and the fields that it sees there.

    `repeated` tells that it is within what is repeated for each record of a list, `always` that everybody gets it.
    """

    path: str
    fields: FieldMap
    repeated: bool = False
    always: bool = True

    def of(self, step: str, blocks: Iterable["BlockBase"]) -> Iterator[tuple["Seat", "BlockBase"]]:
        """The seats of blocks in a part of the one that sits here."""
        for number, block in enumerate(blocks):
            yield replace(self, path=f"{self.path}.{step}.{number}"), block

    def part(self, step: str, kind: PartKind, source: str) -> "WrittenPart":
        """A part of the block that sits here."""
        return WrittenPart(path=f"{self.path}.{step}", kind=kind, source=source, seat=self)

    def words(self, step: str, words: tuple[Passage, ...]) -> Iterator["WrittenPart"]:
        """The parts of words: their text, and the addresses of the links in it."""
        yield replace(self.part(step, PartKind.WORDS, source_of(words)), words=words)
        for place, passage in enumerate(words):
            if passage.link:
                yield self.part(f"{step}.{place}.link", PartKind.LINK, passage.link)

    def list_part(self, variable: str, listed: str, order: str) -> "WrittenPart":
        """The part that says which list is gone through, in the words of an inlay."""
        by = f" by {order}" if order else ""
        return self.part("listed", PartKind.LIST, f"@{{each {variable} in {listed}{by}}}@{{end}}")

    def for_some(self) -> "Seat":
        """The seat of what not everybody gets."""
        return replace(self, always=False)

    def each(self, variable: str, listed: str) -> "Seat | None":
        """The seat of what is repeated for each record of a list; None where there is no such list."""
        found = self.fields.get(listed)
        if found is None or found.type is not FieldType.LIST:
            return None
        fields = {**self.fields, **item_fields(variable, found)}
        return replace(self, fields=fields, repeated=True, always=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenPart:
    """A part of a message that an author writes: where it is, its text, with `words` the marks over it, and its seat."""

    path: str
    kind: PartKind
    source: str
    seat: Seat
    words: tuple[Passage, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PartProblem:
    """A problem and the part of the message where it stands."""

    part: str
    source: str
    problem: Problem


class BlockBase(Part):
    """`id` tells a block of a message from the others while it is moved and written; "" where it never had one."""

    id: str = Field(default="", max_length=40, pattern=r"^[\w-]*$")

    def as_html(self, build: Build) -> Program:
        """Its HTML."""
        raise NotImplementedError

    def as_text(self, build: Build) -> Program:
        """Its plain text, with a gap behind it where it says anything."""
        raise NotImplementedError

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        """What its author writes, without the blocks in it."""
        yield from ()

    def nested(self) -> Iterator["BlockBase"]:
        """The blocks that stand directly in it."""
        yield from ()

    def problems(self, at: str) -> Iterator[PartProblem]:
        """What is wrong with it besides the texts of its parts."""
        yield from ()

    def inside(self, seat: Seat) -> Iterator[tuple[Seat, "BlockBase"]]:
        """The blocks in it with their seats; those over a list that there is not have none."""
        yield from ()


def part_problem(path: str, code: str, message: str) -> PartProblem:
    """A problem of a whole part."""
    return PartProblem(part=path, source="", problem=Problem(code=code, span=NOWHERE, message=message))
