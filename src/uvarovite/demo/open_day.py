"""A letter that the museum is still writing: with a shared block, entries for the calendar and a colleague's comment."""

from uvarovite.core.messages import Button, Heading, Listing, MessageContent, Paragraph
from uvarovite.core.messages.attachments import CalendarEntry, MessagePdf
from uvarovite.core.messages.blocks import Shared

WAY_NAME = "How to find us"
WAY = MessageContent(
    subject=WAY_NAME,
    blocks=(
        Heading(id="way", text="How to find us", level=3),
        Paragraph(
            id="hours",
            text="Slate Row is ten minutes on foot from the station. We are open from Tuesday to Sunday, ten till five.",
        ),
    ),
)

OPEN_DAY_NAME = "Open day in spring"
COMMENTED = "lamps"
COMMENT = "Do we have enough lamps for everybody? The school took twelve last week."


def open_day(way_id: int) -> MessageContent:
    """Its words; `way_id` is the message with the shared block."""
    return MessageContent(
        subject='@{first_name else "Hello"}, the adit is open on 14 March',
        preheader="An afternoon below ground, and what grows there",
        blocks=(
            Heading(id="title", text="The Copper Adit opens for a day"),
            Paragraph(id="greeting", text='Dear @{first_name else "friend of the museum"},'),
            Paragraph(
                id="why",
                text="once a year the water is low enough to walk to the end of the adit, where the azurite grows. "
                "On Sunday, 14 March, we go there in small groups.",
            ),
            Listing(id=COMMENTED, items=("Boots with a grip", "A lamp, or one of ours", "A warm coat")),
            Button(id="place", label="Choose a time", url="https://skarnmuseum.example/adit?card=@{contact_no}"),
            Shared(id="find", message_id=way_id, name=WAY_NAME, blocks=WAY.blocks),
        ),
        attachments=(
            CalendarEntry(
                id="entry",
                title="Open day in the Copper Adit",
                place="Museum yard, 1 Slate Row, Skarn",
                note="Bring boots and a lamp.",
                day="2027-03-14",
                time="13:00",
                minutes=240,
            ),
            MessagePdf(id="print", name='Open day for @{first_name else "you"}'),
        ),
    )
