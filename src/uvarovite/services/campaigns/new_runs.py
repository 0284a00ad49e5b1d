"""A new run of a campaign: whom its clearance lets through, and everything that it is released with."""

from dataclasses import dataclass, replace
from datetime import datetime

from uvarovite.core.accounts import Actor
from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.campaigns import HeldAtGate, ReleasedClearance
from uvarovite.core.delivery import RUN
from uvarovite.core.messages import NEWEST_RENDERER, Snapshot
from uvarovite.core.responses import Keyring
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import gate_views, terms_for
from uvarovite.services.campaigns.readers_noted import tracking_of
from uvarovite.services.campaigns.release_checks import CampaignParts
from uvarovite.services.errors import BadInput
from uvarovite.services.messages.composing import letterhead_for, theme_now
from uvarovite.services.messages.pdfs import words_shown
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Transaction
from uvarovite.store.organisation import relays_of_pool
from uvarovite.store.tables import Run


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """The clearance of a release, which stands in `judged_now`: what is asked with these terms is read from there."""

    terms: ClearanceTerms
    cleared: int
    told: ReleasedClearance


def judge(tx: Transaction, parts: CampaignParts, now: datetime) -> Judged | None:
    """Take the clearance of a campaign; None where it lacks something that is asked for."""
    campaign = parts.campaign
    if parts.version is None or parts.criteria is None or parts.topic is None:
        return None
    try:
        people = audience_sql(tx, parts.criteria, campaign.audience_id, now)
    except BadInput:
        return None
    terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=parts.version.content)
    audience_store.judge_for_release(tx, people, terms)
    counts = {(row.gate, row.reason): row.n for row in audience_store.counts_of_release(tx)}
    matched, cleared, gates = gate_views(counts, {}, terms)
    told = ReleasedClearance(
        matched=matched,
        cleared=cleared,
        gates=[HeldAtGate(key=gate.key, held=gate.held) for gate in gates],
        lifted=sorted(terms.lifted),
    )
    return Judged(terms=replace(terms, is_taken=True), cleared=cleared, told=told)


def new_run(
    tx: Transaction,
    actor: Actor,
    parts: CampaignParts,
    judged: Judged,
    *,
    number: int,
    public_url: str,
    keyring: Keyring,
    now: datetime,
) -> Run:
    """A run of a campaign that lacks nothing, not planned yet."""
    assert parts.topic is not None
    assert parts.version is not None
    assert parts.pool is not None
    assert parts.criteria is not None
    return Run(
        campaign_id=parts.campaign.id or 0,
        number=number,
        state=RUN.start,
        topic_id=parts.topic.id or 0,
        audience_id=parts.campaign.audience_id,
        message_version_id=parts.version.id or 0,
        pool_id=parts.pool.id,
        pace=parts.pace,
        criteria=parts.criteria,
        snapshot=snapshot_now(tx, parts, public_url=public_url, keyring=keyring),
        clearance=judged.told,
        planned=judged.cleared,
        released_by=actor.user_id,
        released_at=now,
        next_batch_at=now,
    )


def snapshot_now(tx: Transaction, parts: CampaignParts, *, public_url: str, keyring: Keyring) -> Snapshot:
    """What messages are made with besides words and records, as it is now. Topic, sender and words are chosen."""
    assert parts.topic is not None
    assert parts.sender is not None
    assert parts.version is not None
    organisation, fields = require_organisation(tx), load_fields(tx)
    return Snapshot(
        letterhead=letterhead_for(organisation, parts.topic, parts.sender, public_url=public_url, keyring=keyring),
        fields=fields,
        renderer=NEWEST_RENDERER,
        theme=theme_now(organisation),
        shown=words_shown(tx, parts.version.content, fields),
        tracking=tracking_of(tx, parts.campaign),
        leave_domain=_leave_domain(tx, parts),
    )


def _leave_domain(tx: Transaction, parts: CampaignParts) -> str | None:
    """Where mail comes to us, by what the relays say that carry the run."""
    relays = relays_of_pool(tx, parts.pool.id or 0) if parts.pool else []
    return next((relay.envelope_domain for relay in relays if relay.envelope_domain), None)
