"""Rehearsals: a campaign's run through the whole engine, into the simulated world, in compressed time.

Who gets it, the words, the pace and the limits are the real ones; nothing of it leaves the machine, and nothing that is
real is changed. What plays them asks `playing`.
"""

from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.delivery import DELIVERY
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.database import Database, DatabaseLost, SchemaGone, Transaction
from uvarovite.store.rehearsals import rehearsals as store
from uvarovite.store.rehearsals.schemas import seen_in
from uvarovite.store.tables import Campaign, Rehearsal, User

# So many of a campaign are kept, to be compared.
MOST_KEPT = 4
FURTHEST = timedelta(days=366)
# A process that was not heard of for so long is not at work on it any more; planning a million takes one of these minutes.
SILENT = timedelta(minutes=3)
# They hold people's records; whoever wants one again rehearses again.
KEPT = timedelta(days=14)


class RehearsalState(StrEnum):
    """Where a rehearsal stands."""

    WAITING = "waiting"
    GOING = "going"
    OVER = "over"
    BROKEN_OFF = "broken_off"


@dataclass(frozen=True, slots=True, kw_only=True)
class RehearsalLine:
    """A rehearsal. `starts_at` and `its_time` are in its own time, the others in ours; the numbers are those of its end."""

    id: int
    scenario: str
    state: RehearsalState
    starts_at: datetime
    its_time: datetime | None
    asked_at: datetime
    asked_by: str | None
    begun_at: datetime | None
    ended_at: datetime | None
    planned: int | None
    accepted: int | None
    trouble: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RehearsalView:
    """A rehearsal with its run, as its dispatch would show it. `moving` are those who are on their way still."""

    campaign_id: int
    campaign: str
    rehearsal: RehearsalLine
    moving: int
    dispatch: DispatchView | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RehearsalAsk:
    """What to rehearse: the scenario, and the moment at which it is to begin in its own time, None: now.

    A moment without a zone is meant by the organisation's clock.
    """

    campaign_id: int
    scenario: str
    starts_at: datetime | None = None


@needs(Permission.WRITE)
def ask_for_rehearsal(database: Database, actor: Actor, ask: RehearsalAsk, *, now: datetime) -> int:
    """Have a campaign rehearsed by the next worker that is free. Raises NotFound, BadInput, Conflict."""
    with database.transaction() as tx:
        campaign = campaign_store.lock_campaign(tx, ask.campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        starts_at = ask.starts_at or now
        if starts_at.tzinfo is None:
            starts_at = starts_at.replace(tzinfo=ZoneInfo(require_organisation(tx).time_zone))
        if not now - timedelta(minutes=1) <= starts_at <= now + FURTHEST:
            raise BadInput("starts_at", "Choose a moment that is to come, within a year.", field="starts_at")
        before = store.of_campaign(tx, ask.campaign_id)
        if any(_state(one, now) in (RehearsalState.WAITING, RehearsalState.GOING) for one in before):
            raise Conflict("rehearsing", "A rehearsal of this campaign is not over yet.")
        if len(before) >= MOST_KEPT:
            raise Conflict("kept", f"There are {MOST_KEPT} rehearsals of this campaign. Throw one away first.")
        asked = Rehearsal(
            campaign_id=ask.campaign_id,
            scenario=ask.scenario,
            starts_at=starts_at.astimezone(UTC),
            asked_by=actor.user_id,
            asked_at=now,
        )
        tx.add(asked)
        tx.flush()
        assert asked.id is not None
        audit(tx, actor, Action.REHEARSED, ask.campaign_id, name=campaign.name, scenario=ask.scenario)
        return asked.id


@needs(Permission.LOOK)
def rehearsals_of(database: Database, actor: Actor, campaign_id: int, *, now: datetime) -> list[RehearsalLine]:
    """The rehearsals of a campaign, latest first."""
    with database.transaction() as tx:
        return [_line(tx, one, now) for one in store.of_campaign(tx, campaign_id)]


@needs(Permission.LOOK)
def rehearsal_view(database: Database, actor: Actor, rehearsal_id: int, *, now: datetime) -> RehearsalView:
    """A rehearsal with its run, as far as it is. Raises NotFound."""
    with database.transaction() as tx:
        found = tx.get(Rehearsal, rehearsal_id)
        campaign = tx.get(Campaign, found.campaign_id) if found else None
        if found is None or campaign is None:
            raise NotFound("rehearsal")
        line, run_id = _line(tx, found, now), found.run_id
    dispatch = None
    if run_id is not None:
        try:
            dispatch = dispatch_view(seen_in(database, rehearsal_id), actor, run_id, line.its_time or line.starts_at)
        except SchemaGone:
            raise NotFound("rehearsal") from None
    return RehearsalView(
        campaign_id=campaign.id or 0,
        campaign=campaign.name,
        rehearsal=line,
        moving=sum(dispatch.states.get(state, 0) for state in DELIVERY.open) if dispatch else 0,
        dispatch=dispatch,
    )


def database_of(database: Database, rehearsal_id: int) -> Database:
    """The database as a rehearsal sees it, for what is asked of runs and deliveries. Raises NotFound."""
    with database.transaction() as tx:
        found = tx.get(Rehearsal, rehearsal_id)
        if found is None or found.run_id is None:
            raise NotFound("rehearsal")
    return seen_in(database, rehearsal_id)


@needs(Permission.WRITE)
def throw_away(database: Database, actor: Actor, rehearsal_id: int) -> None:
    """Throw a rehearsal away, with everything that came of it; one that is going ends. Raises NotFound."""
    with database.transaction() as tx:
        found = tx.get(Rehearsal, rehearsal_id)
        campaign = tx.get(Campaign, found.campaign_id) if found else None
        if campaign is None or not store.remove(tx, rehearsal_id):
            raise NotFound("rehearsal")
        audit(tx, actor, Action.REHEARSAL_DROPPED, campaign.id, name=campaign.name)
    drop_left(database)


def drop_left(database: Database) -> int:
    """Drop what is left of rehearsals that were thrown away; how many. One that somebody is still at work in goes later."""
    with database.transaction() as tx:
        left = store.left_schemas(tx)
    done = 0
    for one in left:
        with suppress(DatabaseLost), database.transaction() as tx:
            store.drop_left(tx, one)
            done += 1
    return done


def let_go_of_rehearsals(database: Database, now: datetime) -> int:
    """Throw away what is older than it is kept; how many."""
    with database.transaction() as tx:
        gone = store.remove_old(tx, now - KEPT)
    drop_left(database)
    return gone


def _state(row: Rehearsal, now: datetime) -> RehearsalState:
    if row.ended_at is not None:
        return RehearsalState.BROKEN_OFF if row.trouble else RehearsalState.OVER
    if row.heard_at is None:
        return RehearsalState.WAITING
    return RehearsalState.BROKEN_OFF if row.heard_at < now - SILENT else RehearsalState.GOING


def _line(tx: Transaction, row: Rehearsal, now: datetime) -> RehearsalLine:
    by = tx.get(User, row.asked_by) if row.asked_by else None
    state = _state(row, now)
    trouble = row.trouble
    if state is RehearsalState.BROKEN_OFF and trouble is None:
        trouble = "Its worker has ended. Throw it away and rehearse again."
    return RehearsalLine(
        id=row.id or 0,
        scenario=row.scenario,
        state=state,
        starts_at=row.starts_at,
        its_time=row.its_time,
        asked_at=row.asked_at,
        asked_by=by.name if by else None,
        begun_at=row.begun_at,
        ended_at=row.ended_at,
        planned=row.planned,
        accepted=row.accepted,
        trouble=trouble,
    )
