"""Messages: the document, its two renderings, the checks, and the bytes that go on the wire."""

from uvarovite.core.messages.assemble import Envelope, assemble
from uvarovite.core.messages.checks import PartProblem, check_message, fields_without_fallback, mended
from uvarovite.core.messages.document import (
    Block,
    Button,
    Divider,
    Heading,
    MessageContent,
    Paragraph,
    content_parts,
)
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.links import Links, link_address, plain_links
from uvarovite.core.messages.render import CompiledMessage, Footer, RenderedMessage, compile_message

__all__ = [
    "LANGUAGES",
    "Block",
    "Button",
    "CompiledMessage",
    "Divider",
    "Envelope",
    "Footer",
    "Heading",
    "Links",
    "MessageContent",
    "Paragraph",
    "PartProblem",
    "RenderedMessage",
    "assemble",
    "check_message",
    "compile_message",
    "content_parts",
    "fields_without_fallback",
    "link_address",
    "mended",
    "plain_links",
]
