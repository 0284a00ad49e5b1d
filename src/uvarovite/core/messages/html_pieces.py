"""HTML of an author to pieces: markup that is known to be harmless, words and addresses that may hold inlays.

The parser makes of any text a tree, as browsers do (WHATWG HTML, 13.2), and every tag is written anew from it: what a letter
gets is balanced and holds no tag or attribute that is not named here. Inlays are taken out before, so that none can be
read as markup, whatever stands in them.
"""

import html
import re
from dataclasses import dataclass, field
from typing import Literal

from selectolax.lexbor import LexborHTMLParser, LexborNode

from uvarovite.core.inlay import inlays_in

_DEEPEST = 120
_PLACE = re.compile("\ue000(\\d+)\ue001")
_PRIVATE = re.compile("[\ue000\ue001\x00]")
_SPACE = re.compile(r"[ \t\r\f\n]+")

# Tags that say or lay out something, and how a line of plain text goes on before and behind them.
_LINE, _PARAGRAPH = "\n", "\n\n"
_BREAKS = {
    "address": _PARAGRAPH, "blockquote": _PARAGRAPH, "caption": _LINE, "dd": _LINE, "div": _LINE, "dl": _PARAGRAPH, "dt": _LINE,
    "figcaption": _LINE, "figure": _PARAGRAPH, "h1": _PARAGRAPH, "h2": _PARAGRAPH, "h3": _PARAGRAPH, "h4": _PARAGRAPH,
    "h5": _PARAGRAPH, "h6": _PARAGRAPH, "li": _LINE, "ol": _PARAGRAPH, "p": _PARAGRAPH, "pre": _PARAGRAPH,
    "table": _PARAGRAPH, "tr": _LINE, "ul": _PARAGRAPH,
}  # fmt: skip
_INLINE = frozenset(
    [
        "a",
        "abbr",
        "b",
        "bdi",
        "bdo",
        "cite",
        "code",
        "del",
        "em",
        "i",
        "ins",
        "mark",
        "q",
        "s",
        "small",
        "span",
        "strong",
        "sub",
        "sup",
        "tbody",
        "td",
        "tfoot",
        "th",
        "thead",
        "u",
    ]
)
_VOID = frozenset({"br", "hr", "img", "wbr"})
# Without meaning of their own: what stands in them is taken.
_OPENED = frozenset({"center", "font", "section", "article", "header", "footer", "main", "nav", "tt", "big", "label"})
# Between these tags blanks are no words.
_NO_WORDS = frozenset({"table", "thead", "tbody", "tfoot", "tr", "ul", "ol", "dl"})
_KEPT = frozenset(
    [
        "align",
        "bgcolor",
        "border",
        "cellpadding",
        "cellspacing",
        "colspan",
        "dir",
        "height",
        "lang",
        "role",
        "rowspan",
        "start",
        "style",
        "valign",
        "width",
    ]
)
_NO_ALT = 'Say in alt="…" what is on each picture, or write alt="" for an ornament: not everybody sees it.'
# What a style must not do: fetch, act, or leave its place.
_BAD_STYLE = re.compile(r"url\s*\(|expression|javascript|@import|behavior|binding|position\s*:|\\", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Markup:
    """Markup, and what stands for it in plain text."""

    html: str
    text: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What an author says, with inlays: words, the address of a link or of a picture, words in an attribute.

    `number` counts those of a kind. An address stands in plain text where its link ends (`Led`).
    """

    kind: Literal["text", "link", "picture", "attribute"]
    source: str
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Led:
    """Here the words of a link end that leads to the address with a number."""

    number: int
    source: str


Piece = Markup | Said | Led


@dataclass(slots=True)
class HtmlPieces:
    """The pieces in order, and what is wrong with others, in words, each once."""

    pieces: list[Piece] = field(default_factory=list)
    refused: dict[str, None] = field(default_factory=dict)


def html_pieces(source: str) -> HtmlPieces:
    """The pieces of HTML. Never raises; what is refused is not in them."""
    source = _PRIVATE.sub("", source)
    inlays = inlays_in(source)
    told, at = [], 0
    for number, span in enumerate(inlays):
        told.append(f"{source[at : span.start]}\ue000{number}\ue001")
        at = span.end
    tree = LexborHTMLParser(f"<!doctype html><body>{''.join(told)}{source[at:]}")
    reader = _Reader([source[span.start : span.end] for span in inlays])
    # What a parser moves into the head is refused like anything else that is not named.
    for root in (tree.head, tree.body):
        if root is not None:
            reader.walk(root, 0)
    return reader.found


class _Reader:
    def __init__(self, inlays: list[str]) -> None:
        self.found = HtmlPieces()
        self._inlays = inlays
        self._numbers: dict[str, int] = {}

    def walk(self, node: LexborNode, depth: int) -> None:
        if depth > _DEEPEST:
            self._refuse(f"What stands in each other more than {_DEEPEST} deep")
            return
        for child in node.iter(include_text=True):
            tag = child.tag or ""
            if tag == "-text":
                self._words(child.text_content or "", node.tag or "")
            elif tag == "-comment":
                continue
            elif tag in _OPENED:
                self.walk(child, depth + 1)
            elif tag in _BREAKS or tag in _INLINE or tag in _VOID:
                self._element(child, tag, depth)
            else:
                self._refuse(f"“<{tag}>”")

    def _element(self, node: LexborNode, tag: str, depth: int) -> None:
        address = self._own(node.attributes.get("href") or "") if tag == "a" else ""
        number = -1
        self._markup(f"<{tag}", _BREAKS.get(tag, ""))
        if address:
            number = self._say("link", address, ' href="', '"')
        if tag == "img":
            self._say("picture", self._own(node.attributes.get("src") or ""), ' src="', '"')
            if "alt" not in node.attributes:
                self.found.refused[_NO_ALT] = None
            self._say("attribute", self._own(node.attributes.get("alt") or ""), ' alt="', '"')
        for name, value in node.attributes.items():
            self._attribute(name, value or "")
        self._markup(">", {"br": _LINE, "hr": f"{_LINE}{'-' * 20}{_LINE}", "li": "- "}.get(tag, ""))
        if tag in _VOID:
            return
        self.walk(node, depth + 1)
        if address:
            self.found.pieces.append(Led(number=number, source=address))
        cell = " · " if tag in ("td", "th") and _has_next(node) else ""
        self._markup(f"</{tag}>", cell or _BREAKS.get(tag, ""))

    def _attribute(self, name: str, value: str) -> None:
        if name.startswith("on"):
            self._refuse(f"“{name}”")
        elif name not in _KEPT:
            return
        elif _PLACE.search(value):
            self._refuse(f"An inlay in “{name}”")
        elif name == "style" and _BAD_STYLE.search(value):
            self._refuse(f"The style “{value[:40]}”")
        else:
            self._markup(f' {name}="{html.escape(value)}"')

    def _words(self, told: str, within: str) -> None:
        text = _SPACE.sub(" ", told)
        if not text.strip() and within in _NO_WORDS:
            return
        self._say("text", self._own(text))

    def _say(
        self, kind: Literal["text", "link", "picture", "attribute"], said: str, before: str = "", end: str = ""
    ) -> int:
        number = self._numbers[kind] = self._numbers.get(kind, -1) + 1
        if before:
            self._markup(before)
        self.found.pieces.append(Said(kind=kind, source=said, number=number))
        if end:
            self._markup(end)
        return number

    def _markup(self, markup: str, text: str = "") -> None:
        self.found.pieces.append(Markup(html=markup, text=text))

    def _own(self, told: str) -> str:
        """The author's text with its inlays in their places."""
        return _PLACE.sub(lambda place: self._inlays[int(place[1])], told)

    def _refuse(self, what: str) -> None:
        self.found.refused[f"{_PLACE.sub('@{…}', what)} cannot stand in a letter: take it out."] = None


def _has_next(cell: LexborNode) -> bool:
    following = cell.next
    while following is not None and following.tag not in ("td", "th"):
        following = following.next
    return following is not None
