"""A line that stands out."""

from collections.abc import Iterator
from typing import Literal

from uvarovite.core.contacts import FieldMap
from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import GAP, BlockBase, WrittenPart, words_parts
from uvarovite.core.messages.build import Build
from uvarovite.core.messages.passages import Words

_SIZES = {1: 22, 2: 19, 3: 16}


class Heading(BlockBase):
    """A heading of level 1 to 3."""

    kind: Literal["heading"] = "heading"
    text: Words = ()
    level: Literal[1, 2, 3] = 1

    def as_html(self, build: Build) -> Program:
        style = build.theme.type(_SIZES[self.level], height=1.3)
        return (
            Fixed(text=f'<h{self.level} class="ink" style="{style}">'),
            *build.words(self.text),
            Fixed(text=f"</h{self.level}>"),
        )

    def as_text(self, build: Build) -> Program:
        line = f"\n{'-' * 24}" if self.level == 1 else ""
        return (*build.words_as_text(self.text), Fixed(text=f"{line}{GAP}"))

    def parts(self, at: str, fields: FieldMap, *, repeated: bool) -> Iterator[WrittenPart]:
        return words_parts(at, "text", self.text, fields, repeated=repeated)
