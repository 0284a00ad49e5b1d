"""Planning a run, whoever it is for: its limits, its links and its deliveries, in the transaction of its release."""

from datetime import datetime

from uvarovite.core.accounts import Action, Actor
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.organisation.signing import signing_keys_for
from uvarovite.store.database import Transaction
from uvarovite.store.delivery import links, planning, queue
from uvarovite.store.delivery.permits import keep_pace_limits
from uvarovite.store.tables import Run


def plan_run(tx: Transaction, actor: Actor, run: Run, *, campaign: str, keyring: Keyring, now: datetime) -> int:
    """Plan a run for those whom the clearance in `judged_now` lets through. Its id."""
    run.signing_keys = signing_keys_for(tx, run.snapshot.letterhead.from_address)
    tx.add(run)
    tx.flush()
    assert run.id is not None
    keep_pace_limits(tx, run.id, run.pace, day=0)
    links.keep_links(tx, run.id, composer_of(tx, run, keyring).links)
    audit(tx, actor, Action.RELEASED, run.id, name=campaign, people=run.planned)
    planned = planning.plan_deliveries(tx, run.id, run.pace, now)
    if planned != run.planned:
        raise AssertionError(f"planned {planned} of {run.planned}")
    queue.wake_workers(tx)
    return run.id
