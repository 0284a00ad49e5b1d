"""Blocks for some people only."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from uvarovite.core.contacts import FieldMap
from uvarovite.core.inlay.program import Program
from uvarovite.core.messages.blocks.block import MOST_BLOCKS, BlockBase, PartKind, WrittenPart
from uvarovite.core.messages.build import Build
from uvarovite.core.messages.passages import Part

if TYPE_CHECKING:
    from uvarovite.core.messages.blocks.kinds import Block


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

    def parts(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[WrittenPart]:
        for place, arm in enumerate(self.arms):
            yield WrittenPart(
                path=f"{at}.arms.{place}.criteria",
                kind=PartKind.CRITERIA,
                source=arm.criteria,
                fields=fields,
                repeated=repeated,
            )

    def nested(self) -> Iterator["Block"]:
        for arm in self.arms:
            yield from arm.blocks
        yield from self.otherwise

    def inside(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[tuple[str, "Block", FieldMap, bool]]:
        for place, arm in enumerate(self.arms):
            for number, block in enumerate(arm.blocks):
                yield f"{at}.arms.{place}.blocks.{number}", block, fields, repeated
        for number, block in enumerate(self.otherwise):
            yield f"{at}.otherwise.{number}", block, fields, repeated
