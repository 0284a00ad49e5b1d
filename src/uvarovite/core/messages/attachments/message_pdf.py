"""A message that goes with another as a PDF, or with itself: for whoever keeps it, or prints it."""

from collections.abc import Iterable, Iterator
from typing import Literal, Protocol

from pydantic import Field

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages.attachments.base import AttachmentBase
from uvarovite.core.messages.blocks import PartKind, PartProblem, Seat, WrittenPart


class MessagePdf(AttachmentBase):
    """The words of a message as a PDF, as each person gets them.

    `message_id` is whose words they are, None for those that it goes with. `name` is what readers see, without its
    ending; "" is the subject of those words.
    """

    kind: Literal["pdf"] = "pdf"
    message_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    name: str = Field(default="", max_length=500)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        """What its author writes."""
        yield seat.part("name", PartKind.LINE, self.name)

    def problems(self, at: str, fields: FieldMap) -> Iterator[PartProblem]:
        """What is wrong with it besides the texts of its parts: nothing."""
        yield from ()


class Pages(Protocol):
    """The words of a message, to be a PDF."""

    def subject(self, record: Record, context: InlayContext) -> str:
        """Their subject for one person."""

    def page(self, record: Record, context: InlayContext) -> str:
        """The page for one person, as HTML."""

    def pdf(self, record: Record, context: InlayContext) -> bytes:
        """The PDF for one person; empty where none is made."""


def messages_shown(attachments: Iterable[object]) -> list[int]:
    """The numbers of the other messages that go along as PDFs, each once."""
    found = [one.message_id for one in attachments if isinstance(one, MessagePdf) and one.message_id is not None]
    return list(dict.fromkeys(found))
