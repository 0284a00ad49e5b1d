"""Running text."""

from collections.abc import Iterator
from typing import Literal

from uvarovite.core.inlay import plain
from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import GAP, BlockBase, Seat, WrittenPart
from uvarovite.core.messages.build import Build, where_any, without_tags
from uvarovite.core.messages.passages import Words


class Paragraph(BlockBase):
    """Words whose line ends are kept. One that a condition leaves without any is not there at all."""

    kind: Literal["paragraph"] = "paragraph"
    text: Words = ()
    align: Literal["start", "centre"] = "start"

    def as_html(self, build: Build) -> Program:
        align = ";text-align:center" if self.align == "centre" else ""
        before = Fixed(text=f'<p class="ink" style="{build.theme.type(16)}{align}">')
        return where_any(build.words(self.text), before=(before,), behind=(Fixed(text="</p>"),), read=without_tags)

    def as_text(self, build: Build) -> Program:
        return where_any(build.words_as_text(self.text), before=(), behind=(Fixed(text=GAP),), read=plain)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        return seat.words("text", self.text)
