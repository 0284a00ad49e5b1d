"""A run over exactly those who did not get it in an earlier one, or may not have; and leaving them as they are."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import Again, ClearanceTerms
from uvarovite.core.campaigns import HeldAtGate, ReleasedClearance
from uvarovite.core.delivery import RUN, DeliveryState
from uvarovite.core.delivery.decisions import MAY_GET_AGAIN, Decision
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.clearance import GateView, gate_views, take_clearance, terms_for
from uvarovite.services.campaigns.planning import plan_run
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.organisation.pools import load_pool
from uvarovite.services.organisation.senders import may_send_as, senders_people
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import again
from uvarovite.store.tables import Campaign, MessageVersion, Run, Sender

_WORDS = {
    DeliveryState.UNKNOWN: "may or may not have got it",
    DeliveryState.REFUSED: "were refused",
    DeliveryState.STOPPED: "were stopped before it went out",
    DeliveryState.HELD: "were held back",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class AgainView:
    """Whom a run over those would be for: `people` stand there undecided, `cleared` of them would get it."""

    people: int
    cleared: int
    gates: list[GateView]


@dataclass(frozen=True, slots=True, kw_only=True)
class AgainAsk:
    """Those of a run in a state, or only some of them, by their deliveries."""

    run_id: int
    state: DeliveryState
    delivery_ids: Sequence[int] | None = None


def _run_of(tx: Transaction, ask: AgainAsk, *, locked: bool) -> tuple[Run, Campaign]:
    """The run with its campaign. Raises NotFound, BadInput, Conflict while it has something to send."""
    run = tx.get(Run, ask.run_id)
    campaign = None
    if run is not None:
        campaign = store.lock_campaign(tx, run.campaign_id) if locked else tx.get(Campaign, run.campaign_id)
    if run is None or campaign is None:
        raise NotFound("run")
    if ask.state not in MAY_GET_AGAIN:
        raise BadInput("state", "Whoever has got it, or is going to, gets no other.")
    if run.state in RUN.open:
        raise Conflict("running", "The run is not over yet. Wait for its end, or stop it.")
    return run, campaign


@needs(Permission.LOOK)
def again_view(database: Database, actor: Actor, ask: AgainAsk, now: datetime) -> AgainView:
    """Whom it would be for. Raises NotFound, BadInput, Conflict."""
    with database.transaction() as tx:
        run, campaign = _run_of(tx, ask, locked=False)
        people = again.of_run_sql(ask.run_id, ask.state, ask.delivery_ids)
        taken = take_clearance(tx, people, _terms(tx, run, campaign, ask.state, now))
        return AgainView(people=taken.matched, cleared=taken.cleared, gates=[one for one in taken.gates if one.held])


def _terms(tx: Transaction, run: Run, campaign: Campaign, state: DeliveryState, now: datetime) -> ClearanceTerms:
    version = tx.get(MessageVersion, run.message_version_id)
    content = version.content if version else None
    terms = terms_for(tx, topic_id=run.topic_id, now=now, campaign=campaign, content=content)
    # Those who may have got it count as having got it everywhere else; here somebody has decided.
    return replace(terms, again=Again.EVERYBODY) if state is DeliveryState.UNKNOWN else terms


@needs(Permission.RELEASE)
def send_again(
    database: Database, actor: Actor, ask: AgainAsk, *, seen_cleared: int, keyring: Keyring, now: datetime
) -> int:
    """Send the same words to exactly those, as a run of its own; every gate is asked anew. The run's id.

    Raises NotFound, BadInput; Conflict when another run is on its way, or others are cleared than were on screen.
    """
    with database.transaction() as tx:
        store.one_release_at_a_time(tx)
        run, campaign = _run_of(tx, ask, locked=True)
        runs = store.runs_of_campaign(tx, run.campaign_id)
        if any(one.state in RUN.open for one in runs):
            raise Conflict("running", "Another run of this campaign is on its way. Wait for its end, or stop it.")
        sender = tx.get(Sender, campaign.sender_id) if campaign.sender_id else None
        if sender is not None and not may_send_as(sender, actor.user_id):
            raise ServiceRefusal("blocked", f"“{sender.name}” is released by {senders_people(tx, sender)} only.")
        pool = load_pool(tx, run.pool_id)
        if pool is None or not pool.relays:
            raise ServiceRefusal(
                "blocked", "There is no relay any more in the pool that it went through. Add one first."
            )
        terms = _terms(tx, run, campaign, ask.state, now)
        audience_store.judge_for_release(tx, again.of_run_sql(ask.run_id, ask.state, ask.delivery_ids), terms)
        counts = {(row.gate, row.reason): row.n for row in audience_store.counts_of_release(tx)}
        matched, cleared, gates = gate_views(counts, {}, terms)
        if cleared != seen_cleared or not cleared:
            raise Conflict(
                "drift", f"{cleared:,} would get it now, not {seen_cleared:,}. Nothing was sent: look again."
            )
        again.decide(tx, ask.run_id, ask.state, Decision.AGAIN, ask.delivery_ids, now, only_cleared=True)
        following = Run(
            campaign_id=run.campaign_id,
            number=max(one.number for one in runs) + 1,
            state=RUN.start,
            topic_id=run.topic_id,
            audience_id=run.audience_id,
            message_version_id=run.message_version_id,
            pool_id=run.pool_id,
            pace=run.pace.model_copy(update={"first_slice": None}),
            criteria=f"those who {_WORDS[ask.state]} in run {run.number}",
            snapshot=run.snapshot,
            clearance=ReleasedClearance(
                matched=matched,
                cleared=cleared,
                gates=[HeldAtGate(key=gate.key, held=gate.held) for gate in gates],
                lifted=sorted(terms.lifted),
            ),
            planned=cleared,
            released_by=actor.user_id,
            released_at=now,
            next_batch_at=now,
            again_of=run.id,
        )
        return plan_run(tx, actor, following, campaign=campaign.name, keyring=keyring, now=now)


@needs(Permission.RELEASE)
def leave(database: Database, actor: Actor, ask: AgainAsk, now: datetime) -> int:
    """Decide that nothing more is sent to those; how many. Raises NotFound, BadInput, Conflict."""
    with database.transaction() as tx:
        _, campaign = _run_of(tx, ask, locked=True)
        left = again.decide(tx, ask.run_id, ask.state, Decision.LEFT, ask.delivery_ids, now)
        if left:
            audit(tx, actor, Action.RUN_LEFT, ask.run_id, name=campaign.name, people=left, state=ask.state.value)
        return left
