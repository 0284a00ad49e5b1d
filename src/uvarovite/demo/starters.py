"""The letters that the museum begins new ones with, in its own voice."""

from uvarovite.core.messages import (
    Arm,
    Button,
    Buttons,
    Divider,
    Heading,
    Listing,
    MessageContent,
    Only,
    Paragraph,
    Table,
    TableColumn,
)

_GREETING = Paragraph(text='Dear @{first_name else "friend of the museum"},')
_GOODBYE = Paragraph(text="Yours,\nSigne Vale\nSkarn Valley Mineral Museum")
_SITE = "https://skarnmuseum.example"

STARTERS: dict[str, MessageContent] = {
    "News of the museum": MessageContent(
        subject="What the valley gave us this season",
        preheader="A new case in the hall, and what is behind it",
        blocks=(
            Heading(text="What the valley gave us this season"),
            _GREETING,
            Paragraph(text="in one sentence: what is new, and why it is worth the way."),
            Heading(text="The first thing", level=2),
            Paragraph(text="Two or three sentences, and where to see it."),
            Heading(text="The second thing", level=2),
            Paragraph(text="Two or three sentences, and who found it."),
            Button(label="See it in the hall", url=f"{_SITE}/news"),
            _GOODBYE,
        ),
    ),
    "Invitation to a walk": MessageContent(
        subject='@{first_name else "Hello"}, a walk is open',
        preheader="The path, the day, and what to bring",
        blocks=(
            Heading(text="Where the walk leads"),
            _GREETING,
            Paragraph(text="on Saturday we walk from the museum along the path. It takes three hours, on firm ground."),
            Listing(items=("Boots with a grip", "A lamp", "A packed lunch")),
            Only(
                arms=(
                    Arm(
                        criteria='membership is "Patron"',
                        blocks=(Paragraph(text="As a Patron you may bring two guests at no cost."),),
                    ),
                    Arm(
                        criteria='membership is "Fellow"',
                        blocks=(Paragraph(text="As a Fellow you may bring a guest at no cost."),),
                    ),
                ),
                otherwise=(Paragraph(text="Friends walk at half the price."),),
            ),
            Button(label="Choose a place", url=f"{_SITE}/walks?card=@{{contact_no}}"),
            _GOODBYE,
        ),
    ),
    "Renewal of a membership": MessageContent(
        subject='Your membership runs until @{renews_on as date "d MMMM" else "soon"}',
        preheader="Two minutes, and the paths stay open",
        needed=("renews_on",),
        blocks=(
            Heading(text="Another year in the valley?"),
            _GREETING,
            Paragraph(
                text='your membership runs until @{renews_on as date "d MMMM y" else "soon"}'
                "@{if pledge is not blank}. Your pledge of @{pledge} kept our paths open this year@{end}."
            ),
            Paragraph(text="@{if visits_last_year >= 1}You came @{visits_last_year} times last year. Thank you!@{end}"),
            Button(label="Renew it", url=f"{_SITE}/renew?card=@{{contact_no}}"),
            _GOODBYE,
        ),
    ),
    "Statement of adopted specimens": MessageContent(
        subject="The minerals in your care",
        preheader="What you look after, and since when",
        needed=("adopted_specimens",),
        blocks=(
            Heading(text="The minerals in your care"),
            _GREETING,
            Paragraph(text="these are the specimens of our collection whose care you pay for. Come and see them."),
            Table(
                variable="s",
                listed="adopted_specimens",
                order="since",
                columns=(
                    TableColumn(title="Specimen", value="@{s.name}"),
                    TableColumn(title="From", value="@{s.locality}"),
                    TableColumn(title="Since", value='@{s.since as date "MMMM y"}'),
                ),
                otherwise="There is none yet: choose one in the hall.",
            ),
            Button(label="Visit them", url=f"{_SITE}/adopted?card=@{{contact_no}}"),
            _GOODBYE,
        ),
    ),
    "Thanks after a walk": MessageContent(
        subject="Thank you for walking with us@{if first_name is not blank}, @{first_name}@{end}",
        preheader="The walks that you have booked still",
        blocks=(
            Heading(text="Thank you for walking with us"),
            _GREETING,
            Paragraph(text="it was good to have you along. Tell us how it was: we read every answer."),
            Button(label="Tell us", url=f"{_SITE}/tell-us"),
            Divider(),
            Paragraph(text="@{if count(walk_bookings) >= 1}These are booked in your name:@{end}"),
            Buttons(
                variable="w",
                listed="walk_bookings",
                order="date",
                label="@{w.walk}, @{w.date}",
                url=f"{_SITE}/walks/@{{w.walk}}",
            ),
            _GOODBYE,
        ),
    ),
    "Letter to a school": MessageContent(
        subject='A teaching box for @{school else "your school"}',
        preheader="Twenty minerals, a lens for each child",
        blocks=(
            Heading(text='A teaching box for @{school else "your school"}'),
            Paragraph(text='Dear @{first_name else "colleague"},'),
            Paragraph(
                text="the boxes for the spring term are ready. Each holds twenty minerals and a lens for each child."
            ),
            Listing(items=("Borrow it for two weeks", "Bring it back, or we fetch it"), ordered=True),
            Button(label="Ask for a box", url=f"{_SITE}/schools"),
            _GOODBYE,
        ),
    ),
}
