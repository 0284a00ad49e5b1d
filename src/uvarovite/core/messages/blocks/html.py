"""HTML as its author writes it, for what no other kind of block says."""

from collections.abc import Iterator
from functools import lru_cache
from typing import Literal

from pydantic import Field

from uvarovite.core.inlay import Place, html_attribute, plain, url_part
from uvarovite.core.inlay.program import Fixed, Op, Program
from uvarovite.core.messages.blocks.block import (
    GAP,
    BlockBase,
    PartKind,
    PartProblem,
    Seat,
    WrittenPart,
    part_problem,
)
from uvarovite.core.messages.build import IN_ATTRIBUTE, IN_HTML, IN_LINE, Build
from uvarovite.core.messages.html_pieces import HtmlPieces, Led, Markup, Said, html_pieces

LONGEST_HTML = 50_000
_KINDS = {"text": PartKind.WORDS, "link": PartKind.LINK, "picture": PartKind.PICTURE, "attribute": PartKind.LINE}

# A keystroke asks for the same pieces several times.
_pieces = lru_cache(maxsize=64)(html_pieces)


class Html(BlockBase):
    """HTML with inlays in its words, in the addresses of links and pictures, and in words for who does not see a picture."""

    kind: Literal["html"] = "html"
    source: str = Field(default="", max_length=LONGEST_HTML)

    def _found(self) -> HtmlPieces:
        return _pieces(self.source)

    def as_html(self, build: Build) -> Program:
        # In the type and the colours of the letter, also in the dark, wherever it says nothing of its own.
        program: list[Op] = [Fixed(text=f'<div class="ink" style="{build.theme.type(16)}">')]
        for piece in self._found().pieces:
            match piece:
                case Markup(html=html):
                    program.append(Fixed(text=html))
                case Said(kind="text"):
                    program += build.line(piece.source, IN_HTML, f"text.{piece.number}")
                case Said(kind="link"):
                    program.append(build.href(f"link.{piece.number}", piece.source))
                case Said(kind="picture"):
                    program += build.line(piece.source, Place(fixed=html_attribute, own=url_part))
                case Said():
                    program += build.line(piece.source, IN_ATTRIBUTE)
                case Led():
                    pass
        return (*program, Fixed(text="</div>"))

    def as_text(self, build: Build) -> Program:
        program: list[Op] = []
        # So many line ends stand at the end of what is written already; none stands before it.
        ended = 2
        for piece in self._found().pieces:
            match piece:
                case Markup(text=text) if text:
                    only_ends = not text.strip("\n")
                    program.append(Fixed(text=text[ended:] if only_ends else text))
                    ended = max(ended, len(text)) if only_ends else len(text) - len(text.rstrip("\n"))
                case Said(kind="text"):
                    source = piece.source.lstrip(" ") if ended else piece.source
                    if source:
                        program += build.line(source, IN_LINE)
                        ended = 0
                case Said(kind="attribute") if piece.source:
                    program += (Fixed(text="["), *build.line(piece.source, IN_LINE), Fixed(text="]"))
                    ended = 0
                case Led():
                    program += (
                        Fixed(text=" ("),
                        build.href(f"link.{piece.number}", piece.source, plain),
                        Fixed(text=")"),
                    )
                    ended = 0
                case _:
                    pass
        return (*program, Fixed(text=GAP[: max(0, len(GAP) - ended)])) if program else ()

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        for piece in self._found().pieces:
            if isinstance(piece, Said) and (piece.source or piece.kind == "picture"):
                yield seat.part(f"{piece.kind}.{piece.number}", _KINDS[piece.kind], piece.source)

    def problems(self, at: str) -> Iterator[PartProblem]:
        found = self._found()
        if not found.refused and all(isinstance(one, Said) and not one.source.strip() for one in found.pieces):
            yield part_problem(f"{at}.source", "no_html", "Write some HTML here, or take the block out.")
        for what in found.refused:
            yield part_problem(f"{at}.source", "bad_html", what)
