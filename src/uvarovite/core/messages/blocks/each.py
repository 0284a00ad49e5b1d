"""Blocks for each record of a person's list."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from uvarovite.core.contacts import FieldMap
from uvarovite.core.inlay.program import Program
from uvarovite.core.messages.blocks.block import (
    MOST_BLOCKS,
    BlockBase,
    WrittenPart,
    fields_of_each,
    list_part,
)
from uvarovite.core.messages.build import Build

if TYPE_CHECKING:
    from uvarovite.core.messages.blocks.kinds import Block


class ForEach(BlockBase):
    """The blocks for each record of a list, called `variable`; `otherwise` for whoever has none."""

    kind: Literal["each"] = "each"
    variable: str = Field(max_length=63)
    listed: str = Field(max_length=63)
    order: str = Field(default="", max_length=63)
    blocks: tuple["Block", ...] = Field(default=(), max_length=MOST_BLOCKS)
    otherwise: tuple["Block", ...] = Field(default=(), max_length=MOST_BLOCKS)

    def as_html(self, build: Build) -> Program:
        body = build.each(self.variable, self.listed).html(self.blocks, "blocks")
        return (build.repeat(self.variable, self.listed, self.order, body, build.html(self.otherwise, "otherwise")),)

    def as_text(self, build: Build) -> Program:
        body = build.each(self.variable, self.listed).text(self.blocks, "blocks")
        return (build.repeat(self.variable, self.listed, self.order, body, build.text(self.otherwise, "otherwise")),)

    def parts(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[WrittenPart]:
        yield list_part(at, self.variable, self.listed, self.order, fields, repeated=repeated)

    def nested(self) -> Iterator["Block"]:
        yield from self.blocks
        yield from self.otherwise

    def inside(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[tuple[str, "Block", FieldMap, bool]]:
        if within := fields_of_each(self.variable, self.listed, fields):
            for number, block in enumerate(self.blocks):
                yield f"{at}.blocks.{number}", block, within, True
        for number, block in enumerate(self.otherwise):
            yield f"{at}.otherwise.{number}", block, fields, repeated
