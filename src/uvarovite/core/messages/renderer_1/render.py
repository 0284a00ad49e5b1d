"""A checked document to HTML and to plain text for one person. Both come from the same blocks.

HTML for mail programs: one table for the width, styles in the elements, nothing fetched from elsewhere but the pixel.
"""

import html as html_escape
from dataclasses import dataclass

from babel.dates import format_date

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import (
    InlayContext,
    Template,
    compile_inlay,
    header,
    html_attribute,
    html_text,
    parse_inlay,
    plain,
)
from uvarovite.core.messages.footer import LANGUAGES, Footer, footer_words
from uvarovite.core.messages.links import Links
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.renderer_1.document import Button, Divider, Heading, MessageContent, Paragraph
from uvarovite.core.messages.renderer_1.links import link_address

_Compiled = tuple[Heading | Paragraph | Button | Divider, Template | None, Template | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class CompiledMessage:
    """A message version, compiled once for all its recipients."""

    subject: Template
    preheader: Template
    blocks: tuple[_Compiled, ...]

    def links(self, record: Record, context: InlayContext) -> tuple[str, ...]:
        """The addresses of the message's links for one person, by number from 0."""
        return tuple(link_address(url, record, context) for _, _, url in self.blocks if url is not None)

    def render(self, record: Record, context: InlayContext, links: Links, footer: Footer) -> RenderedMessage:
        """The message for one person; total for a checked message."""
        addresses = self.links(record, context)
        tracked = [links.click(number, address) for number, address in enumerate(addresses)]
        preheader = self.preheader.render(record, context, header)
        return RenderedMessage(
            subject=" ".join(self.subject.render(record, context, header).split()),
            preheader=preheader,
            html=self._html(record, context, tracked, links, footer, preheader),
            text=self._text(record, context, addresses, tracked, links, footer),
            addresses=dict(enumerate(addresses)),
        )

    def _html(
        self,
        record: Record,
        context: InlayContext,
        tracked: list[str],
        links: Links,
        footer: Footer,
        preheader: str,
    ) -> str:
        hrefs = iter(tracked)
        rows: list[str] = []
        for block, words, _ in self.blocks:
            inner = ""
            if words is not None:
                inner = words.render(record, context, html_text)
            match block:
                case Heading():
                    rows.append(f'<h1 style="{_HEADING}">{inner}</h1>')
                case Paragraph():
                    rows.append(f'<p style="{_PARAGRAPH}">{inner}</p>')
                case Button():
                    href = html_attribute(next(hrefs))
                    rows.append(f'<p style="{_PARAGRAPH}"><a href="{href}" style="{_BUTTON}">{inner}</a></p>')
                case Divider():
                    rows.append(f'<hr style="{_RULE}">')
        language = context.locale.language
        direction = context.locale.text_direction
        body = "\n".join(rows)
        hidden = f'<div style="display:none;max-height:0;overflow:hidden">{html_text(preheader)}</div>'
        pixel = f'<img src="{html_attribute(links.pixel)}" width="1" height="1" alt="">' if links.pixel else ""
        return (
            f'<!doctype html>\n<html lang="{language}" dir="{direction}">\n<head><meta charset="utf-8">'
            f'<meta name="viewport" content="width=device-width">'
            f"<title>{html_text(footer.organisation)}</title></head>\n"
            f'<body style="margin:0;background:#faf8f2">{hidden if preheader else ""}\n'
            f'<table role="presentation" width="100%" cellspacing="0" cellpadding="0"><tr><td align="center">'
            f'<table role="presentation" style="{_SHEET}" cellspacing="0" cellpadding="0"><tr><td style="{_CELL}">\n'
            f"{body}\n{_footer_html(footer, context, links)}\n</td></tr></table></td></tr></table>{pixel}</body></html>\n"
        )

    def _text(
        self,
        record: Record,
        context: InlayContext,
        addresses: tuple[str, ...],
        tracked: list[str],
        links: Links,
        footer: Footer,
    ) -> str:
        hrefs = iter(tracked)
        parts: list[str] = []
        for block, words, _ in self.blocks:
            inner = words.render(record, context, plain) if words else ""
            match block:
                case Heading():
                    parts.append(f"{inner}\n{'=' * min(len(inner), 60)}")
                case Paragraph():
                    parts.append(inner)
                case Button():
                    parts.append(f"{inner}:\n{next(hrefs)}")
                case Divider():
                    parts.append("-" * 20)
        words_ = footer_words(context.locale.language)
        reason = words_.because(footer.topic, _since(footer, context))
        parts.append(
            f"-- \n{reason}\n{words_.leave}: {links.unsubscribe}\n{footer.organisation}, {footer.postal_address}"
        )
        return "\n\n".join(parts) + "\n"


_SANS = "font-family:Helvetica,Arial,sans-serif;color:#18211c"
_SHEET = "width:100%;max-width:600px;background:#ffffff"
_CELL = "padding:24px 28px"
_HEADING = f"{_SANS};font-size:22px;line-height:1.3;margin:0 0 14px"
_PARAGRAPH = f"{_SANS};font-size:16px;line-height:1.5;margin:0 0 14px"
_BUTTON = (
    "font-family:Helvetica,Arial,sans-serif;font-size:16px;background:#1b7350;color:#ffffff;"
    "text-decoration:none;padding:10px 18px;border-radius:4px;display:inline-block"
)
_RULE = "border:0;border-top:1px solid #e3dfd3;margin:18px 0"
_FOOT = "font-family:Helvetica,Arial,sans-serif;color:#4d5a52;font-size:12px;line-height:1.5;margin:0"


def _since(footer: Footer, context: InlayContext) -> str | None:
    # Where there are no words in the message's language yet, the day is written as the words that stand in for them.
    locale = context.locale if context.locale.language in LANGUAGES else "en"
    return format_date(footer.since, "long", locale=locale) if footer.since else None


def _footer_html(footer: Footer, context: InlayContext, links: Links) -> str:
    words = footer_words(context.locale.language)
    reason = html_escape.escape(words.because(footer.topic, _since(footer, context)))
    leave = f'<a href="{html_attribute(links.unsubscribe)}" style="color:#1b7350">{words.leave}</a>'
    sender = html_escape.escape(f"{footer.organisation}, {footer.postal_address}")
    return f'<hr style="{_RULE}"><p style="{_FOOT}">{reason} {leave}<br>{sender}</p>'


def compile_message(content: MessageContent, fields: FieldMap) -> CompiledMessage:
    """Compile a message that passed check_message for the same fields. Raises LanguageError otherwise."""

    def template(source: str) -> Template:
        return compile_inlay(parse_inlay(source), fields)

    blocks: list[_Compiled] = []
    for block in content.blocks:
        match block:
            case Heading(text=text) | Paragraph(text=text):
                blocks.append((block, template(text), None))
            case Button(label=label, url=url):
                blocks.append((block, template(label), template(url)))
            case Divider():
                blocks.append((block, None, None))
    return CompiledMessage(
        subject=template(content.subject), preheader=template(content.preheader), blocks=tuple(blocks)
    )
