"""A thin line."""

from typing import Literal

from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import GAP, BlockBase
from uvarovite.core.messages.build import Build


class Divider(BlockBase):
    """A thin line between what stands above and below."""

    kind: Literal["divider"] = "divider"

    def as_html(self, build: Build) -> Program:
        return (Fixed(text=f'<hr class="rule" style="{build.theme.line}">'),)

    def as_text(self, build: Build) -> Program:
        return (Fixed(text=f"{'-' * 20}{GAP}"),)
