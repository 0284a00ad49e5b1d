"""Blocks that hold blocks (columns, for some people only, for each record, shared), and the union of all kinds."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from uvarovite.core.inlay.program import Fixed, Op, Program
from uvarovite.core.messages.blocks.block import (
    MOST_BLOCKS,
    BlockBase,
    PartKind,
    Seat,
    WrittenPart,
)
from uvarovite.core.messages.blocks.button import Button
from uvarovite.core.messages.blocks.buttons import Buttons
from uvarovite.core.messages.blocks.divider import Divider
from uvarovite.core.messages.blocks.heading import Heading
from uvarovite.core.messages.blocks.html import Html
from uvarovite.core.messages.blocks.listing import Listing
from uvarovite.core.messages.blocks.paragraph import Paragraph
from uvarovite.core.messages.blocks.picture import Picture
from uvarovite.core.messages.blocks.space import Space
from uvarovite.core.messages.blocks.table import Table
from uvarovite.core.messages.build import Build
from uvarovite.core.messages.passages import Part


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

    def inside(self, seat: Seat) -> Iterator[tuple[Seat, BlockBase]]:
        for place, blocks in enumerate(self.columns):
            yield from seat.of(f"columns.{place}", blocks)


class Arm(Part):
    """Blocks for those who meet the criteria."""

    criteria: str = Field(max_length=10_000)
    blocks: tuple["Block", ...] = Field(default=(), max_length=MOST_BLOCKS)


class Only(BlockBase):
    """The blocks of the first arm whose criteria a person meets, else `otherwise`."""

    kind: Literal["only"] = "only"
    arms: tuple[Arm, ...] = Field(min_length=1, max_length=20)
    otherwise: tuple["Block", ...] = Field(default=(), max_length=MOST_BLOCKS)

    def as_html(self, build: Build) -> Program:
        arms = [(arm.criteria, build.html(arm.blocks, f"arms.{place}.blocks")) for place, arm in enumerate(self.arms)]
        return (build.either(arms, build.html(self.otherwise, "otherwise")),)

    def as_text(self, build: Build) -> Program:
        arms = [(arm.criteria, build.text(arm.blocks, f"arms.{place}.blocks")) for place, arm in enumerate(self.arms)]
        return (build.either(arms, build.text(self.otherwise, "otherwise")),)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        for place, arm in enumerate(self.arms):
            yield seat.part(f"arms.{place}.criteria", PartKind.CRITERIA, arm.criteria)

    def nested(self) -> Iterator["Block"]:
        for arm in self.arms:
            yield from arm.blocks
        yield from self.otherwise

    def inside(self, seat: Seat) -> Iterator[tuple[Seat, BlockBase]]:
        for place, arm in enumerate(self.arms):
            yield from seat.for_some().of(f"arms.{place}.blocks", arm.blocks)
        yield from seat.for_some().of("otherwise", self.otherwise)


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

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        yield seat.list_part(self.variable, self.listed, self.order)

    def nested(self) -> Iterator["Block"]:
        yield from self.blocks
        yield from self.otherwise

    def inside(self, seat: Seat) -> Iterator[tuple[Seat, BlockBase]]:
        if within := seat.each(self.variable, self.listed):
            yield from within.of("blocks", self.blocks)
        yield from seat.for_some().of("otherwise", self.otherwise)


class Shared(BlockBase):
    """The blocks of a shared block, which stands in several messages and is written in one place (message `message_id`).

    They are kept with the words that they stand in, so that a version says the same for ever.
    """

    kind: Literal["shared"] = "shared"
    message_id: int = Field(ge=1, le=2**63 - 1)
    name: str = Field(default="", max_length=200)
    blocks: tuple["Block", ...] = Field(default=(), max_length=MOST_BLOCKS)

    def as_html(self, build: Build) -> Program:
        return build.html(self.blocks, "blocks")

    def as_text(self, build: Build) -> Program:
        return build.text(self.blocks, "blocks")

    def nested(self) -> Iterator["Block"]:
        yield from self.blocks

    def inside(self, seat: Seat) -> Iterator[tuple[Seat, BlockBase]]:
        yield from seat.of("blocks", self.blocks)


Block = Annotated[
    Heading
    | Paragraph
    | Listing
    | Button
    | Buttons
    | Picture
    | Columns
    | Table
    | Only
    | ForEach
    | Shared
    | Html
    | Divider
    | Space,
    Field(discriminator="kind"),
]

# Those that hold blocks know the kinds only now.
for _kind in (Columns, Arm, Only, ForEach, Shared):
    _kind.model_rebuild()
