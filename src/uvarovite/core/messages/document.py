"""The message as a document of blocks: the one source of its HTML and of its plain text.

1   texts without marks (renderer_1.document)
2   words with marks, and blocks in blocks
"""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages.blocks import MOST_BLOCKS, Block, PartKind, WrittenPart
from uvarovite.core.messages.passages import Part
from uvarovite.core.values import StoredForm, form_of


def _as_second(version: Any) -> Any:
    """The first form said the same with less: its texts are words without marks, as every block takes them."""
    return 2 if version == 1 else version


class MessageContent(Part):
    """All that an author writes; stored with its version. `needed`: fields without which nobody gets it, by key.

    `language` is the code of one of LANGUAGES, "" for the organisation's own: formats and footer follow it.
    """

    version: Annotated[Literal[2], BeforeValidator(_as_second)] = 2
    language: str = Field(default="", max_length=20)
    subject: str = Field(default="", max_length=2_000)
    preheader: str = Field(default="", max_length=2_000)
    blocks: tuple[Block, ...] = Field(default=(), max_length=MOST_BLOCKS)
    needed: tuple[str, ...] = Field(default=(), max_length=50)


CONTENT_FORM: StoredForm[MessageContent] = form_of(MessageContent, version=2, older={1: dict})


def all_blocks(content: MessageContent, fields: FieldMap) -> Iterator[tuple[str, Block, FieldMap, bool]]:
    """Every block, those in other blocks behind them: where it is, the fields that it sees, whether it is repeated."""
    waiting: list[tuple[str, Block, FieldMap, bool]] = [
        (f"blocks.{place}", block, fields, False) for place, block in enumerate(content.blocks)
    ]
    while waiting:
        at, block, seen, repeated = waiting.pop(0)
        yield at, block, seen, repeated
        waiting = [*block.inside(at, seen, repeated=repeated), *waiting]


def written_parts(content: MessageContent, fields: FieldMap) -> Iterator[WrittenPart]:
    """Every part that an author writes, in reading order: subject, preheader, blocks.0.text, blocks.1.url …"""
    yield WrittenPart(path="subject", kind=PartKind.LINE, source=content.subject, fields=fields)
    yield WrittenPart(path="preheader", kind=PartKind.LINE, source=content.preheader, fields=fields)
    for at, block, seen, repeated in all_blocks(content, fields):
        yield from block.parts(at, seen, repeated=repeated)
