"""What came back of a run: how many of those it was planned for did what, which links they followed, and who left and why."""

import re
from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.messages import Tracking
from uvarovite.core.messages.links import link_words
from uvarovite.core.responses import Keyring, Purpose, leaving_words, read_token
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.responses.copies import public_address
from uvarovite.store import replies as reply_store
from uvarovite.store import responses as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import counts
from uvarovite.store.tables import Campaign, Delivery, Run, Topic
from uvarovite.store.tables.responses import ResponseKind

RUNS_SHOWN = 12
_TRACKED = re.compile(r'(<a\b[^>]*\bhref="[^"]*/r/([A-Za-z0-9_-]{20,60})"[^>]*>)(.*?)</a>', re.DOTALL)
_FOLLOWED = frozenset({Purpose.CLICK, Purpose.COUNTED_CLICK})
_BADGE = (
    '<span style="display:inline-block;margin:2px;padding:0 6px;border-radius:9px;background:#18211c;color:#ffffff;'
    'font:600 12px/18px sans-serif">{words}</span>'
)


@dataclass(frozen=True, slots=True, kw_only=True)
class LatestRun:
    """A run that went out lately."""

    run_id: int
    campaign_id: int
    campaign: str
    number: int
    released_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkLine:
    """A link: how many people followed it, and how often machines did."""

    number: int
    words: str
    address: str | None
    people: int
    machines: int
    counted: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftLine:
    """Somebody who left."""

    delivery_id: int
    name: str | None
    at: datetime
    words: str
    why: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RunResponses:
    """People, each counted once for each thing; `machine_events` are fetches that are believed to be machines'.

    `opened_counted` and `clicked_counted` are times, of people whom nobody notes. `waiting` are replies that nobody has done yet.
    `public_address` is where anybody may read it, if they may.
    """

    run_id: int
    campaign_id: int
    campaign: str
    number: int
    topic: str
    released_at: datetime
    planned: int
    accepted: int
    bounced: int
    opened: int
    clicked: int
    replied: int
    left: int
    complained: int
    machine_events: int
    waiting: int
    opened_counted: int
    clicked_counted: int
    tracking: Tracking
    public_address: str | None
    links: list[LinkLine]
    leavers: list[LeftLine]


@needs(Permission.LOOK)
def runs_lately(database: Database, actor: Actor) -> list[LatestRun]:
    """The runs that went out last, latest first."""
    with database.transaction() as tx:
        return [LatestRun(**row._mapping) for row in store.latest_runs(tx, RUNS_SHOWN)]


@needs(Permission.LOOK)
def run_responses(database: Database, actor: Actor, run_id: int, *, keyring: Keyring) -> RunResponses:
    """What came back of a run. Raises NotFound."""
    with database.transaction() as tx:
        run, campaign, topic = _run(tx, run_id)
        told = counts.response_counts(tx, run_id)
        states = counts.state_counts(tx, [run_id])[run_id]
        counted = {(row.kind, row.number): row.n for row in store.counted_of_run(tx, run_id)}
        links = [
            LinkLine(
                number=row.number,
                words=link_words(row.number),
                address=row.address,
                people=row.people,
                machines=row.machines,
                counted=counted.get((ResponseKind.CLICKED, row.number), 0),
            )
            for row in store.clicks_by_link(tx, run_id)
        ]
        leavers = [
            LeftLine(
                delivery_id=row.delivery_id,
                name=row.name or row.address,
                at=row.at,
                words=f"left {leaving_words(row.detail.channel)}",
                why=row.detail.said,
            )
            for row in reply_store.left_of_run(tx, run_id, limit=50)
        ]
        return RunResponses(
            run_id=run_id,
            campaign_id=run.campaign_id,
            campaign=campaign.name,
            number=run.number,
            topic=topic.name,
            released_at=run.released_at,
            planned=run.planned,
            accepted=states.get(DeliveryState.ACCEPTED, 0),
            bounced=told.get("bounced", 0),
            opened=told.get("opened", 0),
            clicked=told.get("clicked", 0),
            replied=told.get("replied", 0),
            left=told.get("left", 0),
            complained=told.get("complained", 0),
            machine_events=told.get("machine", 0),
            waiting=reply_store.waiting_of_run(tx, run_id),
            opened_counted=counted.get((ResponseKind.OPENED, 0), 0),
            clicked_counted=sum(n for (kind, _), n in counted.items() if kind == ResponseKind.CLICKED),
            tracking=run.snapshot.tracking,
            public_address=public_address(run, keyring=keyring),
            links=links,
            leavers=leavers,
        )


@needs(Permission.LOOK)
def letter_with_clicks(database: Database, actor: Actor, run_id: int, *, keyring: Keyring) -> str:
    """The message of a run as one of its readers had it, each link with how many followed it. Raises NotFound."""
    with database.transaction() as tx:
        run, _, _ = _run(tx, run_id)
        delivery = tx.get(Delivery, store.one_accepted(tx, run_id) or 0)
        if delivery is None or delivery.id is None or delivery.marked_at is None:
            raise NotFound("message")
        people = Counter({row.number: row.people for row in store.clicks_by_link(tx, run_id)})
        for row in store.counted_of_run(tx, run_id):
            people[row.number] += row.n if row.kind == ResponseKind.CLICKED else 0
        composer = composer_of(tx, run, keyring, press=press_of(database))
    composed = composer.compose(
        delivery_id=delivery.id,
        address=delivery.address,
        record_json=delivery.record,
        consent_since=delivery.consent_since,
        marked_at=delivery.marked_at,
    )

    def badge(found: re.Match[str]) -> str:
        token = read_token(found[2], _FOLLOWED, keyring)
        # Outside of the link, whose own look stays.
        return f"{found[1]}{found[3]}</a>{_BADGE.format(words=f'{people[token.number]:,}')}" if token else found[0]

    return _TRACKED.sub(badge, composed.read().html)


def _run(tx: Transaction, run_id: int) -> tuple[Run, Campaign, Topic]:
    run = tx.get(Run, run_id)
    campaign = tx.get(Campaign, run.campaign_id) if run else None
    topic = tx.get(Topic, run.topic_id) if run else None
    if run is None or campaign is None or topic is None:
        raise NotFound("run")
    return run, campaign, topic
