"""Renderer 1, as those who compose use it."""

from collections.abc import Mapping
from typing import Any

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages.attachments import KeptFile
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.links import Links, MessageLink
from uvarovite.core.messages.paper import PdfMeans
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.renderer_1.assemble import assemble
from uvarovite.core.messages.renderer_1.document import MessageContent
from uvarovite.core.messages.renderer_1.links import message_links
from uvarovite.core.messages.renderer_1.render import compile_message
from uvarovite.core.messages.theme import Theme


class FirstMaker:
    """Makes the messages of a run (see core.messages.renderers)."""

    def __init__(self, content: Mapping[str, Any], fields: FieldMap) -> None:
        words = MessageContent.model_validate(content)
        self._language = words.language
        self.links: tuple[MessageLink, ...] = message_links(words)
        self._compiled = compile_message(words, fields)

    def language_for(self, record: Record) -> str:
        """The language of the words, which were in one then."""
        return self._language

    def addresses(self, record: Record, context: InlayContext) -> Mapping[int, str]:
        """Where the links lead for a person, by number."""
        return dict(enumerate(self._compiled.links(record, context)))

    def render(self, record: Record, context: InlayContext, links: Links, footer: Footer) -> RenderedMessage:
        """The message to be read."""
        return self._compiled.render(record, context, links, footer)

    def raw(self, record: Record, context: InlayContext, links: Links, footer: Footer, envelope: Envelope) -> bytes:
        """The bytes that go on the wire."""
        return assemble(self.render(record, context, links, footer), envelope)


def first_maker(
    content: Mapping[str, Any], fields: FieldMap, theme: Theme, files: Mapping[str, KeptFile], means: PdfMeans
) -> FirstMaker:
    """The maker of stored words and the fields that they were released with; there was one theme then."""
    return FirstMaker(content, fields)
