"""What the dispatch and the desk show."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.audiences import GATES
from uvarovite.core.campaigns import pace_sentence
from uvarovite.core.delivery import DELIVERY, DeliveryState, RunState
from uvarovite.core.delivery.answers import meaning_words
from uvarovite.core.messages import Tracking
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.campaigns.forecasting import (
    CurvePoint,
    ForecastView,
    Span,
    WaitedLine,
    curve_points,
    forecast_view,
    waited_lines,
)
from uvarovite.services.campaigns.gauges import PoolGauges, pool_gauges
from uvarovite.services.delivery.forecasts import expected_forecast, past_forecast, planned_forecast
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.pools import Pool, load_pool
from uvarovite.store import responses as response_store
from uvarovite.store.campaigns.campaigns import campaign_list
from uvarovite.store.campaigns.planned import with_trouble
from uvarovite.store.database import Database
from uvarovite.store.delivery import counts
from uvarovite.store.delivery import dispatch as store
from uvarovite.store.replies import count_waiting
from uvarovite.store.selection.table import EVERYBODY, count_contacts
from uvarovite.store.tables import Campaign, Run, Topic, User

# (gate, reason) in words.
HELD_WORDS = {(gate.key, code): words for gate in GATES for code, words in gate.reasons.items()}


@dataclass(frozen=True, slots=True, kw_only=True)
class BatchCell:
    """One batch of the strip: how many of its people stand where."""

    number: int
    size: int
    accepted: int
    deferred: int
    refused: int
    unknown: int
    held: int
    waiting: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TroubleLine:
    """A group of people with the same trouble, in words."""

    state: DeliveryState
    people: int
    domain: str
    words: str
    next_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldLine:
    """People whom a gate held after the release."""

    people: int
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerLine:
    """One answer of a relay, in its own words."""

    id: int
    at: datetime
    delivery_id: int
    name: str
    address: str
    code: int
    text: str
    kind: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DispatchView:
    """A run on its way. planned = sum of `states`, at any moment. `counted` are times, of people whom nobody notes, by what they did."""

    run_id: int
    campaign_id: int
    campaign: str
    topic: str
    number: int
    state: RunState
    planned: int
    states: dict[str, int]
    responses: dict[str, int]
    tracking: Tracking
    counted: dict[str, int]
    released_at: datetime
    released_by: str | None
    paused_at: datetime | None
    ended_at: datetime | None
    ends_at: datetime | None
    next_batch_at: datetime | None
    trouble: str | None
    undecided: int
    brake: str | None
    slice_until: datetime | None
    pace_words: str
    planned_curve: list[CurvePoint]
    accepted_curve: list[CurvePoint]
    closed: list[Span]
    waited: list[WaitedLine]
    expected: ForecastView | None
    batches: list[BatchCell]
    troubles: list[TroubleLine]
    held: list[HeldLine]
    pool: PoolGauges


@needs(Permission.LOOK)
def dispatch_view(database: Database, actor: Actor, run_id: int, now: datetime) -> DispatchView:
    """The dispatch of a run. Raises NotFound."""
    with database.transaction() as tx:
        run = tx.get(Run, run_id)
        campaign = tx.get(Campaign, run.campaign_id) if run else None
        topic = tx.get(Topic, run.topic_id) if run else None
        pool = load_pool(tx, run.pool_id) if run else None
        if run is None or campaign is None or topic is None or pool is None:
            raise NotFound("run")
        states = counts.state_counts(tx, [run_id])[run_id]
        moving = sum(states.get(state, 0) for state in DELIVERY.open)
        planned = planned_forecast(tx, run)
        rest = expected_forecast(tx, run, moving, now) if moving and run.state == RunState.GOING else None
        expected = forecast_view(rest, relay=pool.called, before=run.planned - moving) if rest else None
        gauges = pool_gauges(tx, pool, now, run_id)
        released_by = tx.get(User, run.released_by) if run.released_by else None
        return DispatchView(
            run_id=run_id,
            campaign_id=run.campaign_id,
            campaign=campaign.name,
            topic=topic.name,
            number=run.number,
            state=RunState(run.state),
            planned=run.planned,
            states=states,
            responses=_responses(counts.response_counts(tx, run_id)),
            tracking=run.snapshot.tracking,
            counted=_counted(response_store.counted_of_run(tx, run_id)),
            released_at=run.released_at,
            released_by=released_by.name if released_by else None,
            paused_at=run.paused_at,
            ended_at=run.ended_at,
            ends_at=run.ended_at or (expected.end if expected else None),
            next_batch_at=run.next_batch_at if _waits_for_batch(run, now) else None,
            trouble=_trouble(run, pool, now),
            undecided=states.get(DeliveryState.UNKNOWN, 0) - run.unknown_decided,
            brake=run.brake.message if run.brake and run.state == RunState.PAUSED else None,
            slice_until=run.slice_until if run.state == RunState.GOING else None,
            pace_words=pace_sentence(run.pace, pool.limits_now(now)),
            planned_curve=curve_points(planned.curve),
            closed=[
                Span(begins=begins, ends=ends)
                for begins, ends in sorted({*planned.closed, *(rest.closed if rest else ())})
            ],
            waited=waited_lines(past_forecast(tx, run, run.planned - moving, now).waited, pool.called),
            accepted_curve=curve_points(counts.accepted_curve(tx, run_id, 200)),
            expected=expected,
            batches=[BatchCell(**row._mapping) for row in counts.batch_strip(tx, run_id)],
            troubles=[
                TroubleLine(
                    state=DeliveryState(row.state),
                    people=row.n,
                    domain=row.domain,
                    words=meaning_words(row.meaning),
                    next_at=row.next_at,
                )
                for row in counts.trouble(tx, run_id)
            ],
            held=[
                HeldLine(people=row.n, words=HELD_WORDS.get((row.held_gate, row.held_reason), row.held_reason))
                for row in counts.held_groups(tx, run_id)
            ],
            pool=gauges,
        )


def _waits_for_batch(run: Run, now: datetime) -> bool:
    return run.state == RunState.GOING and run.slice_until is None and run.next_batch_at > now


def _trouble(run: Run, pool: Pool, now: datetime) -> str | None:
    """What keeps a run from getting on with its relays, while that matters."""
    return pool.trouble(now) if run.state == RunState.GOING else None


def _responses(told: dict[str, int]) -> dict[str, int]:
    people = {kind: told.get(kind, 0) for kind in ("opened", "clicked", "replied", "left", "bounced", "complained")}
    return {**people, "machine_events": told.get("machine", 0)}


def _counted(told: Sequence[Row[Any]]) -> dict[str, int]:
    """Times, of people whom nobody notes, by what they did."""
    sums: Counter[str] = Counter()
    for row in told:
        sums[row.kind] += row.n
    return dict(sums)


@needs(Permission.LOOK)
def answers(database: Database, actor: Actor, run_id: int, *, only: str | None, limit: int = 100) -> list[AnswerLine]:
    """The latest answers of relays in a run, of one kind if asked."""
    with database.transaction() as tx:
        return [
            AnswerLine(
                id=row.id,
                at=row.at,
                delivery_id=row.delivery_id,
                name=row.name,
                address=row.address,
                code=row.code,
                text=row.text,
                kind=row.kind,
                words=meaning_words(row.meaning),
            )
            for row in store.answers(tx, run_id, only=only, limit=min(limit, 500))
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class DeliveryLine:
    """A person of a run."""

    id: int
    name: str
    address: str
    state: DeliveryState
    batch: int
    attempts: int


@needs(Permission.LOOK)
def find_deliveries(
    database: Database,
    actor: Actor,
    run_id: int,
    *,
    search: str,
    state: str | None,
    response: str | None,
    limit: int = 50,
) -> list[DeliveryLine]:
    """People of a run by name or address. Raises BadInput for a state that there is not."""
    if state is not None and state not in set(DeliveryState):
        raise BadInput("state", "There is no such state.")
    with database.transaction() as tx:
        rows = store.find_deliveries(
            tx, run_id, search=search[:200], state=state, response=response, limit=min(limit, 200)
        )
        return [
            DeliveryLine(
                id=row.id,
                name=row.name,
                address=row.address,
                state=DeliveryState(row.state),
                batch=row.first_batch,
                attempts=row.attempts,
            )
            for row in rows
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class RunNow:
    """A run for the desk and the pulse."""

    run_id: int
    campaign_id: int
    campaign: str
    state: RunState
    planned: int
    accepted: int
    moving: int
    trouble: str | None
    ends_at: datetime | None
    ended_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NotReleased:
    """A release that was planned and did not go."""

    campaign_id: int
    campaign: str
    at: datetime
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Desk:
    """What is going out, what needs somebody, and how many there are."""

    contacts: int
    campaigns: int
    runs: list[RunNow]
    unknown: int
    replies_waiting: int
    not_released: list[NotReleased]


@needs(Permission.LOOK)
def desk(database: Database, actor: Actor, now: datetime) -> Desk:
    """The first screen."""
    with database.transaction() as tx:
        runs: list[RunNow] = []
        unknown = 0
        lines = campaign_list(tx)
        states_of = counts.state_counts(tx, [line.run_id for line in lines if line.run_id])
        for line in lines:
            run = tx.get(Run, line.run_id) if line.run_id else None
            pool = load_pool(tx, run.pool_id) if run else None
            if run is None or pool is None:
                continue
            states = states_of[line.run_id]
            moving = sum(states.get(state, 0) for state in DELIVERY.open)
            unknown += states.get(DeliveryState.UNKNOWN, 0) - run.unknown_decided
            ends_at = None
            if run.state == RunState.GOING and moving:
                ends_at = expected_forecast(tx, run, moving, now).end
            runs.append(
                RunNow(
                    run_id=line.run_id,
                    campaign_id=line.id,
                    campaign=line.name,
                    state=RunState(run.state),
                    planned=run.planned,
                    accepted=states.get(DeliveryState.ACCEPTED, 0),
                    moving=moving,
                    trouble=run.brake.message
                    if run.brake and run.state == RunState.PAUSED
                    else _trouble(run, pool, now),
                    ends_at=ends_at,
                    ended_at=run.ended_at,
                )
            )
        called = {line.id: line.name for line in lines}
        return Desk(
            contacts=count_contacts(tx, EVERYBODY),
            campaigns=len(lines),
            runs=runs[:20],
            unknown=unknown,
            replies_waiting=count_waiting(tx),
            not_released=[
                NotReleased(campaign_id=one.campaign_id, campaign=called[one.campaign_id], at=one.at, words=one.trouble)
                for one in with_trouble(tx)
                if one.trouble is not None
            ],
        )


def fold_run_counts(database: Database) -> int:
    """Add up the counts of runs where they have become many rows; of how many runs."""
    with database.transaction() as tx:
        return counts.fold_counts(tx)
