"""Links of a message, numbered in the order of their blocks."""

from uvarovite.core.contacts import Record
from uvarovite.core.inlay import InlayContext, Note, Stretch, Template, parse_inlay, plain, url_part
from uvarovite.core.messages.links import MessageLink
from uvarovite.core.messages.renderer_1.document import Button, MessageContent


def link_address(template: Template, record: Record, context: InlayContext) -> str:
    """The address of a link for one person: the author's text as it is, the person's values percent-encoded."""
    return template.render(record, context, url_part, plain).strip()


def message_links(content: MessageContent) -> tuple[MessageLink, ...]:
    """The links of a checked message, by number."""
    buttons = [block for block in content.blocks if isinstance(block, Button)]
    return tuple(
        MessageLink(number=number, block=block.id, address=_constant(block.url)) for number, block in enumerate(buttons)
    )


def _constant(source: str) -> str | None:
    nodes = [node for node in parse_inlay(source) if not isinstance(node, Note)]
    if not all(isinstance(node, Stretch) for node in nodes):
        return None
    return "".join(node.text for node in nodes if isinstance(node, Stretch)).strip()
