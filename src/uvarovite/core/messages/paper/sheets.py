"""The two sheets that letters are printed on, and where an address stands so that it is seen in an envelope's window."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.messages.theme import Theme


class Paper(StrEnum):
    """What letters are printed on: A4 for a DIN long envelope, or US Letter for a No. 10."""

    DIN = "din"
    US = "us"


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """Lengths in millimetres from the sheet's upper left corner. `back_top` is where the way back stands, in one line.

    `folds` are where marks at the left edge say how to fold it; `begins` is where the words begin on a first page.
    """

    label: str
    size: str
    back_top: float
    address_left: float
    address_top: float
    address_width: float
    address_height: float
    begins: float
    left: float
    right: float
    folds: tuple[float, ...]


SHEETS: Mapping[Paper, Sheet] = {
    # DIN 5008:2020, form B: the field for the address, whose first 5 mm are the way back, and the folds.
    Paper.DIN: Sheet(
        label="A4, window of a DIN long envelope",
        size="210mm 297mm",
        back_top=45,
        address_left=25,
        address_top=50.5,
        address_width=80,
        address_height=39.5,
        begins=103,
        left=25,
        right=20,
        folds=(105, 210),
    ),
    # A window of 4½ by 1⅛ inches, ⅞ from the left and ½ from the bottom of a No. 10. What stands here is seen in it
    # whether a sheet folded in three lies at the top of its envelope or at the bottom.
    Paper.US: Sheet(
        label="US Letter, window of a No. 10 envelope",
        size="8.5in 11in",
        back_top=15,
        address_left=25.4,
        address_top=54,
        address_width=88,
        address_height=27,
        begins=100,
        left=25.4,
        right=25.4,
        folds=(93.1, 186.2),
    ),
}
# An address: sizes of type in points, how wide a letter is of its height, and a line of it.
_SIZES, _WIDE, _LEADING = (11, 10, 9, 8, 7, 6), 0.62, 1.25
_POINT = 25.4 / 72
# On later pages the words begin here, and on all of them they end so far from the bottom.
_TOP, _BOTTOM = 25, 25
# Where paper is US Letter, by CLDR (supplemental measurement data).
_US_PAPER = frozenset(["BZ", "CA", "CL", "CO", "CR", "GT", "MX", "NI", "PA", "PH", "PR", "SV", "US", "VE"])


def paper_style(paper: Paper, theme: Theme) -> str:
    """The style sheet of letters on this paper.

    The letter's own styles are those of e-mail, made for a screen of 600 pixels, which is the width of the words here.
    """
    sheet = SHEETS[paper]
    return f"""{_words_style(theme)}
@page {{ size: {sheet.size}; margin: {_TOP}mm {sheet.right}mm {_BOTTOM}mm {sheet.left}mm;
    @bottom-right {{ content: counter(page) " / " counter(pages); font: 9pt {theme.font}; color: {theme.quiet} }} }}
@page :first {{ margin-top: {sheet.begins}mm; @bottom-right {{ content: none }} }}
.address {{ position: absolute; top: {sheet.address_top - sheet.begins}mm; left: {sheet.address_left - sheet.left}mm;
    width: {sheet.address_width}mm; height: {sheet.address_height}mm; overflow: hidden; line-height: {_LEADING} }}
.back {{ position: absolute; top: {sheet.back_top - sheet.begins}mm; left: {sheet.address_left - sheet.left}mm;
    max-width: {sheet.address_width}mm; font-size: 7pt; color: {theme.quiet}; border-bottom: 0.2mm solid {theme.quiet};
    white-space: nowrap; overflow: hidden }}
.fold {{ position: absolute; left: {-sheet.left}mm; width: 5mm; border-top: 0.2mm solid {theme.quiet} }}
.logo {{ position: absolute; top: {12 - sheet.begins}mm; right: 0; max-height: 24mm }}
.day {{ text-align: right; margin: 0 0 6mm }}
.words a {{ color: inherit !important; text-decoration: none !important }}
.words a[href^="http"]::after {{ content: " (" attr(href) ")"; color: {theme.quiet} }}
.words .to {{ color: {theme.quiet} }}
"""


def page_style(locale: str, theme: Theme) -> str:
    """The style sheet of messages that are PDFs, on paper of the organisation's country."""
    sheet = SHEETS[Paper.US if locale.replace("-", "_").rpartition("_")[2] in _US_PAPER else Paper.DIN]
    return f"""{_words_style(theme)}
@page {{ size: {sheet.size}; margin: {_TOP}mm;
    @bottom-right {{ content: counter(page) " / " counter(pages); font: 9pt {theme.font}; color: {theme.quiet} }} }}
@page :first {{ @bottom-right {{ content: none }} }}
.logo {{ display: block; max-height: 24mm; margin-bottom: 8mm }}
.words a {{ color: {theme.accent} }}
"""


def _words_style(theme: Theme) -> str:
    """How the words of letters look on any paper: their own styles are those of e-mail, made for a screen of 600 pixels."""
    return f"""
html {{ font: 12pt/1.5 {theme.font}; color: {theme.ink} }}
body {{ margin: 0; overflow-wrap: anywhere }}
.subject {{ font-size: 13pt; margin: 0 0 5mm; line-height: 1.3 }}
.words p, .words td, .words li {{ orphans: 2; widows: 2 }}
.words tr, .words img {{ break-inside: avoid }}
.words h1, .words h2, .words h3 {{ break-after: avoid }}
.why {{ font-size: 8pt; color: {theme.quiet}; border-top: 0.2mm solid {theme.rule}; margin-top: 8mm; padding-top: 2mm }}
"""


def address_size(lines: Sequence[str], paper: Paper) -> int:
    """The size of type, in points, at which all lines of an address are seen in the window."""
    sheet = SHEETS[paper]
    for size in _SIZES:
        across = int(sheet.address_width / (size * _POINT * _WIDE))
        rows = sum(-(-len(line) // across) for line in lines)
        if rows * size * _POINT * _LEADING <= sheet.address_height:
            return size
    return _SIZES[-1]


def fold_marks(paper: Paper) -> str:
    """The marks at the left edge of a first page, as HTML."""
    sheet = SHEETS[paper]
    return "".join(f'<div class="fold" style="top:{at - sheet.begins}mm"></div>' for at in sheet.folds)
