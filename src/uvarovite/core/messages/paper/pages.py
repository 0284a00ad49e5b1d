"""A person's message as pages of HTML that become a PDF: to be kept or printed by whoever gets it.

Its words are those of the message, on a sheet of the organisation's country. Links are links, none of them is counted.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext, html_text, locale_for
from uvarovite.core.inlay.run import run_program
from uvarovite.core.messages.blocks.heading import Heading
from uvarovite.core.messages.build import Build, LetterContext, LinkBook
from uvarovite.core.messages.document import MessageContent, reads
from uvarovite.core.messages.letter import IN_HEADER, context_of
from uvarovite.core.messages.links import Links
from uvarovite.core.messages.paper.letters import logo_on_paper
from uvarovite.core.messages.paper.sheets import page_style
from uvarovite.core.messages.theme import Theme

# A page and its style sheet to a PDF.
Press = Callable[[str, str], bytes]


@dataclass(frozen=True, slots=True, kw_only=True)
class PdfMeans:
    """What PDFs of messages are made with.

    `others` are the words of other messages, by number, `locale` is the organisation's. Without a `press` PDFs are told
    of and not made.
    """

    others: Mapping[int, MessageContent] = field(default_factory=dict)
    locale: str = ""
    press: Press | None = None


NO_PDFS = PdfMeans()


class MessagePages:
    """Makes the PDFs of one message (core.messages.attachments.Pages): compiled once, then a pure function of a person.

    Raises LanguageError for words that do not pass the checks.
    """

    def __init__(self, content: MessageContent, fields: FieldMap, theme: Theme, means: PdfMeans) -> None:
        self._theme, self._means = theme, means
        self._style = page_style(means.locale, theme)
        self._main = _Words(content, fields, theme)
        self._others = {other.language: _Words(content.in_other(other), fields, theme) for other in content.others}

    def _for(self, record: Record, context: InlayContext) -> tuple["_Words", LetterContext]:
        assert isinstance(context, LetterContext)
        made = self._others.get(reads(record), self._main)
        told = record.get("language")
        # The words around it may be in another language.
        locale = locale_for(made.language, told if isinstance(told, str) else None, self._means.locale)
        links = Links(click=lambda number, address: address, unsubscribe=context.links.unsubscribe, pixel=None)
        return made, context_of(replace(context, locale=locale), links, context.footer)

    def subject(self, record: Record, context: InlayContext) -> str:
        """The subject of the words for one person."""
        made, letter = self._for(record, context)
        return " ".join(made.subject(record, letter).split())

    def pdf(self, record: Record, context: InlayContext) -> bytes:
        """The PDF for one person; empty without a press."""
        return self._means.press(self.page(record, context), self._style) if self._means.press else b""

    def page(self, record: Record, context: InlayContext) -> str:
        """The page for one person, as HTML; total for words that pass the checks."""
        made, letter = self._for(record, context)
        locale, footer = letter.locale, letter.footer
        subject = html_text(" ".join(made.subject(record, letter).split()))
        above = "" if made.heads_itself else f'<h1 class="subject">{subject}</h1>\n'
        whence = " · ".join([footer.organisation, *footer.postal_address.splitlines()])
        return (
            f'<!doctype html>\n<html lang="{locale.language}" dir="{locale.text_direction}"><head><meta charset="utf-8">'
            f"<title>{subject}</title></head><body>{logo_on_paper(self._theme)}"
            f'{above}<div class="words">{made.blocks(record, letter)}</div>\n'
            f'<p class="why" dir="auto">{html_text(whence)}</p></body></html>'
        )


class _Words:
    """Words in one language as programs."""

    def __init__(self, content: MessageContent, fields: FieldMap, theme: Theme) -> None:
        self.language = content.language
        build = Build(fields=fields, book=LinkBook(), theme=theme)
        self.subject = run_program(build.line(content.subject, IN_HEADER))
        self.blocks = run_program(build.html(content.blocks))
        # What has a title of its own needs none that was written for a mailbox.
        self.heads_itself = bool(content.blocks) and isinstance(content.blocks[0], Heading)
