"""The museum: its fields, topics, people who work there, and the letters that they begin with."""

from uvarovite.core.accounts import Role
from uvarovite.core.contacts import Field, FieldType
from uvarovite.core.messages import Button, Divider, Heading, MessageContent, Paragraph
from uvarovite.services.organisation.founding import Founding, NewRelay, NewTopic

USERS: tuple[tuple[str, str, str, Role], ...] = (
    ("signe.vale@skarnmuseum.example", "Signe Vale", "garnet-lantern-41", Role.ADMINISTRATOR),
    ("tomas.brekke@skarnmuseum.example", "Tomas Brekke", "copper-ledger-17", Role.AUTHOR),
)

LEGAL_BASES: dict[str, str] = {
    "field_walks": "Sign-up sheets of the field walks 2024 to 2026, kept at the front desk",
    "museum_news": "Box ticked on the visitor form, “Send me news of the museum”",
    "membership": "Membership form, section 4, “by e-mail”",
    "schools": "Agreement with the school's office, renewed in September 2026",
    "volunteers": "Volunteer agreement, page 2",
}

AUDIENCE_NAME = "Walkers near the valley"
AUDIENCE_CRITERIA = 'membership in ("Friend", "Fellow", "Patron") and (town starts with "Sk" or visits_last_year >= 2)'

VIEW_NAME = "Renewals ahead"
VIEW_CRITERIA = "renews_on within next 60 days"
VIEW_COLUMNS = (
    ("name", 190),
    ("membership", 110),
    ("renews_on", 120),
    ("pledge", 110),
    ("address", 250),
    ("tags", 130),
)

MESSAGE_NAME = "Autumn field walks"
MESSAGE = MessageContent(
    subject='@{first_name else "Hello"}, two walks are still open this autumn',
    preheader='Your @{membership else "museum"} card takes you along the Scree Path',
    blocks=(
        Heading(text="The Scree Path and the Copper Adit"),
        Paragraph(text='Dear @{first_name else "friend of the museum"},'),
        Paragraph(
            text="two of our autumn walks have places left: the Scree Path on 5 December and the Copper Adit a week "
            "later. Boots, a lamp and a packed lunch are all that you need."
        ),
        Paragraph(
            text='@{if membership is "Patron"}As a Patron you may bring two guests at no cost.'
            '@{elif membership is "Fellow"}As a Fellow you may bring a guest at no cost.'
            "@{else}Friends walk at half the price.@{end}"
        ),
        Paragraph(
            text='@{if renews_on is not blank}Your membership runs until @{renews_on as date "d MMMM y"}'
            "@{if pledge is not blank}; your pledge of @{pledge as money} keeps our paths open@{end}.@{end}"
        ),
        Button(label="Choose a walk", url="https://skarnmuseum.example/walks?card=@{contact_no}"),
        Button(label="What to bring", url="https://skarnmuseum.example/walks/what-to-bring"),
        Divider(),
        Paragraph(text="Signe Vale\nSkarn Valley Mineral Museum"),
    ),
)

CAMPAIGN_NAME = "Autumn field walks"


def founding(*, smtp_host: str, smtp_port: int) -> Founding:
    """What the museum begins with, its relay being the rehearsal's."""
    return Founding(
        name="Skarn Valley Mineral Museum",
        postal_address="1 Slate Row, SK1 2AB Skarn, Skarnland",
        locale="en_GB",
        time_zone="Europe/London",
        list_domain="skarnmuseum.example",
        fields=(
            Field(key="membership", label="Membership", type=FieldType.CHOICE, choices=("Friend", "Fellow", "Patron")),
            Field(key="pledge", label="Pledge", type=FieldType.MONEY, currency="EUR"),
            Field(key="renews_on", label="Renews on", type=FieldType.DATE),
            Field(key="town", label="Town", type=FieldType.TEXT),
            Field(key="street", label="Street", type=FieldType.TEXT),
            Field(key="postcode", label="Postcode", type=FieldType.TEXT),
            Field(key="country", label="Country", type=FieldType.TEXT),
            Field(key="visits_last_year", label="Visits last year", type=FieldType.NUMBER),
            Field(key="volunteer", label="Volunteer", type=FieldType.YES_NO),
            Field(key="school", label="School", type=FieldType.TEXT),
            Field(
                key="adopted_specimens",
                label="Adopted specimens",
                type=FieldType.LIST,
                help="Minerals of the collection whose care this person pays for",
                parts=(
                    Field(key="name", label="Name", type=FieldType.TEXT),
                    Field(key="locality", label="Locality", type=FieldType.TEXT),
                    Field(key="since", label="Since", type=FieldType.DATE),
                ),
            ),
            Field(
                key="walk_bookings",
                label="Walk bookings",
                type=FieldType.LIST,
                help="Field walks that this person has booked",
                parts=(
                    Field(key="walk", label="Walk", type=FieldType.TEXT),
                    Field(key="date", label="Date", type=FieldType.DATE),
                    Field(key="places", label="Places", type=FieldType.NUMBER),
                    Field(key="price", label="Price", type=FieldType.MONEY, currency="EUR"),
                ),
            ),
            Field(key="last_seen", label="Last seen", type=FieldType.DATE_TIME, help="At the till or at a walk"),
        ),
        topics=(
            NewTopic(key="field_walks", name="Field walks", description="Walks with a geologist, about once a month."),
            NewTopic(key="museum_news", name="Museum news", description="Exhibitions and finds, four times a year."),
            NewTopic(key="membership", name="Membership", description="Renewals and what members get."),
            NewTopic(key="schools", name="Schools", description="Visits and teaching boxes for schools."),
            NewTopic(key="volunteers", name="Volunteers", description="Rotas and training for volunteers."),
        ),
        senders=(
            ("Skarn Valley Mineral Museum", "walks@skarnmuseum.example"),
            ("Signe Vale, Skarn Museum", "signe.vale@skarnmuseum.example"),
        ),
        relays=(
            NewRelay(
                pool="Museum mail",
                name="Main relay",
                host=smtp_host,
                port=smtp_port,
                security="none",
                envelope_domain="back.skarnmuseum.example",
                hourly_limit=6_000,
                # The rehearsal lives in compressed time, so its relay may be asked again soon.
                retry_delays_seconds=(15, 30, 60, 120, 240),
                timeout_seconds=30,
            ),
            NewRelay(
                pool="Museum mail",
                place=2,
                name="Reserve relay",
                host=smtp_host,
                port=smtp_port,
                security="none",
                envelope_domain="back.skarnmuseum.example",
                hourly_limit=2_000,
                connections=2,
                retry_delays_seconds=(15, 30, 60, 120, 240),
                timeout_seconds=30,
            ),
        ),
    )
