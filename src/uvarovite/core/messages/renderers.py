"""What turns a message's words into bytes, by number.

A run keeps the number of the one that it was released with, and what it sent is made by that one for good: what would
change a byte of an earlier message is a new renderer beside the old ones. The messages in tests/core/sent hold them to it.

    1   texts without marks; the library's assembly
    2   documents of the second form; constant stretches encoded once
"""

from collections.abc import Callable, Mapping
from typing import Any, Protocol

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages.attachments import KeptFile
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.links import Links, MessageLink
from uvarovite.core.messages.paper import PdfMeans
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.renderer_1 import first_maker
from uvarovite.core.messages.theme import Theme
from uvarovite.core.messages.wire import letter_maker


class Maker(Protocol):
    """Makes the messages of one version of words, compiled once. `links` are its links, by number."""

    links: tuple[MessageLink, ...]

    def language_for(self, record: Record) -> str:
        """The language of the words that a person gets, "" for the organisation's own."""

    def addresses(self, record: Record, context: InlayContext) -> Mapping[int, str]:
        """Where the links lead for a person, by number."""

    def render(self, record: Record, context: InlayContext, links: Links, footer: Footer) -> RenderedMessage:
        """The message to be read."""

    def raw(self, record: Record, context: InlayContext, links: Links, footer: Footer, envelope: Envelope) -> bytes:
        """The bytes that go on the wire."""


_Files = Mapping[str, KeptFile]
RENDERERS: Mapping[int, Callable[[Mapping[str, Any], FieldMap, Theme, _Files, PdfMeans], Maker]] = {
    1: first_maker,
    2: letter_maker,
}
NEWEST_RENDERER = max(RENDERERS)
