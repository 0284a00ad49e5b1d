"""How letters look: what is chosen is in the letter, words on buttons can be read, and nothing chosen writes HTML."""

import pydantic
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_inlay import context
from tests.support.fields import FIELDS
from tests.support.records import NOBODY
from uvarovite.core.messages import Button, LetterMaker, MessageContent, Paragraph, plain_links
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.look import ENOUGH, FONTS, Look, contrast, contrasts, theme_of
from uvarovite.core.messages.theme import THEME

FOOTER = Footer(topic="Walks", since=None, organisation="Museum", postal_address="1 Slate Row")
colours = st.integers(0, 0xFFFFFF).map(lambda number: f"#{number:06x}")


def letter(look: Look) -> str:
    content = MessageContent(subject="x", blocks=(Paragraph(text="Words"), Button(label="Go", url="https://a.example")))
    return LetterMaker(content, FIELDS, theme_of(look)).render(NOBODY, context(), plain_links(), FOOTER).html


def test_nothing_chosen_is_the_theme_that_letters_always_had() -> None:
    assert theme_of(Look()) == THEME
    assert all(one.enough for one in contrasts(THEME))


def test_what_is_chosen_is_in_the_letter() -> None:
    html = letter(
        Look(accent="#8a2440", font="book", corners=20, logo="https://a.example/l.png?a=1&b", logo_words='Our "house"')
    )
    assert "background:#8a2440" in html
    assert FONTS["book"] in html
    assert "border-radius:20px" in html
    assert 'src="https://a.example/l.png?a=1&amp;b" width="160" alt="Our &quot;house&quot;"' in html
    assert "<img" not in letter(Look())


@given(colours)
def test_words_on_a_button_can_be_read_whatever_its_colour(accent: str) -> None:
    theme = theme_of(Look(accent=accent, dark_accent=accent))
    assert contrast(theme.on_accent, accent) >= ENOUGH
    assert contrast(theme.dark_on_accent, accent) >= ENOUGH


@given(colours, colours)
def test_contrast_is_the_same_both_ways_and_between_1_and_21(one: str, other: str) -> None:
    assert contrast(one, other) == contrast(other, one)
    assert 1 <= contrast(one, other) <= 21.001
    # From WCAG: black on white is 21, a colour on itself 1.
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast(one, one) == 1


def test_what_cannot_be_read_is_told() -> None:
    found = {one.what: one for one in contrasts(theme_of(Look(ink="#999999", paper="#ffffff")))}
    assert (found["words"].ratio, found["words"].enough) == (2.8, False)


@pytest.mark.parametrize(
    "wrong",
    [{"accent": "red"}, {"accent": "#12345"}, {"ink": "#1b7350;x"}, {"font": "url(x)"}, {"corners": 99}, {"more": 1}],
)
def test_what_is_no_colour_or_face_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(pydantic.ValidationError):
        Look.model_validate(wrong)
