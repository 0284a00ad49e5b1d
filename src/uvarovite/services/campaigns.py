"""Campaigns: who, words and pace; what stands between them and the release; and the release itself."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import ValidationError

from uvarovite.core.campaigns import Pace, forecast_run, pace_sentence
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import SqlFragment, node_from_json, print_criteria
from uvarovite.core.messages import MessageContent, fields_without_fallback
from uvarovite.core.responses import Keyring
from uvarovite.services.audiences import ClearanceView, criteria_sql, gate_views, take_clearance
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.merging import setting_for, snapshot_json
from uvarovite.services.messages import PartProblemView, problem_views
from uvarovite.services.organisation import require_organisation
from uvarovite.store import audiences as audience_store
from uvarovite.store import campaigns as store
from uvarovite.store import messages as message_store
from uvarovite.store import queue
from uvarovite.store.contacts import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import (
    Audience,
    Campaign,
    Identity,
    Message,
    MessageVersion,
    Run,
    Sender,
    Topic,
)
from uvarovite.store.tables.campaigns import RunState

# A release whose number moved by more than this share since it was on screen is refused.
DRIFT_SHARE = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignLine:
    """A campaign in the list, with its latest run if it has one."""

    id: int
    name: str
    topic: str | None
    audience: str | None
    run_id: int | None
    run_state: str | None
    planned: int | None
    accepted: int
    released_at: datetime | None
    ended_at: datetime | None
    updated_at: datetime


def campaign_list(database: Database) -> list[CampaignLine]:
    """All campaigns, latest first."""
    with database.transaction() as tx:
        return [CampaignLine(**row._mapping) for row in store.campaign_list(tx)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """What stands between a campaign and its release. `stop` names the part of the run sheet that mends it."""

    code: str
    blocking: bool
    message: str
    stop: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RunLine:
    """A run of a campaign."""

    id: int
    number: int
    state: str
    planned: int
    released_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class CurvePoint:
    """`out` messages are out by the instant `at`."""

    at: datetime
    out: int


def curve_points(points: Iterable[tuple[datetime, int]], before: int = 0) -> list[CurvePoint]:
    """A curve for the screen; `before` were out already when it begins."""
    return [CurvePoint(at=at, out=before + out) for at, out in points]


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastView:
    """When how many would be out."""

    start: datetime
    end: datetime
    curve: list[CurvePoint]


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignView:
    """The run sheet: everything that its stops show."""

    id: int
    name: str
    edition: int
    topic_id: int | None
    topic: str | None
    audience_id: int | None
    audience: str | None
    criteria: str | None
    message_id: int | None
    message: str | None
    message_number: int | None
    content: MessageContent | None
    identity_id: int | None
    identity: str | None
    sender_id: int | None
    sender: str | None
    sender_hourly_limit: int | None
    pace: Pace
    pace_words: str
    clearance: ClearanceView | None
    problems: list[PartProblemView]
    checks: list[Check]
    forecast: ForecastView | None
    summary: str
    runs: list[RunLine]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Parts:
    """A campaign with what it points to."""

    campaign: Campaign
    topic: Topic | None
    audience: Audience | None
    message: Message | None
    version: MessageVersion | None
    identity: Identity | None
    sender: Sender | None
    pace: Pace
    criteria: str | None


def _load(tx: Transaction, campaign: Campaign) -> _Parts:
    audience = tx.get(Audience, campaign.audience_id) if campaign.audience_id else None
    return _Parts(
        campaign=campaign,
        topic=tx.get(Topic, campaign.topic_id) if campaign.topic_id else None,
        audience=audience,
        message=tx.get(Message, campaign.message_id) if campaign.message_id else None,
        version=message_store.latest_version(tx, campaign.message_id) if campaign.message_id else None,
        identity=tx.get(Identity, campaign.identity_id) if campaign.identity_id else None,
        sender=tx.get(Sender, campaign.sender_id) if campaign.sender_id else None,
        pace=Pace.model_validate(campaign.pace),
        criteria=print_criteria(node_from_json(audience.criteria)) if audience else None,
    )


def _blank_checks(
    tx: Transaction, parts: _Parts, sql: SqlFragment, fields: FieldMap, content: MessageContent
) -> list[Check]:
    """A field without a fallback that is blank for somebody who is cleared: looked up for all of them, no sample."""
    holes = fields_without_fallback(content, fields)
    keys = list(dict.fromkeys(key for _, key in holes))
    places = [(key, f"contact.{key}" if fields[key].standard else f"contact.\"values\"->>'{key}'") for key in keys]
    topic_id = parts.campaign.topic_id
    checks = []
    for key, (blank, names) in zip(keys, audience_store.blanks_among_cleared(tx, sql, topic_id, places), strict=True):
        if blank:
            who = ", ".join(names) + (f" and {blank - len(names):,} more" if blank > len(names) else "")
            checks.append(
                Check(
                    code="blank_field",
                    blocking=True,
                    stop="words",
                    message=f"{blank:,} people have no {fields[key].label.lower()} and would see a hole: {who}. "
                    f'Add a fallback: @{{{key} else "…"}}.',
                )
            )
    return checks


def _checks(
    tx: Transaction,
    parts: _Parts,
    fields: FieldMap,
    taken: ClearanceView | None,
    problems: list[PartProblemView],
    sql: SqlFragment | None,
) -> list[Check]:
    missing = [
        ("no_audience", parts.audience, "who", "Choose who gets it: an audience."),
        ("no_topic", parts.topic, "who", "Choose the topic that these people opted in to."),
        ("no_message", parts.version, "words", "Choose the message."),
        ("no_identity", parts.identity, "pace", "Choose who it comes from."),
        ("no_sender", parts.sender, "pace", "Choose the relay that it goes through."),
    ]
    checks = [
        Check(code=code, blocking=True, stop=stop, message=message)
        for code, part, stop, message in missing
        if part is None
    ]
    if taken is not None and taken.cleared == 0:
        message = "Nobody is cleared: open the gates in Who to see why."
        checks.append(Check(code="nobody", blocking=True, stop="who", message=message))
    for found in problems[:3]:
        message = f"In {part_words(found.part)}: {found.problem.message}"
        checks.append(Check(code="words", blocking=True, stop="words", message=message))
    if parts.version and not problems and sql is not None and parts.topic is not None:
        content = MessageContent.model_validate(parts.version.content)
        checks += _blank_checks(tx, parts, sql, fields, content)
    running = next((run for run in store.runs_of_campaign(tx, parts.campaign.id or 0)), None)
    if running and running.state in (RunState.GOING, RunState.PAUSED):
        message = "A run of this campaign is on its way; wait for its end, or stop it in Dispatch."
        checks.append(Check(code="running", blocking=True, stop="dispatch", message=message))
    elif running:
        message = (
            f"This campaign was released before, on {running.released_at:%-d %B %Y}; "
            "those who got it then would get it again."
        )
        checks.append(Check(code="again", blocking=False, stop="release", message=message))
    if parts.version and not any(block["kind"] == "button" for block in parts.version.content["blocks"]):
        message = "There is nothing to click in the message."
        checks.append(Check(code="no_link", blocking=False, stop="words", message=message))
    return checks


def part_words(part: str) -> str:
    """Where a part of a message is, for people."""
    if not part.startswith("blocks."):
        return f"the {part}" if part != "blocks" else "the message"
    _, index, what = part.split(".")
    return f"block {int(index) + 1}" + ("" if what == "text" else f", its {'address' if what == 'url' else what}")


def _summary(parts: _Parts, taken: ClearanceView | None, now: datetime, end: datetime | None) -> str:
    if taken is None or parts.topic is None or parts.identity is None or parts.sender is None or end is None:
        return "Something is missing still; the checks say what."
    pace = pace_sentence(parts.pace, parts.sender.hourly_limit)
    people = "1 person" if taken.cleared == 1 else f"{taken.cleared:,} people"
    return (
        f"“{parts.campaign.name}” goes to {people} of {parts.audience.name} "
        f"who chose {parts.topic.name}, from {parts.identity.name} <{parts.identity.address}> "
        f"through {parts.sender.name}, {pace}."
        if parts.audience
        else ""
    )


def _view(tx: Transaction, campaign: Campaign, now: datetime) -> CampaignView:
    parts = _load(tx, campaign)
    fields = load_fields(tx)
    sql = criteria_sql(tx, parts.criteria, now) if parts.criteria else None
    taken = take_clearance(tx, sql, campaign.topic_id, now) if sql is not None else None
    content = MessageContent.model_validate(parts.version.content) if parts.version else None
    problems = problem_views(content, fields) if content else []
    limit = parts.sender.hourly_limit if parts.sender else None
    forecast = forecast_run(taken.cleared, parts.pace, limit, now) if taken else None
    return CampaignView(
        id=campaign.id or 0,
        name=campaign.name,
        edition=campaign.edition,
        topic_id=campaign.topic_id,
        topic=parts.topic.name if parts.topic else None,
        audience_id=campaign.audience_id,
        audience=parts.audience.name if parts.audience else None,
        criteria=parts.criteria,
        message_id=campaign.message_id,
        message=parts.message.name if parts.message else None,
        message_number=parts.version.number if parts.version else None,
        content=content,
        identity_id=campaign.identity_id,
        identity=f"{parts.identity.name} <{parts.identity.address}>" if parts.identity else None,
        sender_id=campaign.sender_id,
        sender=parts.sender.name if parts.sender else None,
        sender_hourly_limit=limit,
        pace=parts.pace,
        pace_words=pace_sentence(parts.pace, limit),
        clearance=taken,
        problems=problems,
        checks=_checks(tx, parts, fields, taken, problems, sql),
        forecast=ForecastView(start=forecast.start, end=forecast.end, curve=curve_points(forecast.curve))
        if forecast
        else None,
        summary=_summary(parts, taken, now, forecast.end if forecast else None),
        runs=[
            RunLine(
                id=run.id or 0, number=run.number, state=run.state, planned=run.planned, released_at=run.released_at
            )
            for run in store.runs_of_campaign(tx, campaign.id or 0)
        ],
    )


def get_campaign(database: Database, campaign_id: int, now: datetime) -> CampaignView:
    """The run sheet of a campaign. Raises NotFound."""
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        return _view(tx, campaign, now)


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignChange:
    """A campaign as edited."""

    name: str
    topic_id: int | None
    audience_id: int | None
    message_id: int | None
    identity_id: int | None
    sender_id: int | None
    pace: dict[str, Any]


def save_campaign(
    database: Database, *, campaign_id: int | None, change: CampaignChange, edition: int | None, now: datetime
) -> CampaignView:
    """Make or change a campaign. Raises BadInput, NotFound, Conflict when it changed meanwhile."""
    name = change.name.strip()
    if not name:
        raise BadInput("no_name", "Give the campaign a name.")
    try:
        pace = Pace.model_validate(change.pace)
    except ValidationError as fault:
        first = fault.errors()[0]
        what = str(first["loc"][0]).replace("_", " ") if first["loc"] else "the pace"
        raise BadInput("pace", f"The {what} is out of range: {first['msg'].lower()}.") from fault
    with database.transaction() as tx:
        if any(row.name == name and row.id != campaign_id for row in store.campaign_list(tx)):
            raise BadInput("taken", f"There is a campaign “{name}” already.")
        campaign = store.lock_campaign(tx, campaign_id) if campaign_id else None
        if campaign_id and campaign is None:
            raise NotFound("campaign")
        if campaign is None:
            campaign = Campaign(name=name, pace={}, updated_at=now, edition=0)
        elif edition != campaign.edition:
            raise Conflict("changed", "Somebody else changed this campaign meanwhile; look at it again.")
        for kind, chosen in (
            (Topic, change.topic_id),
            (Audience, change.audience_id),
            (Message, change.message_id),
            (Identity, change.identity_id),
            (Sender, change.sender_id),
        ):
            if chosen is not None and tx.get(kind, chosen) is None:
                raise BadInput("gone", f"The {kind.__name__.lower()} that was chosen is not there any more.")
        campaign.name, campaign.pace = name, pace.model_dump(mode="json")
        campaign.topic_id, campaign.audience_id = change.topic_id, change.audience_id
        campaign.message_id, campaign.identity_id = change.message_id, change.identity_id
        campaign.sender_id = change.sender_id
        campaign.edition, campaign.updated_at = campaign.edition + 1, now
        tx.add(campaign)
        tx.flush()
        return _view(tx, campaign, now)


def release(
    database: Database,
    *,
    campaign_id: int,
    edition: int,
    seen_cleared: int,
    seen_message_number: int,
    user_id: int | None,
    public_url: str,
    keyring: Keyring,
    now: datetime,
) -> int:
    """Let a campaign go: plan every delivery in one transaction. The run's id.

    The clearance is taken again in here. Raises Conflict when the campaign, its words or its number are not what was on
    screen any more, or when a run is on its way already (a double click); ServiceRefusal while a check blocks.
    """
    with database.transaction() as tx:
        campaign = store.lock_campaign(tx, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        parts = _load(tx, campaign)
        runs = store.runs_of_campaign(tx, campaign_id)
        if any(run.state in (RunState.GOING, RunState.PAUSED) for run in runs):
            raise Conflict("running", "This campaign has been released already; it is on its way.")
        if edition != campaign.edition or (parts.version and parts.version.number != seen_message_number):
            raise Conflict("changed", "The campaign or its words changed since you looked; read the summary again.")
        view = _view(tx, campaign, now)
        blocking = [check.message for check in view.checks if check.blocking]
        if blocking:
            raise ServiceRefusal("blocked", f"This stands in the way: {blocking[0]}")
        assert parts.topic is not None
        assert parts.version is not None
        assert parts.identity is not None
        assert parts.sender is not None
        assert parts.criteria is not None
        topic_id = parts.topic.id or 0
        audience_store.judge_for_release(tx, criteria_sql(tx, parts.criteria, now), topic_id)
        counts = {(row.gate, row.reason): row.n for row in audience_store.counts_of_release(tx)}
        matched, cleared, gates = gate_views(counts, {})
        if abs(cleared - seen_cleared) > max(seen_cleared, 1) * DRIFT_SHARE:
            raise Conflict(
                "drift",
                f"{cleared:,} people are cleared now; it was {seen_cleared:,} when you looked. "
                "Nothing was sent: look at Who again.",
            )
        setting = setting_for(
            require_organisation(tx), parts.topic, parts.identity, public_url=public_url, keyring=keyring
        )
        run = Run(
            campaign_id=campaign_id,
            number=max((run.number for run in runs), default=0) + 1,
            state=RunState.GOING,
            topic_id=topic_id,
            message_version_id=parts.version.id or 0,
            sender_id=parts.sender.id or 0,
            pace=parts.pace.model_dump(mode="json"),
            criteria=parts.criteria,
            snapshot=snapshot_json(setting, load_fields(tx)),
            clearance={
                "matched": matched,
                "cleared": cleared,
                "gates": [{"key": gate.key, "label": gate.label, "held": gate.held} for gate in gates],
            },
            planned=cleared,
            released_by=user_id,
            released_at=now,
            next_batch_at=now,
        )
        tx.add(run)
        tx.flush()
        assert run.id is not None
        planned = queue.plan_deliveries(tx, run.id, parts.pace.batch_size, now)
        if planned != cleared:
            raise AssertionError(f"planned {planned} of {cleared}")
        queue.wake_workers(tx)
        return run.id
