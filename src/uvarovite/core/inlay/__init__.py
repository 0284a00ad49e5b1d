"""The Inlay: places in a message for a person's own data, `@{first_name else "friend"}` (docs/languages/inlay.md)."""

from uvarovite.core.inlay.check import check_inlay
from uvarovite.core.inlay.compile import Place, Template, compile_inlay, compile_node, compile_nodes, condition_words
from uvarovite.core.inlay.escaping import Escape, header, html_attribute, html_text, plain, url_part
from uvarovite.core.inlay.formats import FORMATS, locale_for, readers_locale
from uvarovite.core.inlay.parse import inlays_in, parse_inlay
from uvarovite.core.inlay.program import Mark, Own
from uvarovite.core.inlay.tree import (
    PROVIDED,
    Branches,
    Each,
    InlayNode,
    Insert,
    Note,
    Stretch,
    blank_without,
    inserts,
    names_in,
)
from uvarovite.core.inlay.values import FUNCTIONS, InlayContext

__all__ = [
    "FORMATS",
    "FUNCTIONS",
    "PROVIDED",
    "Branches",
    "Each",
    "Escape",
    "InlayContext",
    "InlayNode",
    "Insert",
    "Mark",
    "Note",
    "Own",
    "Place",
    "Stretch",
    "Template",
    "blank_without",
    "check_inlay",
    "compile_inlay",
    "compile_node",
    "compile_nodes",
    "condition_words",
    "header",
    "html_attribute",
    "html_text",
    "inlays_in",
    "inserts",
    "locale_for",
    "names_in",
    "parse_inlay",
    "plain",
    "readers_locale",
    "url_part",
]
