"""Campaigns: who, words and pace, and the run sheet that shows them."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import Again, ClearanceTerms
from uvarovite.core.campaigns import Pace, pace_sentence
from uvarovite.core.delivery import RunState
from uvarovite.core.expressions import NameKind, SqlFragment
from uvarovite.core.messages import MessageContent, Tracked, Tracking, tracking_words
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import ClearanceView, require_liftable, take_clearance, terms_for
from uvarovite.services.campaigns.attachment_checks import attachment_checks
from uvarovite.services.campaigns.forecasting import (
    ForecastView,
    campaign_forecast,
    people_of_domains,
    people_of_zones,
)
from uvarovite.services.campaigns.gauges import PoolGauges, pool_gauges
from uvarovite.services.campaigns.proofs import ProofCount, proof_checks, proof_count
from uvarovite.services.campaigns.readers_noted import tracking_of
from uvarovite.services.campaigns.release_advice import release_advice
from uvarovite.services.campaigns.release_checks import (
    Accepted,
    CampaignParts,
    Check,
    drafts_of,
    load_parts,
    release_checks,
    with_acceptances,
)
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.messages import PartProblemView, problem_views
from uvarovite.services.messages.tests import SentTest, tests_of
from uvarovite.services.saving.conflicts import changed_meanwhile
from uvarovite.services.saving.renaming import rename_in_criteria
from uvarovite.store.campaigns import accepted
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.campaigns import planned as planned_store
from uvarovite.store.campaigns.printing import count_printed
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.rehearsals.rehearsals import of_campaign as rehearsals_of
from uvarovite.store.tables import (
    Audience,
    Campaign,
    Message,
    RelayPool,
    Sender,
    Topic,
    User,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignLine:
    """A campaign in the list, with its latest run if it has one."""

    id: int
    name: str
    topic: str | None
    audience: str | None
    run_id: int | None
    run_state: RunState | None
    planned: int | None
    accepted: int
    released_at: datetime | None
    ended_at: datetime | None
    planned_at: datetime | None
    updated_at: datetime


@needs(Permission.LOOK)
def campaign_list(database: Database, actor: Actor) -> list[CampaignLine]:
    """All campaigns, latest first."""
    with database.transaction() as tx:
        return [
            CampaignLine(**{**row._mapping, "run_state": RunState(row.run_state) if row.run_state else None})
            for row in store.campaign_list(tx)
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class RunLine:
    """A run of a campaign."""

    id: int
    number: int
    state: RunState
    planned: int
    released_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedView:
    """A release that goes by itself at a moment. `changed`: it would not, since the campaign is another one now."""

    at: datetime
    by: str | None
    people: int
    changed: bool
    trouble: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignView:
    """The run sheet: everything that its stops show. `printed`: how many got a letter on paper; `rehearsed`: how many
    rehearsals of it are kept."""

    id: int
    name: str
    revision: int
    topic_id: int | None
    topic: str | None
    audience_id: int | None
    audience: str | None
    criteria: str | None
    message_id: int | None
    message: str | None
    message_number: int | None
    content: MessageContent | None
    sender_id: int | None
    sender: str | None
    pool_id: int | None
    relay: str | None
    gauges: PoolGauges | None
    pace: Pace
    pace_words: str
    again: Again
    lifted: list[str]
    track_opens: Tracked | None
    track_clicks: Tracked | None
    clearance: ClearanceView | None
    problems: list[PartProblemView]
    checks: list[Check]
    forecast: ForecastView | None
    summary: str
    tests: list[SentTest]
    proofs: ProofCount | None
    printed: int
    rehearsed: int
    planned: PlannedView | None
    runs: list[RunLine]


def _summary(parts: CampaignParts, taken: ClearanceView | None, tracking: Tracking, now: datetime) -> str:
    if not (taken and parts.audience and parts.topic and parts.sender and parts.pool):
        return "Something is missing still; the checks say what."
    people = "1 person" if taken.cleared == 1 else f"{taken.cleared:,} people"
    return (
        f"“{parts.campaign.name}” goes to {people} of {parts.audience.name} "
        f"who chose {parts.topic.name}, from {parts.sender.name} <{parts.sender.address}> "
        f"through {parts.pool.called}, {pace_sentence(parts.pace, parts.pool.limits_now(now))}."
        + "".join(f" Lifted for this campaign: {gate.label}." for gate in taken.gates if gate.lifted)
        + tracking_words(tracking)
    )


def _planned_view(tx: Transaction, parts: CampaignParts) -> PlannedView | None:
    planned = planned_store.of_campaign(tx, parts.campaign.id or 0)
    if planned is None:
        return None
    by = tx.get(User, planned.planned_by) if planned.planned_by else None
    number = parts.version.number if parts.version else None
    return PlannedView(
        at=planned.at,
        by=by.name if by else None,
        people=planned.cleared,
        changed=(planned.revision, planned.message_number) != (parts.campaign.revision, number),
        trouble=planned.trouble,
    )


def _audience_sql(tx: Transaction, parts: CampaignParts, now: datetime) -> tuple[SqlFragment | None, str | None]:
    """(condition, None), or (None, what is wrong): a field may be of another type since the audience was saved."""
    if not parts.criteria:
        return None, None
    try:
        return audience_sql(tx, parts.criteria, parts.campaign.audience_id, now), None
    except BadInput as fault:
        return None, fault.message


def campaign_view(
    tx: Transaction,
    campaign: Campaign,
    now: datetime,
    user_id: int | None = None,
    judged: ClearanceTerms | None = None,
) -> CampaignView:
    """The run sheet within a transaction; `user_id` tells one's own open drafts from other people's.

    A clearance that was taken with the terms `judged` is not taken again.
    """
    parts = load_parts(tx, campaign)
    fields = load_fields(tx)
    sql, fault = _audience_sql(tx, parts, now)
    content = parts.version.content if parts.version else None
    terms = judged or terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=content)
    taken = take_clearance(tx, sql, terms) if sql is not None else None
    problems = problem_views(content, fields) if content else []
    proofs = proof_count(tx, parts, fields) if content and not problems else None
    planned, forecast = _planned_view(tx, parts), None
    if taken is not None:
        forecast = campaign_forecast(
            tx,
            parts.pace,
            parts.pool,
            taken.cleared,
            max(planned.at, now) if planned else now,
            now,
            domains=people_of_domains(tx, parts.pace, sql, terms),
            readers=people_of_zones(tx, parts.pace, sql, terms),
        )
    return CampaignView(
        id=campaign.id or 0,
        name=campaign.name,
        revision=campaign.revision,
        topic_id=campaign.topic_id,
        topic=parts.topic.name if parts.topic else None,
        audience_id=campaign.audience_id,
        audience=parts.audience.name if parts.audience else None,
        criteria=parts.criteria,
        message_id=campaign.message_id,
        message=parts.message.name if parts.message else None,
        message_number=parts.version.number if parts.version else None,
        content=content,
        sender_id=campaign.sender_id,
        sender=f"{parts.sender.name} <{parts.sender.address}>" if parts.sender else None,
        pool_id=campaign.pool_id,
        relay=parts.pool.called if parts.pool else None,
        gauges=pool_gauges(tx, parts.pool, now) if parts.pool else None,
        pace=parts.pace,
        pace_words=pace_sentence(parts.pace, parts.pool.limits_now(now) if parts.pool else {}),
        again=Again(campaign.again),
        lifted=campaign.lifted,
        track_opens=Tracked(campaign.track_opens) if campaign.track_opens else None,
        track_clicks=Tracked(campaign.track_clicks) if campaign.track_clicks else None,
        clearance=taken,
        problems=problems,
        checks=with_acceptances(
            [
                *release_checks(
                    tx, parts, fields, taken, problems, sql, terms, fault, drafts_of(tx, campaign, user_id), user_id
                ),
                *(attachment_checks(tx, parts, fields, sql, terms, now) if content and not problems else ()),
                *(release_advice(tx, parts, fields) if content and not problems else ()),
                *proof_checks(proofs),
            ],
            {
                row.digest: Accepted(by=row.by, at=row.at, reason=row.reason)
                for row in accepted.accepted_of(tx, campaign.id or 0)
            },
        ),
        proofs=proofs,
        planned=planned,
        printed=count_printed(tx, campaign.id or 0),
        rehearsed=len(rehearsals_of(tx, campaign.id or 0)),
        tests=tests_of(tx, parts.message, content) if parts.message and content else [],
        forecast=forecast,
        summary=_summary(parts, taken, tracking_of(tx, campaign), now),
        runs=[
            RunLine(
                id=run.id or 0,
                number=run.number,
                state=RunState(run.state),
                planned=run.planned,
                released_at=run.released_at,
            )
            for run in store.runs_of_campaign(tx, campaign.id or 0)
        ],
    )


@needs(Permission.LOOK)
def get_campaign(database: Database, actor: Actor, campaign_id: int, now: datetime) -> CampaignView:
    """The run sheet of a campaign, for a user. Raises NotFound."""
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        return campaign_view(tx, campaign, now, actor.user_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignChange:
    """A campaign as edited."""

    name: str
    topic_id: int | None
    audience_id: int | None
    message_id: int | None
    sender_id: int | None
    pool_id: int | None
    pace: Pace
    again: Again = Again.NEW_TO_MESSAGE
    lifted: Sequence[str] = ()
    track_opens: Tracked | None = None
    track_clicks: Tracked | None = None


@needs(Permission.WRITE)
def save_campaign(
    database: Database,
    actor: Actor,
    *,
    campaign_id: int | None,
    change: CampaignChange,
    revision: int | None,
    now: datetime,
) -> CampaignView:
    """Make or change a campaign. Raises BadInput, NotFound, Conflict when it changed meanwhile."""
    name = change.name.strip()
    if not name:
        raise BadInput("no_name", "Give the campaign a name.")
    for gate in change.lifted:
        require_liftable(gate)
    with database.transaction() as tx:
        if any(row.name == name and row.id != campaign_id for row in store.campaign_list(tx)):
            raise BadInput("taken", f"There is a campaign “{name}” already.")
        campaign = store.lock_campaign(tx, campaign_id) if campaign_id else None
        if campaign_id and campaign is None:
            raise NotFound("campaign")
        if campaign is None:
            campaign = Campaign(name=name, pace=change.pace, updated_at=now, revision=0)
        elif revision != campaign.revision:
            theirs = campaign_view(tx, campaign, now, actor.user_id)
            raise changed_meanwhile(tx, "campaign", by=campaign.updated_by, me=actor.user_id, theirs=theirs)
        for kind, chosen in (
            (Topic, change.topic_id),
            (Audience, change.audience_id),
            (Message, change.message_id),
            (Sender, change.sender_id),
        ):
            if chosen is not None and tx.get(kind, chosen) is None:
                raise BadInput("gone", f"The {kind.__name__.lower()} that was chosen is not there any more.")
        pool = tx.get(RelayPool, change.pool_id) if change.pool_id is not None else None
        if change.pool_id is not None and (pool is None or pool.removed_at is not None):
            raise BadInput("gone", "The pool of relays that was chosen is not there any more.")
        zone_field = change.pace.zone_field
        if zone_field is not None and zone_field not in load_fields(tx):
            raise BadInput("gone", "The field with the readers’ time zones is not there any more.", field="window")
        message = tx.get(Message, change.message_id) if change.message_id is not None else None
        if message and message.is_shared:
            raise BadInput("shared", f"“{message.name}” is a shared block. Choose a message that has it.")
        if campaign.revision > 0:
            rename_in_criteria(tx, NameKind.CAMPAIGN, campaign.name, name)
        campaign.name, campaign.pace = name, change.pace
        campaign.topic_id, campaign.audience_id = change.topic_id, change.audience_id
        campaign.message_id, campaign.sender_id = change.message_id, change.sender_id
        campaign.pool_id = change.pool_id
        campaign.again, campaign.lifted = change.again, sorted(set(change.lifted))
        campaign.track_opens, campaign.track_clicks = change.track_opens, change.track_clicks
        campaign.revision, campaign.updated_at, campaign.updated_by = campaign.revision + 1, now, actor.user_id
        tx.add(campaign)
        tx.flush()
        audit(tx, actor, Action.CAMPAIGN_SAVED, campaign.id, name=name)
        return campaign_view(tx, campaign, now, actor.user_id)
