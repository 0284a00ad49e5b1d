"""Blocks and marks: what each gives as HTML and as text, what is refused of them, and that no value makes a tag."""

from datetime import date
from decimal import Decimal
from html.parser import HTMLParser
from urllib.parse import unquote

import html5lib
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from tests.core.test_inlay import context, hostile
from tests.core.test_messages import FOOTER, LINKS
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.contacts import Record
from uvarovite.core.messages import (
    Arm,
    Block,
    Button,
    Buttons,
    Columns,
    Divider,
    ForEach,
    Heading,
    Html,
    LetterMaker,
    Links,
    Listing,
    MessageContent,
    Only,
    Paragraph,
    Passage,
    Picture,
    RenderedMessage,
    Shared,
    Space,
    Table,
    TableColumn,
    check_message,
    fields_without_fallback,
)
from uvarovite.core.messages.links import link_words
from uvarovite.core.values import Money

HERE = "https://museum.example"
OWNER: Record = {
    **ADA,
    "adopted_specimens": (
        {"name": "Galena", "price": Money(amount=Decimal("12"), currency="EUR")},
        {"name": "Fluorite", "price": Money(amount=Decimal("18.5"), currency="EUR"), "since": date(2021, 5, 1)},
    ),
}
PLAIN_LINKS = Links(click=lambda number, address: f"{address}#{number}", unsubscribe=f"{HERE}/u", pixel=None)


def content(*blocks: Block) -> MessageContent:
    return MessageContent(subject="Two walks", blocks=(*blocks, Paragraph(text="The end")))


def letter(*blocks: Block, record: Record = OWNER, language: str = "en") -> RenderedMessage:
    words = content(*blocks)
    assert check_message(words, FIELDS) == []
    return LetterMaker(words, FIELDS).render(record, context(language), PLAIN_LINKS, FOOTER)


class Tags(HTMLParser):
    """What a parser finds: each tag with its attributes, and the texts in between."""

    def __init__(self, source: str) -> None:
        super().__init__()
        self.tags: list[tuple[str, tuple[tuple[str, str | None], ...]]] = []
        self.texts: list[str] = []
        self.feed(source)
        self.close()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append((tag, tuple(attrs)))

    def handle_endtag(self, tag: str) -> None:
        self.tags.append((f"/{tag}", ()))

    def handle_data(self, data: str) -> None:
        self.texts.append(data)


def shown(message: RenderedMessage) -> tuple[str, str]:
    """The author's part of a letter: its texts in the order of the HTML, and the plain text."""
    texts = [text for text in Tags(f"<body{message.html.split('<body')[1]}").texts if text.strip(" \n")]
    return "|".join(texts).split("The end")[0].strip("|"), message.text.split("The end")[0].strip()


PRICE = TableColumn(title="Price", value="@{s.price}", total="@{sum(adopted_specimens.price)}", align="end")
TABLE = Table(
    variable="s",
    listed="adopted_specimens",
    order="name",
    columns=(TableColumn(title="Specimen", value="@{s.name}", total="Together"), PRICE),
    otherwise='None yet, @{first_name else "friend"}.',  # type: ignore[arg-type]
)
# (blocks, what the owner reads as HTML and as text, and what somebody without any data does)
READ = [
    ((Heading(text="Walks", level=2),), "Walks", "Walks", "Walks"),
    ((Heading(text="@{if volunteer}Thanks@{end}"),), "Thanks", f"Thanks\n{'-' * 24}", ""),
    ((Listing(items=("One", "@{town}")),), "One|Skarn", "- One\n- Skarn", "- One"),
    ((Listing(items=("@{town}", "Two"), ordered=True),), "Skarn|Two", "1. Skarn\n2. Two", "2. Two"),
    ((Paragraph(text="@{if volunteer}Thanks@{end}"),), "Thanks", "Thanks", ""),
    ((Divider(), Space(height=40)), "\xa0", "--------------------", "--------------------"),
    (
        (Only(arms=(Arm(criteria="volunteer", blocks=(Paragraph(text="A"),)),), otherwise=(Paragraph(text="B"),)),),
        "A",
        "A",
        "B",
    ),
    (
        (
            ForEach(
                variable="s",
                listed="adopted_specimens",
                blocks=(Paragraph(text="@{s.name} of @{town}"),),
                otherwise=(Paragraph(text="None"),),
            ),
        ),
        "Galena of Skarn|Fluorite of Skarn",
        "Galena of Skarn\n\nFluorite of Skarn",
        "None",
    ),
    (
        (TABLE,),
        "Specimen|Price|Fluorite|€18.50|Galena|€12.00|Together|€30.50",
        "Specimen · Price\nFluorite · €18.50\nGalena · €12.00\nTogether · €30.50",
        "None yet, friend.",
    ),
    (
        (Columns(columns=((Paragraph(text="left"),), (Paragraph(text="right"),))),),
        "left|right",
        "left\n\nright",
        "left\n\nright",
    ),
    (
        (Shared(message_id=1, blocks=(Heading(text="@{town}", level=3), Paragraph(text="Open"))),),
        "Skarn|Open",
        "Skarn\n\nOpen",
        "Open",
    ),
    (
        (
            Html(
                source='<h2 class="a">In @{town else "<b>"}</h2><p>Read<br><a href="https://museum.example/a">this</a>'
            ),
        ),
        "In Skarn|Read|this",
        f"In Skarn\n\nRead\nthis ({HERE}/a#0)",
        f"In <b>\n\nRead\nthis ({HERE}/a#0)",
    ),
    ((Picture(address=f"{HERE}/@{{town}}.png", alt="A @{membership}"),), "", "[A Patron]", "[A ]"),
    (
        (Buttons(variable="s", listed="adopted_specimens", label="See @{s.name}", url=f"{HERE}/@{{s.name}}"),),
        "See Galena|See Fluorite",
        f"See Galena:\n{HERE}/Galena#0\n\nSee Fluorite:\n{HERE}/Fluorite#256",
        "",
    ),
]


@pytest.mark.parametrize(("blocks", "html", "text", "for_nobody"), READ, ids=[row[0][0].kind for row in READ])
def test_a_block_says_the_same_as_html_and_as_text(
    blocks: tuple[Block, ...], html: str, text: str, for_nobody: str
) -> None:
    message = letter(*blocks)
    assert shown(message) == (html, text)
    assert shown(letter(*blocks, record=NOBODY))[1] == for_nobody


@pytest.mark.parametrize("record", [OWNER, NOBODY], ids=["owner", "nobody"])
@pytest.mark.parametrize("language", ["en", "ar"])
def test_a_letter_is_html_without_an_error(record: Record, language: str) -> None:
    blocks = [block for row in READ for block in row[0]]
    html = LetterMaker(content(*blocks), FIELDS).render(record, context(language), LINKS, FOOTER).html
    html5lib.HTMLParser(strict=True).parse(html)
    assert len(html) < 102_000


def test_every_kind_of_block_was_read() -> None:
    kinds = {block.kind for blocks, *_ in READ for block in blocks} | {Button.model_fields["kind"].default}
    union = TypeAdapter(Block).json_schema()["$defs"]
    assert kinds == {one["properties"]["kind"]["const"] for one in union.values() if "kind" in one["properties"]}


def test_marks_lie_over_words_whatever_conditions_leave_out() -> None:
    words = (
        Passage(text="Dear "),
        Passage(text="@{first_name", bold=True),
        Passage(text=' else "friend"}', bold=True, italic=True),
        Passage(text=", @{if volunteer}come ", italic=True),
        Passage(text="soon", link=f"{HERE}/a"),
        Passage(text="@{else}stay", link=f"{HERE}/a", bold=True),
        Passage(text=" here@{end}.", colour="accent"),
    )
    html = letter(Paragraph(text=words)).html
    assert '<strong>Ada</strong><em>, </em><em>come </em><a href="https://museum.example/a#0"' in html
    other = letter(Paragraph(text=words), record=NOBODY).html
    assert "<strong>friend</strong>" in other
    for source in (html, other):
        assert balanced(source)


def balanced(source: str) -> bool:
    open_: list[str] = []
    for tag, _ in Tags(source).tags:
        if tag.startswith("/"):
            if not open_ or open_.pop() != tag[1:]:
                return False
        elif tag not in ("meta", "br", "hr", "img"):
            open_.append(tag)
    return open_ == []


def test_a_mark_around_nothing_is_nothing() -> None:
    words = (Passage(text="@{if volunteer}"), Passage(text="Thanks", bold=True), Passage(text="@{end}"))
    blocks = (Paragraph(text=words), Listing(items=(words, (Passage(text="One"),))))
    assert shown(letter(*blocks)) == ("Thanks|Thanks|One", "Thanks\n\n- Thanks\n- One")
    message = letter(*blocks, record=NOBODY)
    assert shown(message) == ("One", "- One")
    assert "<strong>" not in message.html
    assert message.html.count("<li") == 1


_texts = st.sampled_from(
    ["word ", "@{town}", '@{first_name else "x"}', "@{if volunteer}", "@{else}", "@{end}", "@{each s in adopted_specimens}",
     "@{s.name}", "@@{", "\n", "<b>&", "@{# n}", "\u05d0", "@{f", "irst_name}"]
)  # fmt: skip
passages = st.builds(
    Passage,
    text=_texts,
    bold=st.booleans(),
    italic=st.booleans(),
    colour=st.sampled_from(["", "accent"]),
    link=st.sampled_from(["", "", f"{HERE}/@{{town}}", "@{unsubscribe_link}"]),
)


@given(st.lists(passages, max_size=9), st.sampled_from([OWNER, NOBODY, ADA]))
def test_tags_are_balanced_and_marks_change_no_word(words: list[Passage], record: Record) -> None:
    told = content(Paragraph(text=tuple(words)))
    if check_message(told, FIELDS):
        return
    maker = LetterMaker(told, FIELDS)
    marked = maker.render(record, context(), PLAIN_LINKS, FOOTER)
    assert maker.addresses(record, context()) == marked.addresses
    bare = content(Paragraph(text="".join(one.text for one in words)))  # type: ignore[arg-type]
    plain = LetterMaker(bare, FIELDS).render(record, context(), PLAIN_LINKS, FOOTER)
    assert balanced(marked.html)
    assert "".join(Tags(marked.html).texts) == "".join(Tags(plain.html).texts)


EVERYTHING = content(
    Heading(text="Dear @{town}"),
    Paragraph(text=(Passage(text="@{town} and ", bold=True), Passage(text="@{town}", link=f"{HERE}/?t=@{{town}}"))),
    Listing(items=("@{town}",)),
    Button(label="@{town}", url=f"{HERE}/?t=@{{town}}"),
    Picture(address=f"{HERE}/@{{town}}", alt="@{town}", link=f"{HERE}/@{{town}}"),
    ForEach(variable="s", listed="adopted_specimens", blocks=(Paragraph(text="@{s.name}"),)),
    Table(variable="s", listed="adopted_specimens", columns=(TableColumn(value="@{s.name}", total="@{town}"),)),
    Buttons(variable="s", listed="adopted_specimens", label="@{s.name}", url=f"{HERE}/@{{s.name}}"),
)


@pytest.mark.parametrize("record", [OWNER, NOBODY, ADA])
def test_where_links_lead_is_told_without_writing_the_letter(record: Record) -> None:
    maker = LetterMaker(EVERYTHING, FIELDS)
    written = maker.render(record, context(), PLAIN_LINKS, FOOTER).addresses
    assert written
    assert maker.addresses(record, context()) == written


@given(hostile)
def test_no_value_makes_a_tag_an_attribute_or_another_link(value: str) -> None:
    def tags(town: str) -> Tags:
        record: Record = {**NOBODY, "town": town, "adopted_specimens": ({"name": town},)}
        return Tags(LetterMaker(EVERYTHING, FIELDS).render(record, context(), LINKS, FOOTER).html)

    def form(found: Tags) -> list[object]:
        return [
            (tag, [(name, None if name in ("alt", "src") else said) for name, said in attributes])
            for tag, attributes in found.tags
            if tag not in ("br", "p", "/p", "li", "/li")
        ]

    harmless, found = tags("Skarn"), tags(value)
    assert form(found) == form(harmless)
    pictures = [dict(attributes)["src"] for tag, attributes in found.tags if tag == "img"]
    assert pictures[0] is not None
    assert unquote(pictures[0]) == f"{HERE}/{value}"


def test_a_name_that_runs_the_other_way_turns_nothing_around_it() -> None:
    message = letter(Paragraph(text="@{first_name}, 3 walks"), record={**ADA, "first_name": "דליה"})
    assert '<span dir="auto">דליה</span>, 3 walks' in message.html
    assert "\u2068דליה\u2069, 3 walks" in message.text


def test_a_hole_is_where_everybody_gets_the_words() -> None:
    hole = Paragraph(text="@{town}")
    for guarded in (
        Only(arms=(Arm(criteria="town is not blank", blocks=(hole,)),), otherwise=(hole,)),
        ForEach(variable="s", listed="adopted_specimens", blocks=(hole,), otherwise=(hole,)),
        Table(variable="s", listed="adopted_specimens", columns=(TableColumn(title="@{town}", value="@{town}"),)),
        Buttons(variable="s", listed="adopted_specimens", label="@{town}", url=f"{HERE}/@{{town}}"),
    ):
        assert fields_without_fallback(content(guarded), FIELDS) == []
    beside = Columns(columns=((hole,), (hole,)))
    assert fields_without_fallback(content(beside), FIELDS) == [
        ("blocks.0.columns.0.0.text", "town"),
        ("blocks.0.columns.1.0.text", "town"),
    ]


def test_a_link_is_called_by_its_place_and_its_record() -> None:
    assert [link_words(number) for number in (0, 7, 256, 521)] == [
        "link 1", "link 8", "link 1 of record 2", "link 10 of record 3",
    ]  # fmt: skip


# (blocks, part, code)
FAULTY = [
    ((Picture(address="", alt="a"),), "blocks.0.address", "bad_link"),
    ((Picture(address="mailto:a@museum.example", alt="a"),), "blocks.0.address", "bad_link"),
    ((Picture(address=f"{HERE}/a.png"),), "blocks.0.alt", "no_alt"),
    ((Paragraph(text=(Passage(text="a", link="javascript:x"),)),), "blocks.0.text.0.link", "bad_link"),
    ((Only(arms=(Arm(criteria="volunter"),)),), "blocks.0.arms.0.criteria", "unknown_field"),
    ((Only(arms=(Arm(criteria="opened"),)),), "blocks.0.arms.0.criteria", "only_criteria"),
    ((ForEach(variable="s", listed="town"),), "blocks.0.listed", "no_list"),
    ((ForEach(variable="town", listed="adopted_specimens"),), "blocks.0.listed", "each_name"),
    (
        (ForEach(variable="s", listed="adopted_specimens", blocks=(Paragraph(text="@{s.nam}"),)),),
        "blocks.0.blocks.0.text",
        "unknown_field",
    ),
    (
        (ForEach(variable="t", listed="adopted_specimens", blocks=(TABLE,)),),
        "blocks.0.blocks.0.listed",
        "nested_each",
    ),
    (
        (ForEach(variable="t", listed="adopted_specimens", blocks=(Paragraph(text="@{each s in adopted_specimens}@{end}"),)),),
        "blocks.0.blocks.0.text",
        "nested_each",
    ),
    ((TABLE.model_copy(update={"order": "nam"}),), "blocks.0.listed", "unknown_part"),
    ((Columns(columns=((Paragraph(text="x"),) * 100,) * 2),), "blocks", "many_blocks"),
]  # fmt: skip


@pytest.mark.parametrize(("blocks", "part", "code"), FAULTY)
def test_what_is_wrong_with_a_block_is_found_at_its_part(blocks: tuple[Block, ...], part: str, code: str) -> None:
    found = check_message(content(*blocks), FIELDS)
    assert (part, code) in [(one.part, one.problem.code) for one in found]


@pytest.mark.parametrize(("depth", "beside"), [(21, 1), (200, 1), (3, 13)])
def test_what_is_nested_beyond_all_measure_is_no_message(depth: int, beside: int) -> None:
    block: object = {"kind": "paragraph", "text": "deep"}
    for _ in range(depth):
        block = {"kind": "only", "arms": [{"criteria": "volunteer", "blocks": [block] * beside}]}
    with pytest.raises(ValueError, match=r"more than 20 deep, or are more than 2,000"):
        MessageContent.model_validate({"subject": "x", "blocks": [block]})


def test_blocks_stand_in_each_other_so_deep_and_no_deeper() -> None:
    block: Block = Paragraph(text="deep")
    for _ in range(3):
        block = Only(arms=(Arm(criteria="volunteer", blocks=(block,)),))
    assert [one.problem.code for one in check_message(content(block), FIELDS)] == ["too_deep"]
