"""Messages: the document, its two renderings, the checks, and the bytes that go on the wire."""

from uvarovite.core.messages.advice import advice_on
from uvarovite.core.messages.blocks import (
    Arm,
    Block,
    Button,
    Buttons,
    Columns,
    Divider,
    ForEach,
    Heading,
    Html,
    Listing,
    Only,
    Paragraph,
    PartKind,
    PartProblem,
    Picture,
    Shared,
    Space,
    Table,
    TableColumn,
)
from uvarovite.core.messages.checks import check_message, fields_without_fallback, mended
from uvarovite.core.messages.composer import Composed, Composer, Tokens
from uvarovite.core.messages.document import CONTENT_FORM, MessageContent, all_blocks, written_parts
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.footer import LANGUAGES, Footer
from uvarovite.core.messages.links import Links, MessageLink, plain_links
from uvarovite.core.messages.passages import Passage, source_of
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.renderers import NEWEST_RENDERER
from uvarovite.core.messages.snapshot import SNAPSHOT_FORM, Letterhead, Snapshot
from uvarovite.core.messages.tracking import Tracked, Tracking, tracking_words
from uvarovite.core.messages.wire import LetterMaker

__all__ = [
    "CONTENT_FORM",
    "LANGUAGES",
    "NEWEST_RENDERER",
    "SNAPSHOT_FORM",
    "Arm",
    "Block",
    "Button",
    "Buttons",
    "Columns",
    "Composed",
    "Composer",
    "Divider",
    "Envelope",
    "Footer",
    "ForEach",
    "Heading",
    "Html",
    "LetterMaker",
    "Letterhead",
    "Links",
    "Listing",
    "MessageContent",
    "MessageLink",
    "Only",
    "Paragraph",
    "PartKind",
    "PartProblem",
    "Passage",
    "Picture",
    "RenderedMessage",
    "Shared",
    "Snapshot",
    "Space",
    "Table",
    "TableColumn",
    "Tokens",
    "Tracked",
    "Tracking",
    "advice_on",
    "all_blocks",
    "check_message",
    "fields_without_fallback",
    "mended",
    "plain_links",
    "source_of",
    "tracking_words",
    "written_parts",
]
