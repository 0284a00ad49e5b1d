"""A button for each of a person's own records."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import (
    BlockBase,
    PartKind,
    Seat,
    WrittenPart,
)
from uvarovite.core.messages.blocks.button import button_html, button_text
from uvarovite.core.messages.build import Build


class Buttons(BlockBase):
    """For each record of a list, called `variable`, a button with a label and an address of its own."""

    kind: Literal["buttons"] = "buttons"
    variable: str = Field(max_length=63)
    listed: str = Field(max_length=63)
    order: str = Field(default="", max_length=63)
    label: str = Field(max_length=500)
    url: str = Field(max_length=2_000)

    def as_html(self, build: Build) -> Program:
        inner = build.each(self.variable, self.listed)
        before = Fixed(text=f'<p style="{build.theme.type(16, bottom=14)}">')
        body = (before, *button_html(inner, self.label, self.url), Fixed(text="</p>\n"))
        return (build.repeat(self.variable, self.listed, self.order, body),)

    def as_text(self, build: Build) -> Program:
        inner = build.each(self.variable, self.listed)
        return (build.repeat(self.variable, self.listed, self.order, button_text(inner, self.label, self.url)),)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        yield seat.list_part(self.variable, self.listed, self.order)
        if within := seat.each(self.variable, self.listed):
            yield within.part("label", PartKind.LINE, self.label)
            yield within.part("url", PartKind.LINK, self.url)
