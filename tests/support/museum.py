"""A small museum that a test can hold in its head."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import Pace
from uvarovite.core.consent import ConsentEventKind
from uvarovite.core.messages import Button, MessageContent, Paragraph
from uvarovite.core.responses import Keyring, derive_keyring
from uvarovite.demo.story import founding
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.audiences.explain import Explanation, explain
from uvarovite.services.campaigns.campaigns import CampaignChange, CampaignView, get_campaign, save_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.consent.by_hand import record_by_hand, suppress_by_hand
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.imports.writing import import_file
from uvarovite.services.messages.messages import save_message
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import Database, run_sql

NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)
SECRET = b"a secret for the tests only"
KEYRING: Keyring = derive_keyring(SECRET)
HASHER = address_hasher(SECRET)
PUBLIC_URL = "http://127.0.0.1:8040"

# Ada to Edda are cleared; each of the others is held by one gate, Gus's address being Ada's.
PEOPLE = """Contact no.,E-mail address,First name,Last name,Language,Membership,Pledge,Renews on,Town,Visits last year,Volunteer
M-01,ada@slatepost.example,Ada,Thwaite-Gray,en,Patron,750.50,2026-12-01,Skarn,3,yes
M-02,benoit@slatepost.example,Benoît,d’Ardoise,fr,Friend,30.00,2027-01-15,Skellbeck,0,no
M-03,zoe@slatepost.example,Ζωή,Καλλέργη,el,Fellow,120.00,2026-11-30,Skarn,7,no
M-04,dai@slatepost.example,,Wren,en,Friend,30.00,2026-12-31,Breccia,2,no
M-05,edda@slatepost.example,Edda,Öttinger,de,Fellow,,2027-03-01,Skarn,1,yes
M-06,,Fenwick,Quill,en,Friend,30.00,2027-02-01,Skarn,1,no
M-07,ADA@slatepost.example,Gus,Thwaite-Gray,en,Friend,30.00,2027-02-01,Skarn,1,no
M-08,hugh@slatepost.example,Hugh,Garth,en,Friend,30.00,2027-02-01,Skarn,1,no
M-09,ivy@slatepost.example,Ivy,Cragg,en,Friend,30.00,2027-02-01,Skarn,1,no
M-10,jude@slatepost.example,Jude,Lowick,en,Friend,30.00,2027-02-01,Skarn,1,no
"""

MESSAGE = MessageContent(
    subject='@{first_name else "Hello"}, two walks are open',
    preheader="",
    blocks=(
        Paragraph(text='Dear @{first_name else "friend"}, your pledge: @{if pledge is not blank}@{pledge}@{end}'),
        Button(label="Choose a walk", url="https://skarnmuseum.example/walks?card=@{contact_no}"),
    ),
)


def explained(database: Database, **asked: Any) -> list[Explanation]:
    """Why everybody with an address gets it, or not."""
    return explain(database, SYSTEM, hasher=HASHER, **asked).people


@dataclass(frozen=True, slots=True, kw_only=True)
class Museum:
    """Everything that a test needs to release a campaign and look at what happens."""

    database: Database
    campaign_id: int
    topic_id: int
    audience_id: int
    message_id: int
    pool_id: int
    relay_id: int

    def view(self, now: datetime = NOW) -> CampaignView:
        """The run sheet."""
        return get_campaign(self.database, SYSTEM, self.campaign_id, now)

    def change(self, **changed: object) -> CampaignView:
        """Save the campaign with something changed."""
        view = self.view()
        return save_campaign(
            self.database,
            SYSTEM,
            campaign_id=self.campaign_id,
            change=changed_campaign(view, **changed),
            revision=view.revision,
            now=NOW,
        )

    def release(self, now: datetime = NOW, **changed: int) -> int:
        """Release what is on the run sheet; the run's id."""
        view = self.view(now)
        assert view.clearance is not None
        assert view.message_number is not None
        seen = {
            "revision": view.revision,
            "seen_cleared": view.clearance.cleared,
            "seen_message_number": view.message_number,
        }
        return release(
            self.database,
            SYSTEM,
            campaign_id=self.campaign_id,
            public_url=PUBLIC_URL,
            keyring=KEYRING,
            now=now,
            **{**seen, **changed},
        )

    def contact_id(self, contact_no: str) -> int:
        """A contact's id by number."""
        with self.database.transaction() as tx:
            return int(run_sql(tx, "SELECT id FROM contact WHERE contact_no = :no", {"no": contact_no})[0][0])

    def delivery_id(self, run_id: int, contact_no: str) -> int:
        """The delivery of a run to a contact."""
        sql = "SELECT id FROM delivery WHERE run_id = :run AND contact_id = :contact"
        with self.database.transaction() as tx:
            rows = run_sql(tx, sql, {"run": run_id, "contact": self.contact_id(contact_no)})
        return int(rows[0][0])

    def states(self, run_id: int) -> dict[str, str]:
        """The state of every delivery of a run, by contact number."""
        sql = """SELECT contact_no, state FROM delivery JOIN contact ON contact.id = contact_id
            WHERE run_id = :run ORDER BY contact_no"""
        with self.database.transaction() as tx:
            return {row.contact_no: row.state for row in run_sql(tx, sql, {"run": run_id})}


def changed_campaign(view: CampaignView, **changed: object) -> CampaignChange:
    """A campaign as it is on the run sheet, with something changed."""
    kept = {key: getattr(view, key) for key in CampaignChange.__dataclass_fields__}
    return CampaignChange(**{**kept, **changed})


def make_museum(
    database: Database,
    *,
    people: str = PEOPLE,
    smtp_port: int = 8041,
    batch_size: int = 2,
    gap_seconds: int = 0,
    relays: int = 1,
) -> Museum:
    """Set the museum up with its first `relays`; everybody in the file but the last three stories is opted in to Field walks."""
    begun = founding(smtp_host="127.0.0.1", smtp_port=smtp_port)
    found_organisation(database, SYSTEM, replace(begun, relays=begun.relays[:relays]))
    since = NOW - timedelta(days=100)
    import_file(
        database,
        SYSTEM,
        filename="people.csv",
        content=people.encode(),
        topic="field_walks",
        legal_basis="Signed the list at the open day",
        now=since,
        hasher=HASHER,
    )
    if people is PEOPLE:
        record_by_hand(
            database,
            SYSTEM,
            contact_no="M-08",
            topic="field_walks",
            kind=ConsentEventKind.WITHDRAWN,
            at=since + timedelta(days=1),
            wording="by telephone",
        )
        suppress_by_hand(database, SYSTEM, contact_no="M-09", reason="asked to be left alone", at=since)
        suppress_by_hand(database, SYSTEM, contact_no="M-10", reason="asked to be left alone", at=since)
    audience = save_audience(
        database, SYSTEM, audience_id=None, name="Everyone", text="everyone", revision=None, now=NOW
    )
    message = save_message(database, SYSTEM, message_id=None, name="Walks", content=MESSAGE, revision=None, now=NOW)
    offered = vocabulary(database, SYSTEM)
    change = CampaignChange(
        name="Walks",
        topic_id=offered.topics[0].id,
        audience_id=audience.id,
        message_id=message.id,
        sender_id=offered.senders[0].id,
        pool_id=offered.pools[0].id,
        pace=Pace(batch_size=batch_size, gap_seconds=gap_seconds),
    )
    campaign = save_campaign(database, SYSTEM, campaign_id=None, change=change, revision=None, now=NOW)
    return Museum(
        database=database,
        campaign_id=campaign.id,
        topic_id=offered.topics[0].id,
        audience_id=audience.id,
        message_id=message.id,
        pool_id=offered.pools[0].id,
        relay_id=offered.pools[0].relays[0].id,
    )
