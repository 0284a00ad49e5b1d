"""What plays a rehearsal asks of the database: planning its run in a schema of its own, a word now and then, the end."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from uvarovite.core.accounts import SYSTEM, Actor
from uvarovite.core.delivery import DELIVERY, DeliveryState, RunState
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.asker import actor_of
from uvarovite.services.campaigns.campaigns import campaign_view
from uvarovite.services.campaigns.new_runs import judge, new_run
from uvarovite.services.campaigns.planning import plan_run
from uvarovite.services.campaigns.release_checks import load_parts
from uvarovite.services.errors import NotFound, ServiceRefusal
from uvarovite.services.organisation.pools import load_pool
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import counts, permits
from uvarovite.store.rehearsals import rehearsals as store
from uvarovite.store.rehearsals.schemas import seen_in
from uvarovite.store.tables import Campaign, Rehearsal, Run, User

# Whoever would look at a real run has stopped it by then.
MOST_RESTS = 24
# What keeps a campaign from being released and not from being rehearsed.
_NO_MATTER = frozenset({"running", "not_your_sender"})


# What goes on for longer in its own time comes to no end.
LONGEST = timedelta(days=180)


class Ending(StrEnum):
    """Why a rehearsal came to no end. `said` is what the part of it said that knows."""

    REFUSED = "{said}"
    NOT_GETTING_ON = "It did not get on: {said}"
    STILL_WAITING = "After half a year of its own time somebody was still waiting."
    GIVEN_UP = "Somebody was left to whom nothing could be sent. The worker's log says why."
    STOPPED = "Its worker was stopped. Throw it away and rehearse again."
    FAULT = "It could not be played. The worker's log says why."


@dataclass(frozen=True, slots=True, kw_only=True)
class BegunRehearsal:
    """A rehearsal whose run is planned; `there` is the database as it is seen in its schema."""

    id: int
    run_id: int
    scenario: str
    starts_at: datetime
    there: Database


def next_rehearsal(database: Database) -> int | None:
    """The rehearsal that nobody has begun yet and that was asked for first."""
    with database.transaction() as tx:
        return store.next_asked(tx)


def begin_rehearsal(
    database: Database, rehearsal_id: int, *, relay_port: int, public_url: str, keyring: Keyring, now: datetime
) -> BegunRehearsal | None:
    """Plan the run of a rehearsal, whose relays lead to a port of this machine; None when another process has begun it.

    What keeps it from being planned is its trouble, and then it is None as well.
    """
    with database.transaction() as tx:
        found = store.begin(tx, rehearsal_id, now)
        if found is None:
            return None
    try:
        with database.transaction() as tx:
            run_id = _plan(tx, found, relay_port=relay_port, public_url=public_url, keyring=keyring)
        with database.transaction() as tx:
            store.blank_erased(tx, rehearsal_id)
    except ServiceRefusal as fault:
        end_rehearsal(database, rehearsal_id, Ending.REFUSED, fault.message, now=now)
        return None
    return BegunRehearsal(
        id=rehearsal_id,
        run_id=run_id,
        scenario=found.scenario,
        starts_at=found.starts_at,
        there=seen_in(database, rehearsal_id),
    )


def hear_of_rehearsal(
    database: Database, rehearsal_id: int, *, its_time: datetime | None = None, now: datetime
) -> bool:
    """Say how far a rehearsal is, if that is known; False when it is over or not wanted any more."""
    with database.transaction() as tx:
        return store.hear(tx, rehearsal_id, its_time=its_time, now=now)


def end_rehearsal(
    database: Database, rehearsal_id: int, ending: Ending | None, said: str = "", *, now: datetime
) -> None:
    """A rehearsal is over; `ending` is why it did not come to an end."""
    with database.transaction() as tx:
        found = tx.get(Rehearsal, rehearsal_id)
    states: dict[str, int] = {}
    if found is not None and found.run_id is not None:
        with seen_in(database, rehearsal_id).transaction() as tx:
            states = counts.state_counts(tx, [found.run_id])[found.run_id]
    with database.transaction() as tx:
        store.end(
            tx,
            rehearsal_id,
            trouble=ending and ending.format(said=said),
            planned=sum(states.values()) if states else None,
            accepted=states.get(DeliveryState.ACCEPTED, 0) if states else None,
            now=now,
        )


def given_up(begun: BegunRehearsal, its_time: datetime) -> str | None:
    """Why nothing goes on in a rehearsal, where all its relays have been tried in vain for hours of its own time."""
    with begun.there.transaction() as tx:
        run = tx.get(Run, begun.run_id)
        pool = load_pool(tx, run.pool_id) if run else None
        if pool is None or min((relay.rests for relay in pool.relays), default=0) < MOST_RESTS:
            return None
        return pool.trouble(its_time)


def left_in(begun: BegunRehearsal) -> int:
    """How many of a rehearsal's people can still get it by itself: none where its run is over, or has paused."""
    with begun.there.transaction() as tx:
        run = tx.get(Run, begun.run_id)
        if run is None or run.state != RunState.GOING:
            return 0
        states = counts.state_counts(tx, [begun.run_id])[begun.run_id]
        return sum(states.get(state, 0) for state in DELIVERY.open)


def _plan(tx: Transaction, found: Rehearsal, *, relay_port: int, public_url: str, keyring: Keyring) -> int:
    campaign = tx.get(Campaign, found.campaign_id)
    if campaign is None:
        raise NotFound("campaign")
    user = tx.get(User, found.asked_by) if found.asked_by else None
    actor: Actor = actor_of(user) if user else SYSTEM
    starts_at = found.starts_at
    parts = load_parts(tx, campaign)
    judged = judge(tx, parts, starts_at)
    checks = campaign_view(tx, campaign, starts_at, actor.user_id, judged.terms if judged else None).checks
    blocking = [check.message for check in checks if check.blocking and check.code not in _NO_MATTER]
    if blocking:
        raise ServiceRefusal("blocked", f"This stands in the way: {blocking[0]}")
    assert parts.pool is not None
    assert judged is not None
    run = new_run(tx, actor, parts, judged, number=1, public_url=public_url, keyring=keyring, now=starts_at)
    store.open_schema(
        tx,
        found.id or 0,
        campaign_id=found.campaign_id,
        pool_id=parts.pool.id,
        scopes=[permits.relay_scope(relay) for relay in parts.pool.limits],
        relay_port=relay_port,
    )
    run_id = plan_run(tx, actor, run, campaign=campaign.name, keyring=keyring, now=starts_at)
    store.note_run(tx, found.id or 0, run_id)
    return run_id
