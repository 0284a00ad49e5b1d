"""An attachment as an author writes it."""

import re
from collections.abc import Iterable, Iterator
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from uvarovite.core.contacts import FieldMap, FieldType
from uvarovite.core.messages.attachments.base import AttachmentBase
from uvarovite.core.messages.attachments.message_pdf import MessagePdf
from uvarovite.core.messages.attachments.own_files import OwnFiles
from uvarovite.core.messages.blocks import PartKind, PartProblem, Seat, WrittenPart, part_problem

# More than readers look for.
MOST_ATTACHMENTS = 10
_TIME = re.compile(r"(?:[01]\d|2[0-3]):[0-5]\d")


class AttachedFile(AttachmentBase):
    """A file that everybody gets, by the digest of its bytes. `name` is what readers see, without its ending; "" is its own."""

    kind: Literal["file"] = "file"
    file: str = Field(max_length=64, pattern=r"^[0-9a-f]*$")
    name: str = Field(default="", max_length=500)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        """What its author writes."""
        yield seat.part("name", PartKind.LINE, self.name)

    def problems(self, at: str, fields: FieldMap) -> Iterator[PartProblem]:
        """What is wrong with it besides the texts of its parts."""
        if not self.file:
            yield part_problem(f"{at}.file", "no_file", "Choose the file that goes with the message.")


class CalendarEntry(AttachmentBase):
    """An entry for the reader's calendar.

    `day` is a day as 2027-03-14, or the key of a date field: whoever has none in it gets no entry. `time` is as 18:30 in
    the organisation's time zone, "" for the whole day.
    """

    kind: Literal["entry"] = "entry"
    title: str = Field(default="", max_length=500)
    place: str = Field(default="", max_length=500)
    note: str = Field(default="", max_length=2_000)
    day: str = Field(default="", max_length=60)
    time: str = Field(default="", max_length=5)
    minutes: int = Field(default=60, ge=5, le=7 * 24 * 60)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        """What its author writes."""
        for name, source in (("title", self.title), ("place", self.place), ("note", self.note)):
            yield seat.part(name, PartKind.LINE, source)

    def problems(self, at: str, fields: FieldMap) -> Iterator[PartProblem]:
        """What is wrong with it besides the texts of its parts."""
        if not self.title.strip():
            yield part_problem(f"{at}.title", "no_title", "Say what the entry in the calendar is called.")
        if not self.day:
            yield part_problem(f"{at}.day", "no_day", "Say on which day it is, or which field has the day.")
        elif self.fixed_day() is None and (
            self.day not in fields or fields[self.day].type not in (FieldType.DATE, FieldType.DATE_TIME)
        ):
            message = f"“{self.day}” is neither a day such as 2027-03-14 nor a field with a date."
            yield part_problem(f"{at}.day", "no_day", message)
        if self.time and not _TIME.fullmatch(self.time):
            yield part_problem(f"{at}.time", "no_time", "Write the time as 18:30; without one it is the whole day.")

    def fixed_day(self) -> date | None:
        """The day that is the same for everybody; None where a field has it."""
        try:
            return date.fromisoformat(self.day) if re.fullmatch(r"\d{4}-\d\d-\d\d", self.day) else None
        except ValueError:
            return None


AnyAttachment = AttachedFile | CalendarEntry | OwnFiles | MessagePdf
Attachment = Annotated[AnyAttachment, Field(discriminator="kind")]


def attachment_problems(attachments: Iterable[AnyAttachment], fields: FieldMap) -> Iterator[PartProblem]:
    """What is wrong with attachments besides the texts of their parts."""
    for place, one in enumerate(attachments):
        yield from one.problems(f"attachments.{place}", fields)


def files_of(attachments: Iterable[AnyAttachment]) -> list[str]:
    """The digests of all files that may go with a message, each once."""
    found: dict[str, None] = {}
    for one in attachments:
        if isinstance(one, AttachedFile):
            found[one.file] = None
        elif isinstance(one, OwnFiles):
            found |= dict.fromkeys(named.file for named in one.files)
    return list(found)


def is_portable(attachment: AnyAttachment) -> bool:
    """Does it go along in a message file: does it hold nothing that is kept elsewhere?"""
    return isinstance(attachment, CalendarEntry) or (
        isinstance(attachment, MessagePdf) and attachment.message_id is None
    )
