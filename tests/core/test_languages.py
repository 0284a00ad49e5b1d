"""One message in several languages: each reader gets theirs, nothing of the others, and links are told apart."""

import pytest

from tests.core.test_inlay import context
from tests.support.fields import FIELDS
from tests.support.records import NOBODY
from uvarovite.core.contacts import Record
from uvarovite.core.messages import (
    Button,
    LetterMaker,
    MessageContent,
    Paragraph,
    advice_on,
    check_message,
    plain_links,
)
from uvarovite.core.messages.document import Basis, OtherWords, reads
from uvarovite.core.messages.features import FeatureKind, features_of
from uvarovite.core.messages.footer import Footer

FOOTER = Footer(topic="Walks", since=None, organisation="Museum", postal_address="1 Slate Row")
MAIN = (Paragraph(text='Dear @{first_name else "friend"}'), Button(label="Book", url="https://a.example/en"))
GERMAN = OtherWords(
    language="de",
    subject="Zwei Wege",
    blocks=(Paragraph(text='Liebe @{first_name else "Freundin"}'), Button(label="Buchen", url="https://a.example/de")),
)
CONTENT = MessageContent(subject="Two walks", blocks=MAIN, others=(GERMAN,))


def person(**told: str) -> Record:
    return {**NOBODY, **told}


@pytest.mark.parametrize(
    ("language", "subject", "words", "leads"),
    [
        ("de", "Zwei Wege", "Liebe Ada", "https://a.example/de"),
        ("de_AT", "Zwei Wege", "Liebe Ada", "https://a.example/de"),
        ("DE-ch", "Zwei Wege", "Liebe Ada", "https://a.example/de"),
        ("en", "Two walks", "Dear Ada", "https://a.example/en"),
        ("pl", "Two walks", "Dear Ada", "https://a.example/en"),
        ("", "Two walks", "Dear Ada", "https://a.example/en"),
    ],
)
def test_each_reader_gets_the_words_in_their_language_else_the_main_ones(
    language: str, subject: str, words: str, leads: str
) -> None:
    assert check_message(CONTENT, FIELDS) == []
    maker = LetterMaker(CONTENT, FIELDS)
    record = person(first_name="Ada", language=language)
    found = maker.render(record, context(), plain_links(), FOOTER)
    assert found.subject == subject
    assert words in found.html
    assert words in found.text
    assert list(maker.addresses(record, context()).values()) == [leads]
    assert maker.language_for(record) == ("de" if reads(record) == "de" else "")


def test_links_of_several_languages_have_numbers_of_their_own() -> None:
    maker = LetterMaker(CONTENT, FIELDS)
    assert [(link.number, link.address) for link in maker.links] == [
        (0, "https://a.example/en"),
        (1, "https://a.example/de"),
    ]
    assert list(maker.addresses(person(language="de"), context())) == [1]


def test_what_is_wrong_in_another_language_is_told_with_its_place() -> None:
    broken = GERMAN.model_copy(update={"subject": "", "blocks": (Paragraph(text="@{frist_name}"),)})
    found = check_message(CONTENT.model_copy(update={"others": (broken,)}), FIELDS)
    assert [(one.part, one.problem.code) for one in found] == [
        ("others.0.subject", "no_subject"),
        ("others.0.blocks.0.text", "unknown_field"),
    ]
    twice = check_message(CONTENT.model_copy(update={"others": (GERMAN, GERMAN)}), FIELDS)
    assert [one.problem.code for one in twice] == ["twice"]


def test_a_version_that_the_main_words_left_behind_is_told_and_ids_are_no_difference() -> None:
    def told(content: MessageContent, basis: Basis | None) -> list[str]:
        other = GERMAN.model_copy(update={"basis": basis})
        return [one.key for one in advice_on(content.model_copy(update={"others": (other,)}), FIELDS)]

    basis = Basis(subject=CONTENT.subject, blocks=CONTENT.blocks)
    assert "lags" not in told(CONTENT, basis)
    assert "lags" not in told(CONTENT, None)
    assert "lags" in told(CONTENT.model_copy(update={"subject": "Three walks"}), basis)


def test_proofs_show_each_language_and_what_differs_in_each() -> None:
    people = [person(first_name="Ada"), person(), person(language="de", first_name="Uwe"), person(language="de")]
    found = features_of(LetterMaker(CONTENT, FIELDS).letter_for, [(one, context()) for one in people])
    fallbacks = {
        feature.letter: [bool(has) for has in found.has[:, place]]
        for place, feature in enumerate(found.features)
        if feature.kind is FeatureKind.FALLBACK and feature.part == "blocks.0.text"
    }
    assert fallbacks == {"": [False, True, False, False], "de": [False, False, False, True]}
