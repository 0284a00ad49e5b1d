"""The message as a document of blocks: the one source of its HTML and of its plain text.

1   texts without marks (renderer_1.document)
2   words with marks, and blocks in blocks
"""

from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self, cast

from pydantic import BeforeValidator, Field, model_validator

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages.blocks import MOST_BLOCKS, Block, BlockBase, PartKind, Seat, WrittenPart
from uvarovite.core.messages.passages import Part
from uvarovite.core.values import StoredForm, form_of

# Far beyond what the checks allow, so that what is only too deep can be saved and mended.
_DEEPEST, _MOST_NESTED = 20, 2_000


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

    @model_validator(mode="after")
    def _is_bounded(self) -> Self:
        """What no check has to look through: it could not even be stored."""
        level: list[BlockBase] = list(self.blocks)
        depth, count = 0, 0
        while level:
            depth, count = depth + 1, count + len(level)
            if depth > _DEEPEST or count > _MOST_NESTED:
                raise ValueError(
                    f"blocks stand in each other more than {_DEEPEST} deep, or are more than {_MOST_NESTED:,}"
                )
            level = [inner for block in level for inner in block.nested()]
        return self


CONTENT_FORM: StoredForm[MessageContent] = form_of(MessageContent, version=2, older={1: dict})


def all_blocks(content: MessageContent, fields: FieldMap) -> Iterator[tuple[Seat, BlockBase]]:
    """Every block with its seat, those in other blocks behind them."""
    waiting = [
        (Seat(path=f"blocks.{place}", fields=fields), cast(BlockBase, block))
        for place, block in enumerate(content.blocks)
    ]
    while waiting:
        seat, block = waiting.pop(0)
        yield seat, block
        waiting = [*block.inside(seat), *waiting]


def written_parts(content: MessageContent, fields: FieldMap) -> Iterator[WrittenPart]:
    """Every part that an author writes, in reading order: subject, preheader, blocks.0.text, blocks.1.url …"""
    whole = Seat(path="", fields=fields)
    for name, source in (("subject", content.subject), ("preheader", content.preheader)):
        yield WrittenPart(path=name, kind=PartKind.LINE, source=source, seat=whole)
    for seat, block in all_blocks(content, fields):
        yield from block.parts(seat)
