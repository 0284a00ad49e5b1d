"""Advice on the words of a message: what is found where, and that good words get none."""

import pytest

from tests.support.fields import FIELDS
from uvarovite.core.campaigns.release_advice import domain_in_name
from uvarovite.core.messages import (
    Arm,
    Button,
    Heading,
    Listing,
    MessageContent,
    Only,
    Paragraph,
    Passage,
    Picture,
    advice_on,
    check_message,
)
from uvarovite.core.messages.advice import ADVICE
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.spoken import SMALL_WORDS, is_greeting, spoken_in

HERE = "https://skarnmuseum.example"
GOOD = MessageContent(
    subject='@{first_name else "Hello"}, two walks are still open',
    preheader="Boots and a lamp are all that you need",
    blocks=(
        Paragraph(text='Dear @{first_name else "friend"}, 50% of the places (boots included) are taken.'),
        Button(label="Choose a walk", url=f"{HERE}/walks"),
    ),
)


def link(words: str, address: str = HERE) -> tuple[Passage, ...]:
    return (Passage(text="Look "), Passage(text=words, link=address), Passage(text="."))


# (change, key, part)
GIVEN: list[tuple[dict[str, object], str, str]] = [
    ({"preheader": " "}, "no_preheader", "preheader"),
    ({"subject": "Two walks are still open in October, and so is the lamp workshop of the museum"}, "long_subject", "subject"),
    ({"subject": "@{first_name}, TWO WALKS"}, "capitals", "subject"),
    ({"subject": "Dear {{name}}, two walks"}, "brace_left", "subject"),
    ({"blocks": (Paragraph(text="Dear %FIRSTNAME%"), GOOD.blocks[1])}, "brace_left", "blocks.0.text"),
    (
        {"blocks": (Only(arms=(Arm(criteria="volunteer", blocks=(Heading(text="Hi [[name]]"),)),)), *GOOD.blocks)},
        "brace_left",
        "blocks.0.arms.0.blocks.0.text",
    ),
    ({"blocks": (*GOOD.blocks, Button(label="Go", url="https://www.example.com/x"))}, "example_link", "blocks.2.url"),
    (
        {"blocks": (*GOOD.blocks, Picture(address="http://localhost/a.png", alt="A walk"))},
        "example_link",
        "blocks.2.address",
    ),
    ({"blocks": (*GOOD.blocks, Paragraph(text=link("Click here")))}, "vague_link", "blocks.2.text"),
    ({"blocks": (*GOOD.blocks, Listing(items=(link("mehr …"),)))}, "vague_link", "blocks.2.items.0"),
    ({"blocks": (*GOOD.blocks, Button(label="Read more →", url=HERE))}, "vague_link", "blocks.2.label"),
    ({"blocks": (*GOOD.blocks, Button(label=" ", url=HERE))}, "no_label", "blocks.2.label"),
    (
        {"blocks": (*GOOD.blocks, Paragraph(text="Wir freuen uns auf Sie und die Lampe ist für Sie da."))},
        "two_languages",
        "blocks.2.text",
    ),
    ({"language": "de", "blocks": (Paragraph(text="The lamp is here for you and for your guests."), GOOD.blocks[1])}, "two_languages", "blocks.0.text"),
    ({"blocks": (*GOOD.blocks, Paragraph(text="Hello @{town}, how is it?"))}, "greeted_twice", "blocks.2.text"),
    ({"blocks": GOOD.blocks[:1]}, "no_link", "blocks"),
    ({"blocks": (*GOOD.blocks, *(Paragraph(text="x" * 40_000) for _ in range(3)))}, "large", "blocks"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "key", "part"), GIVEN)
def test_what_would_be_better_is_said_where_it_stands(change: dict[str, object], key: str, part: str) -> None:
    words = GOOD.model_copy(update=change)
    assert check_message(words, FIELDS) == []
    (advised,) = advice_on(words, FIELDS)
    assert (advised.key, advised.part) == (key, part)
    assert "{" not in advised.message.replace("@{first_name}", "").replace("{{name}}", "")
    assert "?" not in advised.message


def test_good_words_get_no_advice_and_every_row_is_tried() -> None:
    assert advice_on(GOOD, FIELDS) == []
    assert {key for _, key, _ in GIVEN} == set(ADVICE)


def test_a_language_is_known_by_its_small_words_and_a_short_text_by_none() -> None:
    told = {
        "en": "We are glad that you are with us, and the lamp is here for you.",
        "de": "Wir freuen uns, dass Sie mit uns sind, und die Lampe ist für Sie da.",
        "fr": "Nous sommes heureux que vous soyez avec nous, et la lampe est pour vous.",
        "pl": "Cieszymy się, że są Państwo z nami, a lampa jest dla Państwa.",
        "nl": "Wij zijn blij dat u met ons bent, en de lamp is voor u.",
        "es": "Nos alegra que esté con nosotros, y la lámpara es para usted en el museo.",
        "it": "Siamo lieti che lei sia con noi, e la lampada è per lei nel museo.",
        "el": "Χαιρόμαστε που είστε με μας και η λάμπα είναι για σας.",
    }
    assert set(told) == set(SMALL_WORDS) == set(LANGUAGES)
    assert {language: spoken_in(text) for language, text in told.items()} == {one: one for one in told}
    assert spoken_in("Skarn, Garnet Lane 4") is None
    assert spoken_in("la de") is None
    assert [is_greeting(words) for words in ("Dear ", "Liebe Ada,", " Chère", "Walks", "")] == [
        True,
        True,
        True,
        False,
        False,
    ]


@pytest.mark.parametrize(
    ("name", "domain", "found"),
    [
        ("Signe Vale, Skarn Museum", "skarnmuseum.example", None),
        ("museum.example", "mail.museum.example", None),
        ("Walks at mail.skarnmuseum.example", "skarnmuseum.example", None),
        ("Payments kiln-bank.example", "skarnmuseum.example", "kiln-bank.example"),
        ("Dr. Vale", "skarnmuseum.example", None),
    ],
)
def test_a_name_that_speaks_of_another_domain_is_found(name: str, domain: str, found: str | None) -> None:
    assert domain_in_name(name, f"signe@{domain}") == found
