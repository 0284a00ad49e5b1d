"""Where an inlay stands decides its escaping; no author can turn it off for a person's data."""

import html
import re
from collections.abc import Callable
from urllib.parse import quote

Escape = Callable[[str], str]

# Most texts hold none of these, and a letter has many.
_IN_MARKUP = re.compile("[&<>\"'\n]")
_CONTROL = re.compile(r"[\x00-\x1f\x7f\x85\u2028\u2029]+")


def is_unchanged(text: str) -> bool:
    """Is a text the same as the text of an element, in an attribute and in plain text?"""
    return not _IN_MARKUP.search(text)


def html_text(text: str) -> str:
    """For the text of an HTML element; line ends become line breaks."""
    return html.escape(text, quote=False).replace("\n", "<br>") if _IN_MARKUP.search(text) else text


def html_attribute(text: str) -> str:
    """For the value of an HTML attribute between double quotes."""
    return html.escape(text, quote=True) if _IN_MARKUP.search(text) else text


def url_part(text: str) -> str:
    """For a part of a URL: percent-encoded (RFC 3986 section 2.1), so it can be no scheme, path or query of its own."""
    return quote(text, safe="")


def header(text: str) -> str:
    """For a header field: CR, LF and other control characters become one blank (header injection)."""
    return text if text.isprintable() else _CONTROL.sub(" ", text)


def plain(text: str) -> str:
    """For plain text: as it is."""
    return text
