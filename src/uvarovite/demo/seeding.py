"""The museum into an empty database, its people through the same import as everybody's."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

from uvarovite.core.accounts import SYSTEM, Actor, user_actor
from uvarovite.core.campaigns import Pace
from uvarovite.core.consent import ConsentEventKind
from uvarovite.core.contacts.live_sources import SourceKind
from uvarovite.core.contacts.table_columns import TableColumn
from uvarovite.demo.contacts import DemoFiles
from uvarovite.demo.open_day import COMMENT, COMMENTED, OPEN_DAY_NAME, WAY, WAY_NAME, open_day
from uvarovite.demo.shop import SHOP_FILE, SHOP_VIEW
from uvarovite.demo.sign_up import SIGN_UP, SIGN_UP_TOPICS, WELCOME, WELCOME_NAME
from uvarovite.demo.starters import STARTERS
from uvarovite.demo.starters_in_other_languages import in_all_languages
from uvarovite.demo.story import (
    AUDIENCE_CRITERIA,
    AUDIENCE_NAME,
    CAMPAIGN_NAME,
    LEGAL_BASES,
    MESSAGE,
    MESSAGE_NAME,
    USERS,
    VIEW_COLUMNS,
    VIEW_CRITERIA,
    VIEW_NAME,
    founding,
)
from uvarovite.services.accounts.users import create_user
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.campaigns.campaigns import CampaignChange, save_campaign
from uvarovite.services.consent.by_hand import record_by_hand, suppress_by_hand
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.imports.writing import import_file
from uvarovite.services.messages.comments import add_comment
from uvarovite.services.messages.library import keep_as_starter
from uvarovite.services.messages.messages import save_message
from uvarovite.services.messages.shared_blocks import share
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.services.responses.sign_up_forms import FormChange, save_form
from uvarovite.services.selection.bulk import Selection, tag
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.services.selection.views import save_view
from uvarovite.services.sources.live_sources import SourceAccessDraft, SourceDraft, save_source

VOLUNTEERS = Wanted(criteria="volunteer")


def seed_people(database: Any, files: DemoFiles, now: datetime) -> None:
    """Contacts, what they opted in to and on what legal basis, who has left since, and who is suppressed."""
    since = now - timedelta(days=200)
    # Nobody has been erased yet, so no hash is ever compared.
    hasher = address_hasher(b"")
    import_file(
        database,
        SYSTEM,
        filename="museum contacts.csv",
        content=files.contacts.encode(),
        topic=None,
        legal_basis="",
        now=since,
        hasher=hasher,
    )
    for topic, text in files.sign_ups.items():
        filename = f"{topic.replace('_', ' ')} sign-ups.csv"
        import_file(
            database,
            SYSTEM,
            filename=filename,
            content=text.encode(),
            topic=topic,
            legal_basis=LEGAL_BASES[topic],
            now=since,
            hasher=hasher,
        )
        for kind, numbers, wording in (
            (ConsentEventKind.ASKED, files.asked[topic], "Asked at the front desk"),
            (ConsentEventKind.WITHDRAWN, files.left[topic], "Said so by telephone"),
        ):
            for place, number in enumerate(numbers):
                at = since + timedelta(days=1 + place % 180)
                record_by_hand(database, SYSTEM, contact_no=number, topic=topic, kind=kind, at=at, wording=wording)
    for number in files.suppressed:
        suppress_by_hand(
            database, SYSTEM, contact_no=number, reason="Asked to be left alone, letter in the file", at=since
        )


def seed_museum(database: Any, files: DemoFiles, *, smtp_host: str, smtp_port: int, now: datetime) -> None:
    """The whole museum: organisation, users, people, an audience, a letter and a campaign that is ready."""
    found_organisation(database, SYSTEM, founding(smtp_host=smtp_host, smtp_port=smtp_port))
    actors = [
        user_actor(
            user_id=create_user(database, SYSTEM, email=email, name=name, password=password, role=role, now=now),
            name=name,
            email=email,
            role=role,
        )
        for email, name, password, role in USERS
    ]
    seed_people(database, files, now)
    tag(
        database,
        SYSTEM,
        Selection(wanted=VOLUNTEERS, seen=count_contacts(database, SYSTEM, wanted=VOLUNTEERS, now=now)),
        name="lamp owner",
        put=True,
        now=now,
    )
    save_view(
        database,
        SYSTEM,
        view_id=None,
        name=VIEW_NAME,
        criteria=VIEW_CRITERIA,
        columns=[TableColumn(key=key, width=width) for key, width in VIEW_COLUMNS],
        sort="renews_on",
        revision=None,
        now=now,
    )
    audience = save_audience(
        database,
        SYSTEM,
        audience_id=None,
        name=AUDIENCE_NAME,
        text=AUDIENCE_CRITERIA,
        revision=None,
        now=now,
    )
    message = save_message(
        database, SYSTEM, message_id=None, name=MESSAGE_NAME, content=MESSAGE, revision=None, now=now
    )
    offered = vocabulary(database, SYSTEM)
    change = CampaignChange(
        name=CAMPAIGN_NAME,
        topic_id=offered.topics[0].id,
        audience_id=audience.id,
        message_id=message.id,
        sender_id=offered.senders[0].id,
        pool_id=offered.pools[0].id,
        pace=Pace(batch_size=50, gap_seconds=10),
    )
    save_campaign(database, SYSTEM, campaign_id=None, change=change, revision=None, now=now)
    seed_starters(database, now)
    seed_open_day(database, actors, now)
    seed_shop(database, now)
    wanted = [topic.id for topic in offered.topics if topic.key in SIGN_UP_TOPICS]
    welcome = save_message(
        database, SYSTEM, message_id=None, name=WELCOME_NAME, content=WELCOME, revision=None, now=now
    )
    form = FormChange(
        **SIGN_UP,
        topics=wanted,
        sender_id=offered.senders[0].id,
        closed=False,
        welcome_message_id=welcome.id,
    )
    save_form(database, SYSTEM, None, form, revision=None, now=now)


def seed_starters(database: Any, now: datetime) -> None:
    """What new messages begin as."""
    for name, content in STARTERS.items():
        words = in_all_languages(content)
        made = save_message(database, SYSTEM, message_id=None, name=name, content=words, revision=None, now=now)
        keep_as_starter(database, SYSTEM, made.id, starter=True)


def seed_open_day(database: Any, actors: Sequence[Actor], now: datetime) -> None:
    """A letter that two are still writing: a shared block stands in it, and something is said of it."""
    one, other, *_ = actors
    way = save_message(database, one, message_id=None, name=WAY_NAME, content=WAY, revision=None, now=now)
    share(database, one, way.id, shared=True)
    words = open_day(way.id)
    letter = save_message(database, other, message_id=None, name=OPEN_DAY_NAME, content=words, revision=None, now=now)
    add_comment(
        database,
        one,
        letter.id,
        language="",
        block_id=COMMENTED,
        quote="A lamp, or one of ours",
        words=COMMENT,
        now=now,
    )


def seed_shop(database: Any, now: datetime) -> None:
    """The shop's till as a live source that nobody has pulled yet."""
    access = SourceAccessDraft(kind=SourceKind.SQLITE, database=SHOP_FILE)
    draft = SourceDraft(name="Museum shop", access=access, table=SHOP_VIEW, gone_tag="gone from the shop")
    # An SQLite file has no password, so nothing is sealed.
    save_source(database, SYSTEM, None, draft, secret=b"", files=[SHOP_FILE], now=now)
