"""A person's letter as a page of HTML, which becomes a sheet of paper or more.

Its words are those of the message: the blocks write the same HTML as for e-mail, and the style sheet of the paper lays
them out. Nothing of it is counted, and no link in it leads to where one leaves: nobody can click on paper.
"""

import re
from dataclasses import dataclass
from datetime import date

from babel.dates import format_date

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext, html_attribute, html_text
from uvarovite.core.inlay.program import Fixed, Program
from uvarovite.core.inlay.run import run_program
from uvarovite.core.messages.blocks.heading import Heading
from uvarovite.core.messages.build import LEAVE, Build, LinkBook, without_tags
from uvarovite.core.messages.document import MessageContent, reads
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.letter import IN_HEADER, context_of
from uvarovite.core.messages.links import Links
from uvarovite.core.messages.paper.address import Home, address_on_paper, home_of
from uvarovite.core.messages.paper.sheets import Paper, address_size, fold_marks, paper_style
from uvarovite.core.messages.paper.words import paper_words
from uvarovite.core.messages.passages import source_of
from uvarovite.core.messages.theme import THEME, Theme

_NOWHERE = Links(click=lambda number, address: address, unsubscribe="", pixel=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperFacts:
    """What all letters of one printing have in common: who writes, from where, on which day and on what paper."""

    organisation: str
    postal_address: str
    locale: str
    day: date
    paper: Paper

    @property
    def home(self) -> Home:
        """Where the letters are posted."""
        return home_of(self.locale, self.postal_address)

    @property
    def footer(self) -> Footer:
        """What the letter's own programs are given; none of it is shown on paper."""
        return Footer(topic="", since=None, organisation=self.organisation, postal_address=self.postal_address)


class PaperMaker:
    """Makes the letters of one printing: compiled once, then a pure function of a person.

    Raises LanguageError for words that do not pass the checks.
    """

    def __init__(self, content: MessageContent, fields: FieldMap, theme: Theme = THEME) -> None:
        self._theme = theme
        self._main = _PaperLetter(content, fields, theme)
        self._others = {
            other.language: _PaperLetter(content.in_other(other), fields, theme) for other in content.others
        }

    def _for(self, record: Record) -> "_PaperLetter":
        return self._others.get(reads(record), self._main)

    def language_for(self, record: Record) -> str:
        """The language of the words that a person gets, "" for the organisation's own."""
        return self._for(record).language

    def style(self, paper: Paper) -> str:
        """The style sheet of all letters on this paper."""
        return paper_style(paper, self._theme)

    def page(self, record: Record, context: InlayContext, facts: PaperFacts) -> str:
        """The letter of one person, as HTML; total for words that pass the checks."""
        made, letter = self._for(record), context_of(context, _NOWHERE, facts.footer)
        locale = context.locale
        address = address_on_paper(record, facts.home)
        whence = [facts.organisation, *facts.postal_address.splitlines()]
        size = address_size(address.lines, facts.paper)
        words = paper_words(locale.language)
        why = words.why.format(organisation=facts.organisation)
        stop = words.stop.format(postal_address=", ".join(whence))
        subject = html_text(" ".join(made.subject(record, letter).split()))
        above = "" if made.heads_itself else f'<h1 class="subject">{subject}</h1>\n'
        return (
            f'<!doctype html>\n<html lang="{locale.language}" dir="{locale.text_direction}"><head><meta charset="utf-8">'
            f"<title>{html_text(facts.organisation)}</title></head><body>"
            f"{fold_marks(facts.paper)}{logo_on_paper(self._theme)}"
            f'<div class="back">{html_text(" · ".join(whence))}</div><div class="address" dir="ltr" style="font-size:{size}pt">'
            f"{'<br>'.join(map(html_text, address.lines))}</div>"
            f'<p class="day">{html_text(format_date(facts.day, "long", locale=locale))}</p>'
            f'{above}<div class="words">{made.blocks(record, letter)}</div>\n'
            f'<p class="why" dir="auto">{html_text(why)} {html_text(stop)}</p></body></html>'
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class _PaperBuild(Build):
    """Writes of a link where it leads, behind its words: nobody can click on paper."""

    def link(
        self, part: str, source: str, inner: Program, *, as_text: bool = False, style: str = "", kind: str = "accent"
    ) -> Program:
        said = without_tags("".join(op.text for op in inner if isinstance(op, Fixed)))
        if source.strip() == LEAVE or _said(said) == _said(html_text(source)):
            return inner
        address = self.href(part, source, lambda to: html_text(_read(to)))
        return (*inner, Fixed(text=' <span class="to">('), address, Fixed(text=")</span>"))


def _read(address: str) -> str:
    """An address as people read it aloud."""
    return address.removeprefix("mailto:").partition("?")[0] if address.startswith("mailto:") else address


def _said(text: str) -> str:
    return re.sub(r"^(https?://|mailto:)|/$", "", text.strip().casefold())


class _PaperLetter:
    """Words in one language as programs for paper."""

    def __init__(self, content: MessageContent, fields: FieldMap, theme: Theme) -> None:
        self.language = content.language
        build = _PaperBuild(fields=fields, book=LinkBook(), theme=theme)
        self.subject = run_program(build.line(content.subject, IN_HEADER))
        self.blocks = run_program(build.html(content.blocks))
        first = content.blocks[0] if content.blocks else None
        # Words that begin with the subject as their heading say it once.
        self.heads_itself = isinstance(first, Heading) and source_of(first.text) == content.subject


def logo_on_paper(theme: Theme) -> str:
    """The organisation's logo at the head of a first page, as HTML; "" where it has none."""
    if not theme.logo:
        return ""
    alt = html_attribute(theme.logo_words)
    return f'<img class="logo" src="{html_attribute(theme.logo)}" alt="{alt}" style="width:{theme.logo_width}px">'
