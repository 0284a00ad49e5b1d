"""The first form of a message: texts with inlays, without marks."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

# Far beyond what anyone reads; the bound keeps rendering and every keystroke quick.
MOST_BLOCKS = 200


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class _Block(_Part):
    """`id` tells a block of a message from the others while it is moved and written; "" where it never had one."""

    id: str = Field(default="", max_length=40, pattern=r"^[\w-]*$")


class Heading(_Block):
    """A line that stands out."""

    kind: Literal["heading"] = "heading"
    text: str = Field(max_length=2_000)


class Paragraph(_Block):
    """Running text; its line ends are kept."""

    kind: Literal["paragraph"] = "paragraph"
    text: str = Field(max_length=50_000)


class Button(_Block):
    """A link that one cannot miss. The address begins with https://, http:// or mailto:."""

    kind: Literal["button"] = "button"
    label: str = Field(max_length=500)
    url: str = Field(max_length=2_000)


class Divider(_Block):
    """A thin line."""

    kind: Literal["divider"] = "divider"


Block = Annotated[Heading | Paragraph | Button | Divider, Field(discriminator="kind")]


class MessageContent(_Part):
    """All that an author writes; stored with its version. `needed`: fields without which nobody gets it, by key.

    `language` is the code of one of LANGUAGES, "" for the organisation's own: formats and footer follow it.
    """

    version: Literal[1] = 1
    language: str = Field(default="", max_length=20)
    subject: str = Field(default="", max_length=2_000)
    preheader: str = Field(default="", max_length=2_000)
    blocks: tuple[Block, ...] = Field(default=(), max_length=MOST_BLOCKS)
    needed: tuple[str, ...] = Field(default=(), max_length=50)
