"""Advice on a campaign that somebody accepted by name, with a reason: it is kept until what it says changes."""

from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.campaigns.campaigns import campaign_view
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.campaigns import accepted as store
from uvarovite.store.campaigns import campaigns as campaign_store
from uvarovite.store.database import Database

LONGEST_REASON = 300


@needs(Permission.WRITE)
def accept_advice(
    database: Database, actor: Actor, campaign_id: int, digest: str, *, reason: str, now: datetime
) -> None:
    """Accept a piece of advice that a campaign has now. Raises BadInput without a reason, NotFound."""
    reason = " ".join(reason.split())
    if not reason or len(reason) > LONGEST_REASON:
        raise BadInput("no_reason", f"Say why it is right as it is, in up to {LONGEST_REASON} characters.")
    with database.transaction() as tx:
        campaign = campaign_store.lock_campaign(tx, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        found = next((one for one in campaign_view(tx, campaign, now).checks if one.digest == digest), None)
        if found is None or found.blocking:
            raise NotFound("advice")
        store.accept(tx, campaign_id, digest, message=found.message, reason=reason, user_id=actor.user_id, now=now)
        audit(tx, actor, Action.ADVICE_ACCEPTED, campaign_id, name=campaign.name, advice=found.message, reason=reason)


@needs(Permission.WRITE)
def take_back_acceptance(database: Database, actor: Actor, campaign_id: int, digest: str) -> None:
    """The advice stands again. Raises NotFound."""
    with database.transaction() as tx:
        campaign = campaign_store.lock_campaign(tx, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        if store.take_back(tx, campaign_id, digest):
            audit(tx, actor, Action.ADVICE_STANDS, campaign_id, name=campaign.name)
