"""Blocks beside each other."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from uvarovite.core.contacts import FieldMap
from uvarovite.core.inlay.program import Fixed, Op, Program
from uvarovite.core.messages.blocks.block import BlockBase
from uvarovite.core.messages.build import Build

if TYPE_CHECKING:
    from uvarovite.core.messages.blocks.kinds import Block


class Columns(BlockBase):
    """Two or three columns of one width; on a telephone they stand below each other."""

    kind: Literal["columns"] = "columns"
    columns: tuple[tuple["Block", ...], ...] = Field(min_length=2, max_length=3)

    def as_html(self, build: Build) -> Program:
        share = 100 // len(self.columns)
        program: list[Op] = [
            Fixed(text='<table role="presentation" width="100%" cellspacing="0" cellpadding="0"><tr>\n')
        ]
        for place, blocks in enumerate(self.columns):
            gap = "0" if place == 0 else "0 0 0 16px"
            program += [
                Fixed(text=f'<td class="col" width="{share}%" valign="top" style="padding:{gap}">\n'),
                *build.html(blocks, f"columns.{place}"),
                Fixed(text="</td>\n"),
            ]
        return (*program, Fixed(text="</tr></table>"))

    def as_text(self, build: Build) -> Program:
        return tuple(op for place, blocks in enumerate(self.columns) for op in build.text(blocks, f"columns.{place}"))

    def nested(self) -> Iterator["Block"]:
        for blocks in self.columns:
            yield from blocks

    def inside(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[tuple[str, "Block", FieldMap, bool]]:
        for place, blocks in enumerate(self.columns):
            for number, block in enumerate(blocks):
                yield f"{at}.columns.{place}.{number}", block, fields, repeated
