"""A link that one cannot miss."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from uvarovite.core.inlay import plain
from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import GAP, BlockBase, PartKind, Seat, WrittenPart
from uvarovite.core.messages.build import IN_LINE, Build


def button_html(build: Build, label: str, url: str) -> Program:
    """A button's HTML."""
    return build.link("url", url, build.line(label, part="label"), style=build.theme.button, kind="button")


def button_text(build: Build, label: str, url: str) -> Program:
    """A button's plain text: its label, and where it leads on a line of its own."""
    return (*build.line(label, IN_LINE), Fixed(text=":\n"), build.href("url", url, plain), Fixed(text=GAP))


class Button(BlockBase):
    """The address begins with https://, http:// or mailto:."""

    kind: Literal["button"] = "button"
    label: str = Field(max_length=500)
    url: str = Field(max_length=2_000)

    def as_html(self, build: Build) -> Program:
        before = Fixed(text=f'<p style="{build.theme.type(16)}">')
        return (before, *button_html(build, self.label, self.url), Fixed(text="</p>"))

    def as_text(self, build: Build) -> Program:
        return button_text(build, self.label, self.url)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        yield seat.part("label", PartKind.LINE, self.label)
        yield seat.part("url", PartKind.LINK, self.url)
