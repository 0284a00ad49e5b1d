"""The Inlay: places in a message for a person's own data, `@{first_name else "friend"}` (docs/languages/inlay.md)."""

from uvarovite.core.inlay.check import check_inlay
from uvarovite.core.inlay.compile import InlayContext, Piece, Template, compile_inlay
from uvarovite.core.inlay.escaping import Escape, header, html_attribute, html_text, plain, url_part
from uvarovite.core.inlay.formats import FORMATS, locale_for, readers_locale
from uvarovite.core.inlay.parse import parse_inlay
from uvarovite.core.inlay.tree import PROVIDED, Branches, InlayNode, Insert, Note, Stretch, inserts

__all__ = [
    "FORMATS",
    "PROVIDED",
    "Branches",
    "Escape",
    "InlayContext",
    "InlayNode",
    "Insert",
    "Note",
    "Piece",
    "Stretch",
    "Template",
    "check_inlay",
    "compile_inlay",
    "header",
    "html_attribute",
    "html_text",
    "inserts",
    "locale_for",
    "parse_inlay",
    "plain",
    "readers_locale",
    "url_part",
]
