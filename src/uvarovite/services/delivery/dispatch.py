"""A run on its way: pause, go on, stop."""

from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.delivery import RUN, RunEvent, RunState
from uvarovite.core.values.state_table import IllegalStep
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import Conflict, NotFound
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.campaigns import pacing
from uvarovite.store.database import Database
from uvarovite.store.delivery import giving_back, holding, queue, slices
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
