"""Letters on paper: addresses as envelopes want them, and pages whose values stay words."""

from dataclasses import replace
from datetime import UTC, date, datetime

import html5lib
import pytest
from babel import Locale
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.contacts import STANDARD_FIELDS, Field, FieldType, Record
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages import Block, Button, Heading, MessageContent, Paragraph, Passage, Picture
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.paper import Paper, PaperFacts, PaperMaker, address_on_paper, home_of
from uvarovite.core.messages.paper import words as paper_words

FIELDS = {
    field.key: field
    for field in (
        *STANDARD_FIELDS,
        *(
            Field(key=key, label=key, type=FieldType.TEXT)
            for key in ("street", "postcode", "town", "region", "country")
        ),
    )
}
FACTS = PaperFacts(
    organisation="Skarn Museum",
    postal_address="1 Slate Row\nSK1 2AB Skarn\nSkarnland",
    locale="en_GB",
    day=date(2026, 11, 29),
    paper=Paper.DIN,
)
ADA: Record = {
    "first_name": "Ada",
    "last_name": "Wren",
    "street": "8 Adit Lane",
    "postcode": "SK6 9AP",
    "town": "Skarn",
}

FREE = ("br", "bdi", "span")


def page(record: Record, *blocks: Block, subject: str = "Two walks", paper: Paper = Paper.DIN) -> str:
    maker = PaperMaker(MessageContent(subject=subject, blocks=blocks), FIELDS)
    clock = Clock.at(datetime(2026, 11, 29, 9, tzinfo=UTC), "Europe/London")
    context = InlayContext(locale=Locale.parse("en_GB"), clock=clock, provided={})
    return maker.page(record, context, replace(FACTS, paper=paper))


def read(html: str) -> str:
    """What is read of a page, as a parser that follows the standard strictly has it."""
    body = html5lib.HTMLParser(strict=True, namespaceHTMLElements=False).parse(html).find("body")
    assert body is not None
    return " ".join(" ".join(body.itertext()).split())


def tags(html: str) -> list[str]:
    parsed = html5lib.HTMLParser(strict=True, namespaceHTMLElements=False).parse(html)
    return [str(one.tag) for one in parsed.iter()]


@pytest.mark.parametrize(
    ("home", "record", "lines"),
    [
        ("en_GB", {}, ("Ada Wren", "8 Adit Lane", "Skarn", "SK6 9AP")),
        # At home the country does not stand there, however it is written.
        ("en_GB", {"country": "SKARNLAND"}, ("Ada Wren", "8 Adit Lane", "Skarn", "SK6 9AP")),
        ("en_GB", {"country": "gb"}, ("Ada Wren", "8 Adit Lane", "Skarn", "SK6 9AP")),
        # Abroad it stands last, in the words of where the letter is posted; the lines are the other country's.
        ("en_GB", {"country": "Germany"}, ("Ada Wren", "8 Adit Lane", "SK6 9AP Skarn", "GERMANY")),
        ("de_DE", {"country": "France"}, ("Ada Wren", "8 Adit Lane", "SK6 9AP Skarn", "FRANKREICH")),
        ("de_DE", {"country": "US", "region": "NV"}, ("Ada Wren", "8 Adit Lane", "Skarn, NV SK6 9AP", "VEREINIGTE STAATEN")),
        ("en_GB", {"country": "Gossania"}, ("Ada Wren", "8 Adit Lane", "Skarn", "SK6 9AP", "GOSSANIA")),
        ("en_GB", {"last_name": None, "street": " Flat 3 \n\n 8  Adit Lane"}, ("Ada", "Flat 3", "8 Adit Lane", "Skarn", "SK6 9AP")),
    ],
)  # fmt: skip
def test_an_address_stands_as_its_country_writes_it(home: str, record: Record, lines: tuple[str, ...]) -> None:
    where = home_of(home, FACTS.postal_address)
    assert address_on_paper({**ADA, **record}, where).lines == lines


def test_letters_are_sorted_home_first_and_by_the_numbers_in_their_postcodes() -> None:
    people = [
        {"postcode": "SK18 3GN"},
        {"postcode": "10552", "country": "Greece"},
        {"postcode": "SK2 9AA"},
        {"postcode": "04109", "country": "Germany"},
        {"postcode": "SK2 10AA"},
    ]
    home = home_of("en_GB", FACTS.postal_address)
    placed = sorted(people, key=lambda one: address_on_paper({**ADA, **one}, home).sort_key)
    assert [one["postcode"] for one in placed] == ["SK2 9AA", "SK2 10AA", "SK18 3GN", "04109", "10552"]


def test_a_link_says_where_it_leads_and_the_way_to_leave_leads_nowhere() -> None:
    site, site_words = "https://skarnmuseum.example/walks?a=1&b=2", "https://skarnmuseum.example"
    told = read(
        page(
            ADA,
            Button(label="Choose a walk", url=site),
            Paragraph(
                text=(
                    Passage(text="See "),
                    Passage(text="skarnmuseum.example", link=site_words),
                    Passage(text=", write to "),
                    Passage(text="us", link="mailto:walks@skarnmuseum.example?subject=Walks"),
                    Passage(text=" or "),
                    Passage(text="leave", link="@{unsubscribe_link}"),
                    Passage(text="."),
                )
            ),
        )
    )
    assert f"Choose a walk ({site})" in told
    assert "See skarnmuseum.example, write to us (walks@skarnmuseum.example) or leave." in told
    assert "<a " not in page(ADA, Button(label="Choose a walk", url=site))


def test_a_subject_that_is_the_heading_is_said_once() -> None:
    assert read(page(ADA, Heading(text="Two walks"), Paragraph(text="Come."))).count("Two walks") == 1
    assert read(page(ADA, Heading(text="A path"), Paragraph(text="Come."))).count("Two walks") == 1


@given(st.fixed_dictionaries({key: st.text(max_size=60) for key in ("first_name", "last_name", "street", "postcode", "town", "country")}))  # fmt: skip
def test_no_value_is_more_than_words_and_all_of_the_address_is_there(values: dict[str, str]) -> None:
    # What no text of a record can hold (see core.contacts): the controls.
    record = {key: "".join(sign for sign in value if sign.isprintable()) for key, value in values.items()}
    blocks = (
        Paragraph(text="Dear @{first_name}, of @{town}"),
        Picture(address="https://skarnmuseum.example/@{town}.png", alt="@{last_name}"),
    )
    plainly = page({**dict.fromkeys(record, "x"), "country": ""}, *blocks)
    made = page(record, *blocks)
    lines = address_on_paper(record, FACTS.home).lines
    # Lines of an address are as many as there are, and a name that runs the other way stands by itself.
    assert [tag for tag in tags(made) if tag not in FREE] == [tag for tag in tags(plainly) if tag not in FREE]
    assert " ".join(" ".join(lines).split()) in read(made)


def test_whoever_reads_a_footer_in_their_language_reads_the_same_on_paper() -> None:
    assert paper_words.LANGUAGES == LANGUAGES
