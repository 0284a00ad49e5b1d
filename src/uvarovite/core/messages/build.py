"""How the blocks of a document become two programs, one for its HTML and one for its plain text.

Links are numbered once, in the order of the document, so that both lead to the same places. A link within what is
repeated for each record of a list has a number for each of them.
"""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from itertools import groupby
from typing import Protocol

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.expressions import compile_criteria, parse_criteria, print_criteria
from uvarovite.core.inlay import (
    Branches,
    Each,
    InlayContext,
    InlayNode,
    Insert,
    Note,
    Place,
    Stretch,
    compile_node,
    compile_nodes,
    condition_words,
    html_attribute,
    html_text,
    parse_inlay,
    plain,
    url_part,
)
from uvarovite.core.inlay.check import fields_within
from uvarovite.core.inlay.program import Around, Either, Fixed, Op, Program, Repeat, Special, placed
from uvarovite.core.inlay.run import run_program
from uvarovite.core.inlay.tree import Name
from uvarovite.core.language import Span
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.isolation import isolated_html, isolated_text
from uvarovite.core.messages.links import MOST_LINKS, Links, MessageLink, constant_address
from uvarovite.core.messages.passages import NONE, Marked, Marks, Passage, marked
from uvarovite.core.messages.theme import Theme

_TAG = re.compile(r"<[^>]*>")
NOWHERE = Span(start=0, end=0)
# What leads to the page for leaving is no link of the author's: it is never tracked.
LEAVE = "@{unsubscribe_link}"

IN_HTML = Place(fixed=html_text, own=isolated_html, is_marked=True)
IN_ATTRIBUTE = Place(fixed=html_attribute, own=html_attribute)
IN_TEXT = Place(fixed=plain, own=isolated_text)
# One line of text, whatever a value holds.
IN_LINE = Place(fixed=plain, own=lambda text: isolated_text(" ".join(text.split())))
IN_PICTURE = Place(fixed=html_attribute, own=url_part)
IN_ADDRESS = Place(fixed=plain, own=url_part)


@dataclass(slots=True, kw_only=True)
class LetterContext(InlayContext):
    """What a whole letter knows besides: where its links lead, its footer.

    While it is written `addresses` fills, `written` with its links as they stand in it, and `pictures` with the content ids of
    those that go along.
    """

    links: Links
    footer: Footer
    addresses: dict[int, str] = field(default_factory=dict)
    tracked: dict[int, str] = field(default_factory=dict)
    pictures: dict[str, None] = field(default_factory=dict)
    written: dict[int, str] = field(default_factory=dict)

    def href(self, number: int, address: "Address", record: Record) -> str:
        """What stands in the letter for a link, which stands there in its HTML and in its text."""
        found = self.tracked.get(number)
        if found is None:
            to = self.addresses[number] = address(record, self)
            found = self.tracked[number] = self.links.click(number, to)
        return found

    def shown(self, content_id: str) -> str:
        """The address within the message of a picture that goes along (RFC 2392)."""
        self.pictures[content_id] = None
        return f"cid:{content_id}"


Address = Callable[[Record, InlayContext], str]


class BlockLike(Protocol):
    """What a block can do."""

    @property
    def id(self) -> str:
        """What tells it from the others."""

    def as_html(self, build: "Build") -> Program:
        """Its HTML."""

    def as_text(self, build: "Build") -> Program:
        """Its plain text, with an empty line behind it."""


@dataclass(slots=True)
class LinkBook:
    """The numbers of a document's links from `first` on, by the place where they stand."""

    first: int = 0
    numbers: dict[str, int] = field(default_factory=dict)
    links: list[MessageLink] = field(default_factory=list)

    def number(self, place: str, block: str, source: str, *, repeated: bool) -> int:
        """The number of the link at a place."""
        if place not in self.numbers:
            number = self.numbers[place] = self.first + len(self.numbers)
            address = None if repeated else constant_address(source)
            self.links.append(MessageLink(number=number, block=block, address=address))
        return self.numbers[place]


@dataclass(frozen=True, slots=True, kw_only=True)
class Build:
    """What a block needs to write itself: where it stands, the fields that it sees, the look.

    `variable` is what a record is called within what is repeated for each of a list; `embedded` has the content ids of the
    pictures that go along, by address.
    """

    fields: FieldMap
    book: LinkBook
    theme: Theme
    at: str = "blocks"
    block: str = ""
    variable: str | None = None
    embedded: Mapping[str, str] = field(default_factory=dict)

    # ---------------------------------------------------------------- texts

    def words(self, words: tuple[Passage, ...], part: str = "text") -> Program:
        """Words with their marks, as HTML."""
        over = marked(words)
        program = self._marked(parse_inlay(over.source), over, part, self.fields, IN_HTML)
        return placed(program, f"{self.at}.{part}")

    def words_as_text(self, words: tuple[Passage, ...], part: str = "text") -> Program:
        """Words as plain text: where a link leads stands behind it."""
        over = marked(words)
        return self._marked(parse_inlay(over.source), over, part, self.fields, IN_TEXT)

    def line(self, source: str, place: Place = IN_HTML, part: str = "") -> Program:
        """A text without marks."""
        program = compile_nodes(parse_inlay(source), self.fields, place)
        return placed(program, f"{self.at}.{part}") if part else program

    def _marked(self, nodes: tuple[InlayNode, ...], over: Marked, part: str, fields: FieldMap, place: Place) -> Program:
        pieces: list[tuple[Marks, Op]] = []
        for node in nodes:
            match node:
                case Note():
                    continue
                case Stretch():
                    pieces += [(marks, Fixed(text=place.fixed(text))) for text, marks in over.cut(node)]
                case Insert():
                    op = compile_node(node, fields, place)
                    assert op is not None
                    pieces.append((over.where(node.span.start), op))
                case Branches() | Each() if (whole := over.at(node.span)) is not None:
                    op = compile_node(node, fields, place)
                    assert op is not None
                    pieces.append((whole, op))
                case Branches(arms=arms):
                    told = tuple(
                        (
                            compile_criteria(arm.condition, fields) if arm.condition is not None else None,
                            self._marked(arm.body, over, part, fields, place),
                        )
                        for arm in arms
                    )
                    pieces.append((NONE, Either(arms=told, words=condition_words(node), span=node.span)))
                case Each():
                    inner = replace(self, variable=node.variable.name)
                    within = fields_within(node, fields)
                    pieces.append(
                        (
                            NONE,
                            Repeat(
                                listed=node.listed.name,
                                variable=node.variable.name,
                                order=node.order.name if node.order else None,
                                body=inner._marked(node.body, over, part, within, place),
                                otherwise=self._marked(node.otherwise, over, part, fields, place),
                                span=node.span,
                            ),
                        )
                    )
        return self._joined(pieces, over, part, place)

    def _joined(self, pieces: list[tuple[Marks, Op]], over: Marked, part: str, place: Place) -> Program:
        program: list[Op] = []
        for link, linked in groupby(pieces, key=lambda piece: piece[0].link):
            inner: list[Op] = []
            for marks, ops in groupby(linked, key=lambda piece: piece[0]):
                inner += self._wrapped(marks, [op for _, op in ops], place)
            if link is None:
                program += inner
            else:
                program += self.link(f"{part}.{link}", over.links[link], tuple(inner), as_text=place is IN_TEXT)
        return tuple(program)

    def _wrapped(self, marks: Marks, ops: list[Op], place: Place) -> list[Op]:
        if place is IN_TEXT:
            return ops
        before, behind = "", ""
        if marks.colour:
            colour = self.theme.accent if marks.colour == "accent" else self.theme.quiet
            before, behind = f'<span class="{marks.colour}" style="color:{colour}">', "</span>"
        if marks.bold:
            before, behind = f"{before}<strong>", f"</strong>{behind}"
        if marks.italic:
            before, behind = f"{before}<em>", f"</em>{behind}"
        return [Fixed(text=before), *ops, Fixed(text=behind)]

    # ---------------------------------------------------------------- pictures

    def picture(self, address: str, *, embedded: bool) -> Program:
        """What stands for a picture's address."""
        if embedded and (content_id := self.embedded.get(address.strip())):
            return (Special(write=lambda record, letter: letter.shown(content_id), escape=html_attribute),)
        return self.line(address, IN_PICTURE)

    # ---------------------------------------------------------------- links

    def href(self, part: str, source: str, escape: Callable[[str], str] = html_attribute) -> Op:
        """What stands for a link's address."""
        if source.strip() == LEAVE:
            return Special(write=lambda record, letter: letter.links.unsubscribe, escape=escape)
        number = self.book.number(f"{self.at}.{part}", self.block, source, repeated=self.variable is not None)
        address = run_program(self.line(source.strip(), IN_ADDRESS))
        if self.variable is None:
            return Special(
                write=lambda record, letter: letter.href(number, address, record),
                escape=escape,
                number=number,
                is_link=True,
            )
        place = f"{self.variable}."

        def write(record: Record, letter: LetterContext) -> str:
            # Within what is repeated, a record's place in its list stands under the variable's name.
            further = record.get(place, 0)
            one = number + MOST_LINKS * further if isinstance(further, int) else number
            return letter.href(one, address, record)

        return Special(write=write, escape=escape, is_link=True)

    def link(
        self, part: str, source: str, inner: Program, *, as_text: bool = False, style: str = "", kind: str = "accent"
    ) -> Program:
        """Words that lead somewhere."""
        if as_text:
            return (*inner, Fixed(text=" ("), self.href(part, source, plain), Fixed(text=")"))
        look = style or f"color:{self.theme.accent}"
        return (
            Fixed(text='<a href="'),
            self.href(part, source),
            Fixed(text=f'" class="{kind}" style="{look}">'),
            *inner,
            Fixed(text="</a>"),
        )

    # ---------------------------------------------------------------- blocks in blocks

    def each(self, variable: str, listed: str) -> "Build":
        """Within what is repeated for each record of a list."""
        name, of = Name(name=variable, span=NOWHERE), Name(name=listed, span=NOWHERE)
        node = Each(variable=name, listed=of, order=None, body=(), otherwise=(), span=NOWHERE)
        return replace(self, fields=fields_within(node, self.fields), variable=variable)

    def html(self, blocks: Iterable[BlockLike], part: str = "") -> Program:
        """The HTML of blocks in a part of this one."""
        return tuple(op for one, build in self._inside(blocks, part) for op in (*one.as_html(build), Fixed(text="\n")))

    def text(self, blocks: Iterable[BlockLike], part: str = "") -> Program:
        """Their plain text."""
        return tuple(op for one, build in self._inside(blocks, part) for op in one.as_text(build))

    def _inside(self, blocks: Iterable[BlockLike], part: str) -> Iterable[tuple[BlockLike, "Build"]]:
        at = f"{self.at}.{part}" if part else self.at
        return [(one, replace(self, at=f"{at}.{place}", block=one.id)) for place, one in enumerate(blocks)]

    def repeat(self, variable: str, listed: str, order: str, body: Program, otherwise: Program = ()) -> Op:
        """A program for each record of a list, in the order of a part where one is named."""
        return Repeat(
            listed=listed,
            variable=variable,
            order=order or None,
            body=body,
            otherwise=otherwise,
            span=NOWHERE,
            part=f"{self.at}.listed",
        )

    def where_some(self, listed: str, some: Program, none: Program) -> Op:
        """One program for whoever has records in a list, another for whoever has none."""
        arms = ((lambda record, clock: _has_some(record, listed), some), (None, none))
        words = (f"{listed} is not blank", "")
        return Either(arms=arms, words=words, span=NOWHERE, part=f"{self.at}.listed")

    def either(self, arms: Iterable[tuple[str, Program]], otherwise: Program) -> Op:
        """The program of the first arm whose criteria hold."""
        asked = [(parse_criteria(criteria), program) for criteria, program in arms]
        told = tuple((compile_criteria(node, self.fields), program) for node, program in asked)
        words = (*(print_criteria(node) for node, _ in asked), "")
        return Either(arms=(*told, (None, otherwise)), words=words, span=NOWHERE, part=self.at)


def _has_some(record: Mapping[str, object], listed: str) -> bool:
    items = record.get(listed)
    return isinstance(items, tuple) and bool(items)


def without_tags(html: str) -> str:
    """What is read of a stretch of HTML: a mark around nothing is nothing."""
    return _TAG.sub("", html)


def where_any(inner: Program, *, before: Program, behind: Program, read: Callable[[str], str]) -> Program:
    """A program with what stands around it, which is left out where nothing that is `read` stands in it for a person."""
    if any(isinstance(op, Fixed) and read(op.text).strip() for op in inner):
        return (*before, *inner, *behind)
    return (Around(before=before, inner=inner, behind=behind, read=read),) if inner else ()
