"""The message as a document of blocks: the one source of its HTML and of its plain text.

1   texts without marks (renderer_1.document)
2   words with marks, and blocks in blocks
3   words in other languages
4   attachments
5   shared blocks, HTML
6   files of their own for each person
7   messages as PDFs
8   pictures that go along, attachments for those who read one language
"""

from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self, cast

from pydantic import BeforeValidator, Field, model_validator

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.messages.attachments import MOST_ATTACHMENTS, Attachment, AttachmentBase
from uvarovite.core.messages.blocks import MOST_BLOCKS, Block, BlockBase, PartKind, Seat, WrittenPart
from uvarovite.core.messages.passages import Part
from uvarovite.core.values import StoredForm, form_of

# Far beyond what the checks allow, so that what is only too deep can be saved and mended.
_DEEPEST, _MOST_NESTED = 20, 2_000
# More languages than a team writes.
MOST_OTHERS = 12


def _as_newest(version: Any) -> Any:
    """Earlier forms said the same with less: texts without marks are words, as every block takes them; one language."""
    return 8 if version in (1, 2, 3, 4, 5, 6, 7) else version


class Basis(Part):
    """The main words as they were when a version in another language last followed them."""

    subject: str = Field(default="", max_length=2_000)
    preheader: str = Field(default="", max_length=2_000)
    blocks: tuple[Block, ...] = Field(default=(), max_length=MOST_BLOCKS)


class OtherWords(Basis):
    """The words in another language, for whoever reads it. `basis` is None where nobody said what they follow."""

    language: str = Field(max_length=20)
    basis: Basis | None = None


class MessageContent(Part):
    """All that an author writes; stored with its version. `needed`: fields without which nobody gets it, by key.

    `language` is the code of one of LANGUAGES, "" for the organisation's own: formats and footer follow it. `others` are
    the words in other languages: each reader gets those in theirs, else the main ones. What is attached goes with all of
    them, or with those in one language.
    """

    version: Annotated[Literal[8], BeforeValidator(_as_newest)] = 8
    language: str = Field(default="", max_length=20)
    subject: str = Field(default="", max_length=2_000)
    preheader: str = Field(default="", max_length=2_000)
    blocks: tuple[Block, ...] = Field(default=(), max_length=MOST_BLOCKS)
    needed: tuple[str, ...] = Field(default=(), max_length=50)
    others: tuple[OtherWords, ...] = Field(default=(), max_length=MOST_OTHERS)
    attachments: tuple[Attachment, ...] = Field(default=(), max_length=MOST_ATTACHMENTS)

    @model_validator(mode="after")
    def _is_bounded(self) -> Self:
        """What no check has to look through: it could not even be stored."""
        bases = [other.basis for other in self.others if other.basis]
        blocks = [self.blocks, *(words.blocks for words in (*self.others, *bases))]
        level: list[BlockBase] = [block for some in blocks for block in some]
        depth, count = 0, 0
        while level:
            depth, count = depth + 1, count + len(level)
            if depth > _DEEPEST or count > _MOST_NESTED:
                raise ValueError(
                    f"blocks stand in each other more than {_DEEPEST} deep, or are more than {_MOST_NESTED:,}"
                )
            level = [inner for block in level for inner in block.nested()]
        return self

    def in_other(self, other: OtherWords) -> "MessageContent":
        """The message as whoever reads the other language gets it."""
        return MessageContent(
            language=other.language, subject=other.subject, preheader=other.preheader, blocks=other.blocks
        )

    def languages(self) -> list[str]:
        """The codes of the languages of its words, the main one first."""
        return [self.language, *(other.language for other in self.others)]

    def readers_of(self, attachment: AttachmentBase) -> list[str]:
        """With whose words an attachment goes: the codes of others, and "" for whoever reads the main ones."""
        codes = ["", *(other.language for other in self.others)]
        return [code for code, written in zip(codes, self.languages(), strict=True) if attachment.goes_with(written)]

    def versions(self) -> Iterator[tuple[str, "MessageContent"]]:
        """(what their parts' names begin with, words) of the main words and of those in other languages."""
        yield "", self.model_copy(update={"others": ()})
        for place, other in enumerate(self.others):
            yield f"others.{place}.", self.in_other(other)


def language_of_part(content: MessageContent, part: str) -> str:
    """The language of the words that a part such as `others.0.subject` stands in; "" for the main ones."""
    steps = part.split(".", 2)
    return content.others[int(steps[1])].language if steps[0] == "others" and len(steps) > 1 else ""


def reads(record: Record) -> str:
    """The language that a person reads, without its region: "pl" for pl_PL; "" where that is not known."""
    told = record.get("language")
    return told.replace("_", "-").split("-", 1)[0].lower() if isinstance(told, str) else ""


def readers_of_part(content: MessageContent, part: str) -> list[str]:
    """Who reads a part: the codes of other languages, and "" for whoever reads the main words."""
    steps = part.split(".", 2)
    if steps[0] == "attachments" and len(steps) > 1:
        return content.readers_of(content.attachments[int(steps[1])])
    return [language_of_part(content, part)]


CONTENT_FORM: StoredForm[MessageContent] = form_of(
    MessageContent, version=8, older={1: dict, 2: dict, 3: dict, 4: dict, 5: dict, 6: dict, 7: dict}
)


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
    """Every part that an author writes, in reading order: subject, preheader, blocks.0.text, attachments.0.name …"""
    whole = Seat(path="", fields=fields)
    for name, source in (("subject", content.subject), ("preheader", content.preheader)):
        yield WrittenPart(path=name, kind=PartKind.LINE, source=source, seat=whole)
    for seat, block in all_blocks(content, fields):
        yield from block.parts(seat)
    for place, attachment in enumerate(content.attachments):
        yield from attachment.parts(Seat(path=f"attachments.{place}", fields=fields))
