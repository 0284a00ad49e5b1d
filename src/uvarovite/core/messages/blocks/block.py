"""What every kind of block is: a form, the parts that an author writes, its HTML and its plain text.

A new kind is a file beside this one and its name in the list of all kinds.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from pydantic import Field

from uvarovite.core.contacts import Field as ContactField
from uvarovite.core.contacts import FieldMap, FieldType
from uvarovite.core.inlay.program import Program
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
class WrittenPart:
    """A part of a message that an author writes: where it is, its text, and the fields that it sees.

    `repeated` tells that it stands within what is repeated for each record of a list.
    """

    path: str
    kind: PartKind
    source: str
    fields: FieldMap
    repeated: bool = False


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

    def parts(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[WrittenPart]:
        """What its author writes, without the blocks in it."""
        yield from ()

    def nested(self) -> Iterator["BlockBase"]:
        """The blocks that stand directly in it."""
        yield from ()

    def problems(self, at: str) -> Iterator[PartProblem]:
        """What is wrong with it besides the texts of its parts."""
        yield from ()

    def inside(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[tuple[str, "BlockBase", FieldMap, bool]]:
        """The blocks in it: where each is, the fields that it sees, and whether it is repeated."""
        yield from ()


def fields_of_each(variable: str, listed: str, fields: FieldMap) -> dict[str, ContactField] | None:
    """The fields that are seen for each record of a list; None where there is no such list."""
    found = fields.get(listed)
    if found is None or found.type is not FieldType.LIST:
        return None
    return {**fields, **{f"{variable}.{part.key}": part for part in found.parts}}


def list_part(at: str, variable: str, listed: str, order: str, fields: FieldMap, *, repeated: bool) -> WrittenPart:
    """The part that says which list is gone through, in the words of an inlay."""
    by = f" by {order}" if order else ""
    source = f"@{{each {variable} in {listed}{by}}}@{{end}}"
    return WrittenPart(path=f"{at}.listed", kind=PartKind.LIST, source=source, fields=fields, repeated=repeated)


def part_problem(path: str, code: str, message: str) -> PartProblem:
    """A problem of a whole part."""
    return PartProblem(part=path, source="", problem=Problem(code=code, span=NOWHERE, message=message))


def words_parts(
    at: str, part: str, words: tuple[Passage, ...], fields: FieldMap, *, repeated: bool
) -> Iterator[WrittenPart]:
    """The parts of words: their text, and the addresses of the links in it."""
    yield WrittenPart(
        path=f"{at}.{part}", kind=PartKind.WORDS, source=source_of(words), fields=fields, repeated=repeated
    )
    for place, passage in enumerate(words):
        if passage.link:
            path = f"{at}.{part}.{place}.link"
            yield WrittenPart(path=path, kind=PartKind.LINK, source=passage.link, fields=fields, repeated=repeated)
