"""HTML to blocks: what one reads stays, what acts, fetches or only decorates is left out.

The parser makes of any text a tree, as browsers do (WHATWG HTML, 13.2); the walk over it is bounded in depth.
"""

import re
from collections import Counter
from html import escape

from selectolax.lexbor import LexborHTMLParser, LexborNode

from uvarovite.core.messages.blocks import (
    LONGEST_HTML,
    MOST_BLOCKS,
    Block,
    Button,
    Divider,
    Heading,
    Html,
    Listing,
    Paragraph,
    Picture,
)
from uvarovite.core.messages.from_files.words import WordsOfFile
from uvarovite.core.messages.passages import Passage

# Deeper than mail programs nest tables; below it only words are taken.
_DEEPEST = 120
_LEFT_OUT = {
    "script": "scripts", "noscript": "scripts", "template": "scripts", "form": "forms", "input": "forms", "select": "forms",
    "textarea": "forms", "style": "styles", "link": "styles", "iframe": "frames", "object": "frames", "embed": "frames",
    "video": "frames", "audio": "frames", "svg": "embedded", "canvas": "embedded",
}  # fmt: skip
_SILENT = frozenset({"head", "title", "meta", "base", "-comment", "col", "colgroup"})
_BOLD, _ITALIC = frozenset({"b", "strong"}), frozenset({"i", "em", "cite"})
_INLINE = frozenset(
    [
        "a", "abbr", "b", "bdi", "bdo", "cite", "code", "em", "font", "i", "label", "mark", "q", "s", "small", "span", "strong",
        "sub", "sup", "time", "u", "var", "wbr",
    ]
)  # fmt: skip
_SPACE = re.compile(r"[ \t\r\f\n\u200b\u00ad]+")
_LEADS = re.compile(r"(?:https?://|mailto:)\S+", re.IGNORECASE)
_PLAIN = Passage(text="")
_TABLE = '<table width="100%" cellpadding="4" cellspacing="0">'
# Of a row, and of the rows in one block: what is around them stays under what a block of HTML holds.
_LONGEST_ROW = LONGEST_HTML * 3 // 4


def blocks_of_html(html: str) -> WordsOfFile:
    """The blocks of an HTML document or a piece of one. Never raises; what it cannot say is counted as left out."""
    tree = LexborHTMLParser(html)
    reader = _Reader()
    root = tree.body or tree.root
    if root is not None:
        reader.walk(root, _PLAIN, 0)
    reader.end_paragraph()
    title = tree.css_first("title")
    blocks = tuple(reader.blocks[:MOST_BLOCKS])
    if len(reader.blocks) > MOST_BLOCKS:
        reader.left["blocks"] = MOST_BLOCKS
    reader.left["styles"] += len(tree.css("head style, head link[rel=stylesheet]"))
    reader.left["scripts"] += len(tree.css("head script"))
    return WordsOfFile(
        blocks=blocks,
        subject=_SPACE.sub(" ", title.text()).strip()[:200] if title is not None else "",
        left_out={kind: count for kind, count in reader.left.items() if count},
    )


class _Reader:
    """Walks a tree and collects blocks; `words` are those of the paragraph that is being read."""

    def __init__(self) -> None:
        self.blocks: list[Block] = []
        self.left: Counter[str] = Counter()
        self.words: list[Passage] = []

    def walk(self, node: LexborNode, marks: Passage, depth: int) -> None:
        if depth > _DEEPEST:
            self.say(node.text(separator=" "), marks)
            return
        for child in node.iter(include_text=True):
            self._take(child, child.tag or "", marks, depth + 1)

    def _take(self, node: LexborNode, tag: str, marks: Passage, depth: int) -> None:
        if tag == "-text":
            self.say(node.text_content or "", marks)
        elif tag in _LEFT_OUT:
            self.left[_LEFT_OUT[tag]] += 1
            if tag == "form":
                self.walk(node, marks, depth)
        elif tag in _SILENT:
            return
        elif tag == "br":
            self.words.append(marks.model_copy(update={"text": "\n"}))
        elif tag == "img":
            self._picture(node, marks)
        elif tag == "a":
            self._link(node, marks, depth)
        elif tag in _INLINE:
            self.walk(node, _marked(tag, marks), depth)
        else:
            self._block(node, tag, marks, depth)

    def _block(self, node: LexborNode, tag: str, marks: Passage, depth: int) -> None:
        self.end_paragraph()
        if tag in ("h1", "h2", "h3", "h4", "h5", "h6"):
            words = self._inner(node, _PLAIN, depth)
            if words:
                level = {"h1": 1, "h2": 2}.get(tag, 3)
                self.blocks.append(Heading(text=words, level=level))
        elif tag in ("ul", "ol"):
            items = [self._inner(item, _PLAIN, depth) for item in node.iter() if item.tag == "li"]
            there = tuple(item for item in items if item)[:100]
            if there:
                self.blocks.append(Listing(items=there, ordered=tag == "ol"))
        elif tag == "hr":
            self.blocks.append(Divider())
        elif tag == "table" and _is_data(node):
            self._table(node)
        else:
            self.walk(node, marks, depth)
            self.end_paragraph()

    def _table(self, node: LexborNode) -> None:
        """Rows of data stay a table, as HTML: tables of ours go over a person's own list, which these do not."""
        rows: list[str] = []
        for row in node.css("tr"):
            cells = [(cell.tag, " ".join(cell.text().split())) for cell in row.iter() if cell.tag in ("td", "th")]
            told = "".join(f'<{tag} align="left">{escape(text, quote=False)}</{tag}>' for tag, text in cells)
            if not any(text for _, text in cells):
                continue
            if len(told) > _LONGEST_ROW:
                self.say(" · ".join(text for _, text in cells), _PLAIN)
                self.end_paragraph()
                continue
            if rows and sum(map(len, rows)) + len(told) > _LONGEST_ROW:
                self._put_table(rows)
                rows = []
            rows.append(f"<tr>{told}</tr>")
        if rows:
            self._put_table(rows)

    def _put_table(self, rows: list[str]) -> None:
        self.blocks.append(Html(source="\n".join((_TABLE, *rows, "</table>"))))

    def _link(self, node: LexborNode, marks: Passage, depth: int) -> None:
        address = (node.attributes.get("href") or "").strip()
        if not _LEADS.fullmatch(address) or len(address) > 2_000:
            if address and not address.startswith("#"):
                self.left["links"] += 1
            self.walk(node, marks, depth)
        elif _is_button(node):
            label = " ".join(node.text().split())[:500]
            if label:
                self.end_paragraph()
                self.blocks.append(Button(label=label, url=address))
        else:
            self.walk(node, marks.model_copy(update={"link": address}), depth)

    def _picture(self, node: LexborNode, marks: Passage) -> None:
        address = (node.attributes.get("src") or "").strip()
        if not re.match(r"https?://", address, re.IGNORECASE) or len(address) > 2_000:
            self.left["embedded"] += 1
            return
        width, height = _pixels(node, "width"), _pixels(node, "height")
        if 0 < width <= 2 or 0 < height <= 2:
            return  # one that counts who looks, or holds a place
        self.end_paragraph()
        alt = " ".join((node.attributes.get("alt") or "").split())[:500]
        picture = Picture(
            address=address,
            alt=alt,
            ornament=not alt,
            width=min(max(width or 544, 8), 600),
            link=marks.link,
        )
        self.blocks.append(picture)

    def _inner(self, node: LexborNode, marks: Passage, depth: int) -> tuple[Passage, ...]:
        """The words in a node; blocks in it stand on lines of their own."""
        within = _Reader()
        within.walk(node, marks, depth)
        within.end_paragraph()
        self.left.update(within.left)
        words: list[Passage] = []
        for block in within.blocks:
            for told in (block.text,) if isinstance(block, Heading | Paragraph) else ():
                words += [_PLAIN.model_copy(update={"text": "\n"}), *told] if words else told
            if not isinstance(block, Heading | Paragraph):
                self.blocks.append(block)
        return tuple(_joined(words))

    def say(self, text: str, marks: Passage) -> None:
        """Words of the paragraph that is being read; HTML counts any run of spaces as one."""
        shown = _SPACE.sub(" ", text)
        if shown:
            self.words.append(marks.model_copy(update={"text": shown}))

    def end_paragraph(self) -> None:
        """What was read so far is a paragraph, if there are words in it."""
        words = _trimmed(self.words)
        self.words = []
        if words:
            self.blocks.append(Paragraph(text=words))


def _marked(tag: str, marks: Passage) -> Passage:
    return marks.model_copy(update={"bold": marks.bold or tag in _BOLD, "italic": marks.italic or tag in _ITALIC})


def _trimmed(words: list[Passage]) -> tuple[Passage, ...]:
    """Without spaces at the ends and around line ends, and one space where several meet."""
    out: list[Passage] = []
    behind = "\n"
    for one in words:
        text = one.text
        if behind in (" ", "\n"):
            text = text.lstrip(" ")
        if text.startswith("\n") and out:
            out[-1] = out[-1].model_copy(update={"text": out[-1].text.rstrip(" ")})
        if text:
            out.append(one.model_copy(update={"text": text[:50_000]}))
            behind = text[-1]
    while out and not out[-1].text.strip():
        out.pop()
    if out:
        out[-1] = out[-1].model_copy(update={"text": out[-1].text.rstrip()})
    while out and not out[0].text.strip():
        out.pop(0)
    if out:
        out[0] = out[0].model_copy(update={"text": out[0].text.lstrip()})
    return tuple(_joined(out))[:1_000]


def _joined(words: list[Passage]) -> list[Passage]:
    """Neighbours with the same marks as one."""
    out: list[Passage] = []
    for one in words:
        if out and one.text and out[-1].model_copy(update={"text": one.text}) == one:
            out[-1] = out[-1].model_copy(update={"text": out[-1].text + one.text})
        elif one.text:
            out.append(one)
    return out


def _is_button(node: LexborNode) -> bool:
    """Does a link look like a button: with a ground of its own and room around its words?"""
    style = (node.attributes.get("style") or "").lower()
    kind = f"{node.attributes.get('class') or ''} {node.attributes.get('role') or ''}".lower()
    return ("background" in style and "padding" in style) or "button" in kind or "btn" in kind.split()


def _is_data(node: LexborNode) -> bool:
    """Is a table one of data, not one that only puts things beside each other?"""
    if (node.attributes.get("role") or "").lower() == "presentation" or node.css_first(
        "tr table, tr img, tr a, tr h1, tr h2, tr p"
    ):
        return False
    rows = [sum(cell.tag in ("td", "th") for cell in row.iter()) for row in node.css("tr")]
    return len(rows) > 1 and max(rows) > 1


def _pixels(node: LexborNode, name: str) -> int:
    found = re.match(r"\d{1,5}", (node.attributes.get(name) or "").strip())
    return int(found[0]) if found else 0
