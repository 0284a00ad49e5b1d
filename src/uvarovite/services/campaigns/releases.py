"""The release: a campaign is let go as it was on screen, planned wholly or not at all."""

from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.delivery import RUN
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.campaigns.campaigns import CampaignView, campaign_view
from uvarovite.services.campaigns.new_runs import judge, new_run
from uvarovite.services.campaigns.planning import plan_run
from uvarovite.services.campaigns.release_checks import load_parts
from uvarovite.services.errors import Conflict, NotFound, ServiceRefusal
from uvarovite.store.audiences.differences import Difference
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.campaigns import planned as planned_store
from uvarovite.store.campaigns import previews
from uvarovite.store.database import Database
from uvarovite.store.tables import PlannedRelease

# A release whose number moved by more than this share since it was on screen is refused.
DRIFT_SHARE = 0.02
NAMES_SHOWN = 5


@needs(Permission.WRITE)
def preview(database: Database, actor: Actor, campaign_id: int, now: datetime) -> CampaignView:
    """The run sheet as it is about to be released; who is cleared is kept, so that what changes can be named.

    Raises NotFound.
    """
    with database.transaction() as tx:
        campaign = store.lock_campaign(tx, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        parts = load_parts(tx, campaign)
        view = campaign_view(tx, campaign, now, actor.user_id)
        if parts.criteria is not None and view.clearance is not None:
            content = parts.version.content if parts.version else None
            terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=content)
            people = audience_sql(tx, parts.criteria, campaign.audience_id, now)
            previews.keep_preview(tx, campaign_id, campaign.revision, people, terms, now)
        return view


def _by_name(changed: Difference | None) -> str:
    """Who has come and who is gone, in words."""
    told = ""
    for found, words in ((changed.come, "Come since"), (changed.gone, "Gone since")) if changed else ():
        if found.count:
            more = f" and {found.count - len(found.people):,} more" if found.count > len(found.people) else ""
            told += f" {words}: {', '.join(name for _, name, _ in found.people)}{more}."
    return told


@needs(Permission.RELEASE)
def release(
    database: Database,
    actor: Actor,
    *,
    campaign_id: int,
    revision: int,
    seen_cleared: int,
    seen_message_number: int,
    public_url: str,
    keyring: Keyring,
    now: datetime,
    planned: PlannedRelease | None = None,
    drift_share: float = DRIFT_SHARE,
) -> int:
    """Let a campaign go: plan every delivery in one transaction. The run's id.

    The clearance is taken again in here. A planned release is used up by it; one that is not there any more raises Conflict.
    Of those, people who came and others who went are looked at by their number alone. Raises Conflict when the campaign, its words or its number are not what was on
    screen any more, or when a run is on its way already (a double click); ServiceRefusal while a check blocks.
    """
    with database.transaction() as tx:
        store.one_release_at_a_time(tx)
        campaign = store.lock_campaign(tx, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        if planned is not None and not planned_store.take(tx, planned):
            raise Conflict("taken_back", "It was taken back, or planned anew, meanwhile.")
        planned_store.remove(tx, campaign_id)
        parts = load_parts(tx, campaign)
        runs = store.runs_of_campaign(tx, campaign_id)
        if any(run.state in RUN.open for run in runs):
            raise Conflict("running", "This campaign has been released already; it is on its way.")
        if revision != campaign.revision or (parts.version and parts.version.number != seen_message_number):
            raise Conflict("changed", "The campaign or its words changed since you looked; read the summary again.")
        judged = judge(tx, parts, now)
        view = campaign_view(tx, campaign, now, actor.user_id, judged.terms if judged else None)
        blocking = [check.message for check in view.checks if check.blocking]
        if blocking:
            raise ServiceRefusal("blocked", f"This stands in the way: {blocking[0]}")
        assert judged is not None
        cleared = judged.cleared
        changed = previews.difference_to_preview(tx, campaign_id, campaign.revision, NAMES_SHOWN)
        moved = abs(cleared - seen_cleared)
        if changed and planned is None:
            moved = max(moved, changed.come.count + changed.gone.count)
        if moved > max(seen_cleared, 1) * drift_share:
            raise Conflict(
                "drift",
                f"{cleared:,} people are cleared now; it was {seen_cleared:,} when you looked.{_by_name(changed)} "
                "Nothing was sent: look at Who again.",
            )
        number = max((run.number for run in runs), default=0) + 1
        run = new_run(tx, actor, parts, judged, number=number, public_url=public_url, keyring=keyring, now=now)
        return plan_run(tx, actor, run, campaign=campaign.name, keyring=keyring, now=now)
