"""Room between blocks."""

from typing import Literal

from pydantic import Field

from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import BlockBase
from uvarovite.core.messages.build import Build


class Space(BlockBase):
    """So many pixels of nothing."""

    kind: Literal["space"] = "space"
    height: int = Field(default=24, ge=4, le=200)

    def as_html(self, build: Build) -> Program:
        style = f"height:{self.height}px;line-height:{self.height}px;font-size:1px"
        return (Fixed(text=f'<div style="{style}">&nbsp;</div>'),)

    def as_text(self, build: Build) -> Program:
        return ()
