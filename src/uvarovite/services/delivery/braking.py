"""The brake: a run that pauses by itself when too much comes back, and the judgement of its first slice."""

from datetime import datetime

from uvarovite.core.accounts import SYSTEM, Action
from uvarovite.core.campaigns import PACE_FORM, Pace
from uvarovite.core.delivery import RUN, RunEvent, RunState
from uvarovite.core.delivery.brake import Braked, braked, slice_braked
from uvarovite.services.accounts.audit import audit
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.campaigns import pacing
from uvarovite.store.database import Transaction
from uvarovite.store.delivery import queue, slices
from uvarovite.store.tables import Campaign


def brake_if_needed(tx: Transaction, run_id: int, pace: Pace, now: datetime) -> None:
    """Pause a run whose last answers say that something is wrong."""
    if pace.brake is None:
        return
    run = campaign_store.lock_run(tx, run_id)
    if run is None or run.state != RunState.GOING:
        return
    found = braked(pace.brake, slices.tally_of_last(tx, run_id, pace.brake.last, run.brake_after))
    if found is not None:
        _pause(tx, run_id, found, now)


def judge_slices(tx: Transaction, now: datetime) -> None:
    """Let go on, or pause, the runs whose first slice has waited long enough."""
    for row in slices.slices_over(tx, now):
        first = PACE_FORM.read(row.pace).first_slice
        found = slice_braked(first, slices.tally_of_slice(tx, row.id, row.slice_batches)) if first else None
        slices.go_beyond_slice(tx, row.id)
        if found is not None:
            _pause(tx, row.id, found, now)


def _pause(tx: Transaction, run_id: int, why: Braked, now: datetime) -> None:
    run = campaign_store.lock_run(tx, run_id)
    assert run is not None
    run.state = RUN.next(RunState(run.state), RunEvent.PAUSE)
    run.paused_at, run.brake = now, why
    tx.add(run)
    tx.flush()
    pacing.begin_pause(tx, run_id, now)
    queue.wake_workers(tx)
    campaign = tx.get(Campaign, run.campaign_id)
    audit(tx, SYSTEM, Action.RUN_BRAKED, run_id, name=campaign.name if campaign else "?", why=why.message)
