"""What is noted of readers where a campaign says nothing else, and what their own preference page offers."""

from dataclasses import dataclass

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages import Tracked
from uvarovite.core.responses.form_fields import correctable
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.consent.ledger import topics as all_topics
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction

MOST_FIELDS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class ReaderSettings:
    """What is noted of opens and clicks; on the preference page the fields that people may correct themselves, besides name and
    language, and the topics that only those see who get them.
    """

    opens: Tracked
    clicks: Tracked
    fields: list[str]
    inner_topics: list[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldOffer:
    """A field that people might correct themselves."""

    key: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadersView:
    """What is set, and the fields that there are to choose from."""

    settings: ReaderSettings
    offers: list[FieldOffer]


def _offers(tx: Transaction) -> dict[str, FieldOffer]:
    return {key: FieldOffer(key=key, label=field.label) for key, field in load_fields(tx).items() if correctable(field)}


@needs(Permission.LOOK)
def readers(database: Database, actor: Actor) -> ReadersView:
    """What is set. Raises ServiceRefusal before the organisation is set up."""
    with database.transaction() as tx:
        found, offers = require_organisation(tx), _offers(tx)
        return ReadersView(
            settings=ReaderSettings(
                opens=Tracked(found.track_opens),
                clicks=Tracked(found.track_clicks),
                fields=[key for key in found.page_fields if key in offers],
                inner_topics=found.inner_topics,
            ),
            offers=list(offers.values()),
        )


@needs(Permission.SET_UP)
def change_readers(database: Database, actor: Actor, change: ReaderSettings) -> None:
    """Set it: the tracking for what is released from now on, the page at once. Raises BadInput, ServiceRefusal."""
    with database.transaction() as tx:
        found, offers = require_organisation(tx), _offers(tx)
        if any(key not in offers for key in change.fields):
            raise BadInput("fields", "One of these fields is not there any more, or cannot be corrected on a page.")
        if len(change.fields) > MOST_FIELDS:
            raise BadInput("fields", f"At most {MOST_FIELDS} fields: a longer page nobody fills in.")
        known = {topic.id for topic in all_topics(tx)}
        if any(topic not in known for topic in change.inner_topics):
            raise BadInput("topics", "One of these topics is not there any more.")
        found.track_opens, found.track_clicks = change.opens, change.clicks
        found.page_fields = list(dict.fromkeys(change.fields))
        found.inner_topics = sorted(set(change.inner_topics))
        tx.add(found)
        audit(tx, actor, Action.READERS_CHANGED)
