"""Messages: the document, its two renderings, the checks, and the bytes that go on the wire."""

from uvarovite.core.messages.assemble import Envelope, assemble
from uvarovite.core.messages.checks import PartProblem, check_message, fields_without_fallback, mended
from uvarovite.core.messages.composer import Composed, Composer, Tokens
from uvarovite.core.messages.document import (
    CONTENT_FORM,
    Block,
    Button,
    Divider,
    Heading,
    MessageContent,
    Paragraph,
    content_parts,
)
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.links import Links, MessageLink, link_address, plain_links
from uvarovite.core.messages.render import CompiledMessage, Footer, RenderedMessage, compile_message
from uvarovite.core.messages.renderers import NEWEST_RENDERER
from uvarovite.core.messages.snapshot import SNAPSHOT_FORM, Letterhead, Snapshot

__all__ = [
    "CONTENT_FORM",
    "LANGUAGES",
    "NEWEST_RENDERER",
    "SNAPSHOT_FORM",
    "Block",
    "Button",
    "CompiledMessage",
    "Composed",
    "Composer",
    "Divider",
    "Envelope",
    "Footer",
    "Heading",
    "Letterhead",
    "Links",
    "MessageContent",
    "MessageLink",
    "Paragraph",
    "PartProblem",
    "RenderedMessage",
    "Snapshot",
    "Tokens",
    "assemble",
    "check_message",
    "compile_message",
    "content_parts",
    "fields_without_fallback",
    "link_address",
    "mended",
    "plain_links",
]
