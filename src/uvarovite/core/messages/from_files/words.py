"""The words of a file: a subject where there was one, blocks, and what was left out."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import ClassVar

from uvarovite.core.messages.blocks import Block
from uvarovite.core.messages.document import MessageContent
from uvarovite.core.values.sentences import CodedFault

# What is left out of a file, by kind, with its words.
LEFT_OUT: Mapping[str, str] = {
    "scripts": "{count:script|scripts}",
    "forms": "{count:form or input|forms or inputs}",
    "styles": "{count:style sheet with its|style sheets with their} fonts and colours",
    "frames": "{count:frame or film|frames or films}",
    "embedded": "{count:picture|pictures} that stood in the file itself",
    "links": "{count:link that leads|links that lead} to no web or mail address",
    "macros": "macros",
    "blocks": "what stood behind the first {count} blocks",
}


WRITING_FAULTS: Mapping[str, str] = {
    "too_large": "The file has {size} MB; at most {most} MB are taken.",
    "no_writing": "This is no HTML, Word, Markdown, text or mail file. Save it as one of these, and try again.",
    "unreadable": "The file cannot be read; it may be broken. Open it in the program that made it, and save it anew.",
    "inflated": "The file would unpack to far more than a letter can hold, so it was not opened.",
    "old_word": "This is a file of an old Word. Save it as .docx, and try again.",
    "nothing": "There are no words in the file.",
    "message_file": "The file says that it is a message of ours, and is none: {why}.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class WordsOfFile:
    """`left_out` counts by kind (LEFT_OUT). A message in our own format comes as `content`, with all that it has."""

    blocks: tuple[Block, ...]
    subject: str = ""
    left_out: Mapping[str, int] = field(default_factory=dict)
    content: MessageContent | None = None


class WritingFault(CodedFault):
    """A file whose words cannot be read. Whose doing: the file's."""

    words: ClassVar[Mapping[str, str]] = WRITING_FAULTS
