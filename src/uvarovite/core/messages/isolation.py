"""A name in a script that runs the other way must not turn the sentence around it (UAX 9, isolates)."""

import re

from uvarovite.core.inlay import html_text

# Hebrew, Arabic, Syriac, Thaana and NKo with their presentation forms.
_RIGHT_TO_LEFT = re.compile("[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufeff]")


def isolated_html(text: str) -> str:
    """A person's own as the text of an HTML element, kept to itself where it runs from right to left."""
    if text.isascii() or not _RIGHT_TO_LEFT.search(text):
        return html_text(text)
    return f'<span dir="auto">{html_text(text)}</span>'


def isolated_text(text: str) -> str:
    """The same as plain text, between FIRST STRONG ISOLATE and POP DIRECTIONAL ISOLATE."""
    return text if text.isascii() or not _RIGHT_TO_LEFT.search(text) else f"\u2068{text}\u2069"
