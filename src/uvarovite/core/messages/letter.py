"""A document to a whole letter: what stands around its blocks in HTML and in plain text.

For mail programs: tables where width needs them, styles in the elements, 600 pixels and all of a telephone's width, colours
for the dark, nothing fetched from elsewhere but the author's pictures and the pixel.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import date
from functools import lru_cache, partial

from babel import Locale
from babel.dates import format_date

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import Escape, InlayContext, Mark, Place, header, html_attribute, html_text
from uvarovite.core.inlay.program import Fixed, Op, Program, Special, as_it_is, placed, with_links
from uvarovite.core.inlay.run import PLAINLY, run_program
from uvarovite.core.messages.build import Build, LetterContext, LinkBook
from uvarovite.core.messages.document import MessageContent
from uvarovite.core.messages.footer import LANGUAGES, Footer, footer_words
from uvarovite.core.messages.links import Links, MessageLink, plain_links
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.theme import THEME, Theme

IN_HEADER = Place(fixed=header, own=header)
# So much of a preheader mail programs show; filled up, so that they show nothing else behind it.
_FILLED = "&#847;&zwnj;&nbsp;" * 40

NO_PICTURES: Mapping[str, str] = {}
# Whose footer it is makes no difference to where links lead.
_NO_FOOTER = Footer(topic="", since=None, organisation="", postal_address="")


class Letter:
    """Words in one language, compiled once for all who read it; their links are numbered from `first_link` on.

    `embedded` has the content ids of pictures that go along, by address: `sent_html` shows those, `html` fetches all.
    Raises LanguageError for words that do not pass the checks.
    """

    def __init__(
        self,
        content: MessageContent,
        fields: FieldMap,
        theme: Theme = THEME,
        first_link: int = 0,
        embedded: Mapping[str, str] = NO_PICTURES,
    ) -> None:
        self.language = content.language
        book = LinkBook(first=first_link)
        build = Build(fields=fields, book=book, theme=theme)
        self.subject_program = placed(build.line(content.subject, IN_HEADER), "subject")
        self.subject = run_program(self.subject_program)
        self.preheader = run_program(build.line(content.preheader, IN_HEADER))
        preheader = placed(build.line(content.preheader), "preheader")
        blocks = build.html(content.blocks)
        self._for_nobody = _html(blocks, preheader, theme, leaves=False)
        self.html = _html(blocks, preheader, theme)
        # Links have the same numbers in both: they are known by the places where they stand.
        within = replace(build, embedded=embedded)
        self.sent_html = _html(within.html(content.blocks), preheader, theme) if embedded else self.html
        self.text: Program = (*build.text(content.blocks), Special(write=_footer_text))
        self.links: tuple[MessageLink, ...] = tuple(book.links)
        self._only_links = run_program(with_links(self.html))

    def addresses(self, record: Record, context: InlayContext) -> Mapping[int, str]:
        """Where its links lead for a person, by number: what `render` would tell, without writing the letter."""
        letter = context_of(context, plain_links(), _NO_FOOTER)
        self._only_links(record, letter)
        return letter.addresses

    def render(
        self, record: Record, context: InlayContext, links: Links, footer: Footer, mark: Mark | None = None
    ) -> RenderedMessage:
        """The letter for one person, to be read; total for words that pass the checks."""
        letter = context_of(context, links, footer)
        program = self.html if links.unsubscribe else self._for_nobody
        html = run_program(program, replace(PLAINLY, mark=mark))(record, letter)
        text = run_program(self.text)(record, letter)
        return RenderedMessage(
            subject=" ".join(self.subject(record, letter).split()),
            preheader=self.preheader(record, letter),
            html=html,
            text=text,
            addresses=letter.addresses,
        )


def context_of(context: InlayContext, links: Links, footer: Footer) -> LetterContext:
    """What the whole letter of one person knows."""
    return LetterContext(
        locale=context.locale,
        clock=context.clock,
        provided={**context.provided, "unsubscribe_link": links.unsubscribe},
        links=links,
        footer=footer,
    )


def _html(blocks: Program, preheader: Program, theme: Theme, *, leaves: bool = True) -> Program:
    # Where one constant ends and the next begins decides where lines of what was sent are broken: none is split or joined.
    def special(write: Callable[[LetterContext], str], escape: Escape = html_text) -> Op:
        return Special(write=lambda record, letter: write(letter), escape=escape, comes_back=True)

    leave = (
        (
            special(_because),
            Fixed(text=' <a href="'),
            Special(write=lambda record, letter: letter.links.unsubscribe, escape=html_attribute),
            Fixed(text=f'" class="accent" style="color:{theme.accent}">'),
            special(lambda letter: footer_words(letter.locale.language).leave),
            Fixed(text="</a><br>"),
        )
        if leaves
        else ()
    )
    hidden = "display:none;max-height:0;overflow:hidden;mso-hide:all"
    return (
        Fixed(text="<!doctype html>\n<html "),
        special(lambda letter: _lang(letter.locale), as_it_is),
        Fixed(
            text='>\n<head>\n<meta charset="utf-8">\n<meta name="viewport" content="width=device-width">\n'
            '<meta name="color-scheme" content="light dark">\n<meta name="supported-color-schemes" content="light dark">\n'
            "<title>"
        ),
        special(lambda letter: letter.footer.organisation),
        Fixed(text=f"</title>\n<style>{theme.sheet()}</style>\n</head>\n"),
        Fixed(text=f'<body style="margin:0;background:{theme.around}">\n'),
        *((Fixed(text=f'<div style="{hidden}">'), *preheader, Fixed(text=f"{_FILLED}</div>\n")) if preheader else ()),
        Fixed(
            text=f'<table role="presentation" class="around" width="100%" cellspacing="0" cellpadding="0" '
            f'style="background:{theme.around}"><tr><td align="center">\n'
            f'<table role="presentation" width="100%" cellspacing="0" cellpadding="0" style="width:100%;max-width:600px">'
            f'<tr><td class="cell" style="padding:24px 28px;background:{theme.paper}">\n'
        ),
        *_logo(theme),
        *blocks,
        Fixed(
            text=f'<hr class="rule" style="{theme.line}">\n'
            f'<p class="quiet" style="{theme.type(12, colour=theme.quiet, bottom=0)}">'
        ),
        *leave,
        special(_whose),
        Special(write=partial(_copy, theme.accent)),
        Fixed(text="</p>\n</td></tr></table>\n</td></tr></table>"),
        Special(write=_pixel),
        Special(write=_unseen),
        Fixed(text="\n</body>\n</html>\n"),
    )


def _logo(theme: Theme) -> Program:
    if not theme.logo:
        return ()
    style = f"display:inline-block;width:100%;max-width:{theme.logo_width}px;height:auto;border:0"
    return (
        Fixed(
            text=f'<p style="{theme.type(16)}"><img src="{html_attribute(theme.logo)}" width="{theme.logo_width}" '
            f'alt="{html_attribute(theme.logo_words)}" style="{style}"></p>\n'
        ),
    )


def _whose(letter: LetterContext) -> str:
    return f"{letter.footer.organisation}, {letter.footer.postal_address}"


def _pixel(record: Record, letter: LetterContext) -> str:
    pixel = letter.links.pixel
    return f'<img src="{html_attribute(pixel)}" width="1" height="1" alt="">' if pixel else ""


def _copy(accent: str, record: Record, letter: LetterContext) -> str:
    copy, words = letter.links.copy, footer_words(letter.locale.language).copy
    if not copy:
        return ""
    return f'<br><a href="{html_attribute(copy)}" class="accent" style="color:{accent}">{html_text(words)}</a>'


def _unseen(record: Record, letter: LetterContext) -> str:
    unseen = letter.links.unseen
    if not unseen:
        return ""
    return f'<div style="display:none" aria-hidden="true"><a href="{html_attribute(unseen)}" tabindex="-1"></a></div>'


@lru_cache(maxsize=64)
def _lang(locale: Locale) -> str:
    return f'lang="{locale.language}" dir="{locale.text_direction}"'


def _because(letter: LetterContext) -> str:
    return _reason(letter.footer.topic, letter.footer.since, letter.locale)


@lru_cache(maxsize=4_096)
def _reason(topic: str, since: date | None, locale: Locale) -> str:
    """Why the reader gets the message, since when, in the words of its language or all in those that stand in for them."""
    spoken = locale if locale.language in LANGUAGES else "en"
    day = format_date(since, "long", locale=spoken) if since else None
    return footer_words(locale.language).because(topic, day)


def _footer_text(record: Record, letter: LetterContext) -> str:
    links, words = letter.links, footer_words(letter.locale.language)
    leave = f"{words.leave}: {links.unsubscribe}\n" if links.unsubscribe else ""
    copy = f"{words.copy}: {links.copy}\n" if links.copy else ""
    return f"-- \n{_because(letter)}\n{leave}{copy}{_whose(letter)}\n"
