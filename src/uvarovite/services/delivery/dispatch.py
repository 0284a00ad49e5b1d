"""A run on its way: pause, go on, slower, faster, stop."""

from collections.abc import Callable
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.campaigns import Pace, faster, pace_sentence, slower
from uvarovite.core.delivery import RUN, RunEvent, RunState
from uvarovite.core.values.state_table import IllegalStep
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import Conflict, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.campaigns import pacing
from uvarovite.store.database import Database
from uvarovite.store.delivery import giving_back, holding, permits, queue, slices
from uvarovite.store.tables import Campaign


def _move_run(database: Database, actor: Actor, run_id: int, event: RunEvent, to: RunState, now: datetime) -> None:
    """Raises NotFound, Conflict; what is so already stays so."""
    with database.transaction() as tx:
        run = campaign_store.lock_run(tx, run_id)
        if run is None:
            raise NotFound("run")
        if run.state == to:
            return
        try:
            run.state = RUN.next(run.state, event)
        except IllegalStep as fault:
            raise Conflict("state", f"The run is {run.state} already.") from fault
        run.paused_at = now if to is RunState.PAUSED else None
        if to is RunState.STOPPED:
            run.ended_at = now
        tx.add(run)
        tx.flush()
        if to is RunState.PAUSED:
            pacing.begin_pause(tx, run_id, now)
        else:
            pacing.end_pause(tx, run_id, now)
        if to is RunState.STOPPED:
            holding.stop_deliveries(tx, run_id, now)
        if to is RunState.GOING:
            # Whoever goes on has seen why it braked: what came back until now counts no more.
            run.brake, run.brake_after = None, slices.last_attempt(tx, run_id)
            tx.add(run)
            tx.flush()
            giving_back.end_run_if_done(tx, run_id, now)
        queue.wake_workers(tx)
        campaign = tx.get(Campaign, run.campaign_id)
        audit(tx, actor, _AUDITED[to], run_id, name=campaign.name if campaign else "?")


_AUDITED = {
    RunState.PAUSED: Action.RUN_PAUSED,
    RunState.GOING: Action.RUN_RESUMED,
    RunState.STOPPED: Action.RUN_STOPPED,
}


@needs(Permission.PAUSE)
def pause(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Pause a run: nothing more is marked from now on. Raises NotFound, Conflict."""
    _move_run(database, actor, run_id, RunEvent.PAUSE, RunState.PAUSED, now)


@needs(Permission.RELEASE)
def go_on(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Go on with a paused run. Raises NotFound, Conflict."""
    _move_run(database, actor, run_id, RunEvent.GO_ON, RunState.GOING, now)


@needs(Permission.RELEASE)
def stop(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Stop a run for good: everybody who has not got it will not. Raises NotFound, Conflict."""
    _move_run(database, actor, run_id, RunEvent.STOP, RunState.STOPPED, now)


def _pace_run(database: Database, actor: Actor, run_id: int, change: Callable[[Pace], Pace], now: datetime) -> None:
    """Raises NotFound, Conflict for a run that is over."""
    with database.transaction() as tx:
        run = campaign_store.lock_run(tx, run_id)
        if run is None:
            raise NotFound("run")
        if run.state not in RUN.open:
            raise Conflict("state", f"The run is {run.state} already.")
        before, run.pace = run.pace, change(run.pace)
        run.released_pace = run.released_pace or before
        # A batch that waits for a longer gap begins when the new one is over.
        run.next_batch_at = min(run.next_batch_at, now + timedelta(seconds=run.pace.gap_seconds))
        tx.add(run)
        tx.flush()
        zone = ZoneInfo(require_organisation(tx).time_zone)
        permits.keep_pace_limits(tx, run_id, run.pace, run.pace.hours(zone).sending_day(run.released_at, now))
        queue.wake_workers(tx)
        campaign = tx.get(Campaign, run.campaign_id)
        said = {"before": pace_sentence(before, {}), "after": pace_sentence(run.pace, {})}
        audit(tx, actor, Action.RUN_PACED, run_id, name=campaign.name if campaign else "?", **said)


@needs(Permission.PAUSE)
def slow_down(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Go on half as fast, at once. Raises NotFound, Conflict."""
    _pace_run(database, actor, run_id, slower, now)


@needs(Permission.RELEASE)
def speed_up(database: Database, actor: Actor, run_id: int, now: datetime) -> None:
    """Go on twice as fast, as far as the relay's own limits allow. Raises NotFound, Conflict."""
    _pace_run(database, actor, run_id, faster, now)
