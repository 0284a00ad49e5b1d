"""A picture from an address."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from uvarovite.core.inlay import plain
from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.messages.blocks.block import (
    GAP,
    BlockBase,
    PartKind,
    PartProblem,
    Seat,
    WrittenPart,
    part_problem,
)
from uvarovite.core.messages.build import IN_ATTRIBUTE, IN_TEXT, Build
from uvarovite.core.messages.kept_pictures import kept_digest

_NOT_KEPT = "Only a picture that was uploaded here can go along with the message. Upload it, or let readers fetch it from its address."


class Picture(BlockBase):
    """`alt` says in words what is on it, for whoever does not see it; an `ornament` says nothing. `width` in pixels.

    The address may hold inlays behind its host, so that a picture may be chosen by a person's record. One that is
    `embedded` goes along with the message instead of being fetched: only what is kept here can.
    """

    kind: Literal["picture"] = "picture"
    address: str = Field(max_length=2_000)
    alt: str = Field(default="", max_length=500)
    ornament: bool = False
    width: int = Field(default=544, ge=8, le=600)
    align: Literal["start", "centre"] = "start"
    link: str = Field(default="", max_length=2_000)
    embedded: bool = False

    def as_html(self, build: Build) -> Program:
        align = ";text-align:center" if self.align == "centre" else ""
        style = f"display:inline-block;width:100%;max-width:{self.width}px;height:auto;border:0"
        image = (
            Fixed(text='<img src="'),
            *build.picture(self.address, embedded=self.embedded),
            Fixed(text=f'" width="{self.width}" alt="'),
            *(() if self.ornament else build.line(self.alt, IN_ATTRIBUTE)),
            Fixed(text=f'" style="{style}">'),
        )
        shown = build.link("link", self.link, image) if self.link else image
        return (Fixed(text=f'<p style="{build.theme.type(16)}{align}">'), *shown, Fixed(text="</p>"))

    def as_text(self, build: Build) -> Program:
        said = () if self.ornament else (Fixed(text="["), *build.line(self.alt, IN_TEXT), Fixed(text="]"))
        leads = (Fixed(text=" ("), build.href("link", self.link, plain), Fixed(text=")")) if self.link else ()
        return (*said, *leads, Fixed(text=GAP)) if said or leads else ()

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        for name, kind, source in (
            ("address", PartKind.PICTURE, self.address),
            ("alt", PartKind.LINE, self.alt),
            ("link", PartKind.LINK, self.link),
        ):
            if source or name == "address":
                yield seat.part(name, kind, source)

    def problems(self, at: str) -> Iterator[PartProblem]:
        if not self.ornament and not self.alt.strip():
            message = "Say in words what is on the picture, or mark it as an ornament: not everybody sees it."
            yield part_problem(f"{at}.alt", "no_alt", message)
        if self.embedded and self.address.strip() and kept_digest(self.address) is None:
            yield part_problem(f"{at}.address", "not_kept", _NOT_KEPT)
