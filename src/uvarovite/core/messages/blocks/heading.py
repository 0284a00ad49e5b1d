"""A line that stands out."""

from collections.abc import Iterator
from typing import Literal

from uvarovite.core.inlay import plain
from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import GAP, BlockBase, Seat, WrittenPart
from uvarovite.core.messages.build import Build, where_any, without_tags
from uvarovite.core.messages.passages import Words

_SIZES = {1: 22, 2: 19, 3: 16}


class Heading(BlockBase):
    """A heading of level 1 to 3."""

    kind: Literal["heading"] = "heading"
    text: Words = ()
    level: Literal[1, 2, 3] = 1

    def as_html(self, build: Build) -> Program:
        style = build.theme.type(_SIZES[self.level], height=1.3)
        before = Fixed(text=f'<h{self.level} class="ink" style="{style}">')
        behind = Fixed(text=f"</h{self.level}>")
        return where_any(build.words(self.text), before=(before,), behind=(behind,), read=without_tags)

    def as_text(self, build: Build) -> Program:
        line = f"\n{'-' * 24}" if self.level == 1 else ""
        behind = Fixed(text=f"{line}{GAP}")
        return where_any(build.words_as_text(self.text), before=(), behind=(behind,), read=plain)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        return seat.words("text", self.text)
