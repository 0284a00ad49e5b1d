"""A release that names its moment: until then it can be changed or taken back, and then everything is asked anew."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import structlog

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.delivery import RUN
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.asker import actor_of
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs, user_of
from uvarovite.services.campaigns.campaigns import CampaignView, campaign_view
from uvarovite.services.campaigns.releases import release
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.campaigns import planned as planned_store
from uvarovite.store.database import Database
from uvarovite.store.tables import PlannedRelease, User

log = structlog.get_logger()

# When so much of whom it was planned for is more or less than then, nothing goes and somebody is asked.
DRIFT_SHARE = 0.1
# Whatever could not go for so long, since nothing ran, does not go unasked.
LATE = timedelta(hours=1)
FURTHEST = timedelta(days=366)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanAsk:
    """What was on screen when it was planned, and the moment; without a zone the organisation's clock is meant."""

    campaign_id: int
    at: datetime
    revision: int
    seen_cleared: int
    seen_message_number: int


@needs(Permission.RELEASE)
def plan_release(database: Database, actor: Actor, ask: PlanAsk, now: datetime) -> CampaignView:
    """Plan a release, or another moment for one that is planned.

    Raises NotFound; BadInput for a moment that is none; Conflict when the campaign is not what was on screen, or is on its
    way; ServiceRefusal while a check blocks.
    """
    with database.transaction() as tx:
        campaign = store.lock_campaign(tx, ask.campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        zone = ZoneInfo(require_organisation(tx).time_zone)
        at = (ask.at if ask.at.tzinfo else ask.at.replace(tzinfo=zone)).astimezone(UTC)
        if not now + timedelta(minutes=1) <= at <= now + FURTHEST:
            raise BadInput("at", "Choose a moment that is to come, within a year.", field="at")
        if any(run.state in RUN.open for run in store.runs_of_campaign(tx, ask.campaign_id)):
            raise Conflict("running", "This campaign has been released already; it is on its way.")
        view = campaign_view(tx, campaign, now, actor.user_id)
        if (campaign.revision, view.message_number) != (ask.revision, ask.seen_message_number):
            raise Conflict("changed", "The campaign or its words changed since you looked; read the summary again.")
        blocking = [check.message for check in view.checks if check.blocking]
        if blocking:
            raise ServiceRefusal("blocked", f"This stands in the way: {blocking[0]}")
        planned_store.put(
            tx,
            PlannedRelease(
                campaign_id=ask.campaign_id,
                at=at,
                revision=ask.revision,
                message_number=ask.seen_message_number,
                cleared=ask.seen_cleared,
                planned_by=user_of(actor),
            ),
        )
        audit(tx, actor, Action.RELEASE_PLANNED, ask.campaign_id, name=campaign.name, at=f"{at:%Y-%m-%d %H:%M} UTC")
        return campaign_view(tx, campaign, now, actor.user_id)


@needs(Permission.PAUSE)
def take_back_release(database: Database, actor: Actor, campaign_id: int, now: datetime) -> CampaignView:
    """It is not released by itself any more. Raises NotFound."""
    with database.transaction() as tx:
        campaign = store.lock_campaign(tx, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        if planned_store.remove(tx, campaign_id):
            audit(tx, actor, Action.RELEASE_TAKEN_BACK, campaign_id, name=campaign.name)
        return campaign_view(tx, campaign, now, actor.user_id)


def release_due(
    database: Database, *, prepare: Callable[[], None], public_url: str, keyring: Keyring, now: datetime
) -> int:
    """Release what is due, each once; how many. What cannot go stays, with the reason, until somebody decides."""
    with database.transaction() as tx:
        due = planned_store.due(tx, now)
    done = 0
    for planned in due:
        try:
            prepare()
            _release_one(database, planned, public_url=public_url, keyring=keyring, now=now)
            done += 1
        except ServiceRefusal as fault:
            log.warning("a planned release did not go", campaign=planned.campaign_id, why=fault.message)
            with database.transaction() as tx:
                planned_store.note_trouble(tx, planned, fault.message)
    return done


def _release_one(
    database: Database, planned: PlannedRelease, *, public_url: str, keyring: Keyring, now: datetime
) -> None:
    if now > planned.at + LATE:
        raise ServiceRefusal("late", "Nothing ran when it was due, and it was too late afterwards. Plan it again.")
    with database.transaction() as tx:
        user = tx.get(User, planned.planned_by)
        if user is None or user.left_at is not None:
            raise ServiceRefusal(
                "nobody", "Whoever planned it has no account any more. Somebody else has to release it."
            )
        actor = actor_of(user)
    release(
        database,
        actor,
        campaign_id=planned.campaign_id,
        revision=planned.revision,
        seen_cleared=planned.cleared,
        seen_message_number=planned.message_number,
        public_url=public_url,
        keyring=keyring,
        now=now,
        planned=planned,
        drift_share=DRIFT_SHARE,
    )
