"""What turns a message's words into bytes, by number.

A run keeps the number of the one that it was released with, and what it sent is made by that one for good: what would
change a byte of an earlier message is a new renderer beside the old ones. The messages in tests/core/sent hold them to it.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages.assemble import Envelope, assemble
from uvarovite.core.messages.document import MessageContent
from uvarovite.core.messages.links import MessageLink, message_links
from uvarovite.core.messages.render import CompiledMessage, RenderedMessage, compile_message


@dataclass(frozen=True, slots=True, kw_only=True)
class Renderer:
    """`read` takes the stored words, `links` names what they link to, `compile` makes a message of them, and `assemble`
    the bytes of a rendered one.
    """

    read: Callable[[Mapping[str, Any]], MessageContent]
    links: Callable[[MessageContent], tuple[MessageLink, ...]]
    compile: Callable[[MessageContent, FieldMap], CompiledMessage]
    assemble: Callable[[RenderedMessage, Envelope], bytes]


RENDERERS: Mapping[int, Renderer] = {
    1: Renderer(read=MessageContent.model_validate, links=message_links, compile=compile_message, assemble=assemble),
}
NEWEST_RENDERER = max(RENDERERS)
