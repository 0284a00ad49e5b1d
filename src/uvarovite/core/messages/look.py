"""How an organisation's letters look: what it chooses, the theme that follows from it, and how well that can be read.

Contrast is by WCAG 2.2, success criterion 1.4.3: at least 4.5 between words and their ground.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from uvarovite.core.messages.passages import Part
from uvarovite.core.messages.theme import Theme
from uvarovite.core.values import StoredForm, form_of

ENOUGH = 4.5
_Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
# Faces that mail programs have; what is named first is taken where it is there.
FONTS = {
    "plain": "Helvetica,Arial,sans-serif",
    "wide": "Verdana,Geneva,sans-serif",
    "narrow": "'Trebuchet MS',Tahoma,sans-serif",
    "book": "Georgia,'Times New Roman',serif",
}
_LIGHT, _DARK = "#ffffff", "#0b1a13"


class Look(Part):
    """What an organisation chooses. `logo` is the address of a picture, "" for none; widths and corners in pixels."""

    ink: _Colour = "#18211c"
    accent: _Colour = "#1b7350"
    paper: _Colour = "#ffffff"
    around: _Colour = "#faf8f2"
    dark_ink: _Colour = "#e9eee9"
    dark_accent: _Colour = "#4fbf8b"
    dark_paper: _Colour = "#16211b"
    dark_around: _Colour = "#0e1612"
    font: Literal["plain", "wide", "narrow", "book"] = "plain"
    corners: int = Field(default=4, ge=0, le=24)
    logo: str = Field(default="", max_length=2_000)
    logo_words: str = Field(default="", max_length=200)
    logo_width: int = Field(default=160, ge=16, le=600)


LOOK_FORM: StoredForm[Look] = form_of(Look)


def theme_of(look: Look) -> Theme:
    """The theme of a look: words on buttons are light or dark, whichever is read better."""
    return Theme(
        ink=look.ink,
        accent=look.accent,
        on_accent=_words_on(look.accent),
        paper=look.paper,
        around=look.around,
        dark_ink=look.dark_ink,
        dark_accent=look.dark_accent,
        dark_on_accent=_words_on(look.dark_accent),
        dark_paper=look.dark_paper,
        dark_around=look.dark_around,
        font=FONTS[look.font],
        corners=look.corners,
        logo=look.logo.strip(),
        logo_words=look.logo_words,
        logo_width=look.logo_width,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Contrast:
    """How well something can be read: `ratio` from 1 to 21, `enough` from 4.5 on."""

    what: str
    ratio: float
    enough: bool


def contrasts(theme: Theme) -> list[Contrast]:
    """How well each kind of words can be read on its ground."""
    pairs = (
        ("words", theme.ink, theme.paper),
        ("links", theme.accent, theme.paper),
        ("words on buttons", theme.on_accent, theme.accent),
        ("the footer", theme.quiet, theme.paper),
        ("words in the dark", theme.dark_ink, theme.dark_paper),
        ("links in the dark", theme.dark_accent, theme.dark_paper),
        ("words on buttons in the dark", theme.dark_on_accent, theme.dark_accent),
        ("the footer in the dark", theme.dark_quiet, theme.dark_paper),
    )
    found = [(what, contrast(words, paper)) for what, words, paper in pairs]
    return [Contrast(what=what, ratio=round(ratio, 1), enough=ratio >= ENOUGH) for what, ratio in found]


def contrast(one: str, other: str) -> float:
    """The contrast of two colours, from 1 to 21."""
    dark, light = sorted((_luminance(one), _luminance(other)))
    return (light + 0.05) / (dark + 0.05)


def _luminance(colour: str) -> float:
    red, green, blue = _channels(colour)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def _channels(colour: str) -> Iterator[float]:
    for at in (1, 3, 5):
        share = int(colour[at : at + 2], 16) / 255
        yield share / 12.92 if share <= 0.04045 else ((share + 0.055) / 1.055) ** 2.4


def _words_on(colour: str) -> str:
    return max((_LIGHT, _DARK), key=lambda words: contrast(words, colour))
