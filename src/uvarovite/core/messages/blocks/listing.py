"""A list of points, with dots or numbers."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from uvarovite.core.inlay import plain
from uvarovite.core.inlay.program import Fixed, Op, Program
from uvarovite.core.messages.blocks.block import BlockBase, Seat, WrittenPart
from uvarovite.core.messages.build import Build, where_any, without_tags
from uvarovite.core.messages.passages import Words


class Listing(BlockBase):
    """Points, each of them words; one that a condition leaves without any is not there."""

    kind: Literal["list"] = "list"
    items: tuple[Words, ...] = Field(default=(), max_length=100)
    ordered: bool = False

    def as_html(self, build: Build) -> Program:
        tag, style = "ol" if self.ordered else "ul", build.theme.type(16)
        program: list[Op] = [Fixed(text=f'<{tag} class="ink" style="{style};padding-left:24px">')]
        for place, item in enumerate(self.items):
            before = Fixed(text='<li style="margin:0 0 4px">')
            program += where_any(
                build.words(item, f"items.{place}"), before=(before,), behind=(Fixed(text="</li>"),), read=without_tags
            )
        return (*program, Fixed(text=f"</{tag}>"))

    def as_text(self, build: Build) -> Program:
        program: list[Op] = []
        for place, item in enumerate(self.items):
            sign = f"{place + 1}. " if self.ordered else "- "
            program += where_any(
                build.words_as_text(item, f"items.{place}"),
                before=(Fixed(text=sign),),
                behind=(Fixed(text="\n"),),
                read=plain,
            )
        return (*program, Fixed(text="\n"))

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        for place, item in enumerate(self.items):
            yield from seat.words(f"items.{place}", item)
