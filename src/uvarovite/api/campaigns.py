"""Campaigns, their run sheet and their release."""

from dataclasses import dataclass

from fastapi import APIRouter

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.campaigns import CampaignSave, ReleaseAsk
from uvarovite.api.schemas.values import Id
from uvarovite.services.campaigns import campaigns, releases
from uvarovite.services.campaigns.campaigns import CampaignChange, CampaignLine, CampaignView
from uvarovite.services.sources import jobs

router = APIRouter(prefix="/api/campaigns", tags=["campaigns"])


@router.get("")
def campaign_list(user: User, context: Context) -> list[CampaignLine]:
    """All campaigns, latest first."""
    return campaigns.campaign_list(context.database)


@router.get("/{campaign_id}")
def get_campaign(campaign_id: Id, user: User, context: Context) -> CampaignView:
    """The run sheet of a campaign."""
    return campaigns.get_campaign(context.database, campaign_id, context.clock(), user.user_id)


@router.post("")
def make_campaign(body: CampaignSave, user: User, context: Context) -> CampaignView:
    """Make a campaign."""
    return _save(None, body, user, context)


@router.put("/{campaign_id}")
def change_campaign(campaign_id: Id, body: CampaignSave, user: User, context: Context) -> CampaignView:
    """Change a campaign."""
    return _save(campaign_id, body, user, context)


def _save(campaign_id: int | None, body: CampaignSave, user: User, context: Context) -> CampaignView:
    change = CampaignChange(**body.model_dump(exclude={"revision"}))
    return campaigns.save_campaign(
        context.database,
        campaign_id=campaign_id,
        change=change,
        revision=body.revision,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/{campaign_id}/preview")
def preview(campaign_id: Id, user: User, context: Context) -> CampaignView:
    """The run sheet before a release; who is cleared is kept, so that what changes can be named."""
    return releases.preview(context.database, campaign_id, context.clock(), user.user_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class Released:
    """The run that a release made."""

    run_id: int


@router.post("/{campaign_id}/release")
def release(campaign_id: Id, body: ReleaseAsk, user: User, context: Context) -> Released:
    """Let a campaign go, as it was on screen, once the sources that are to be fresh have been pulled."""
    jobs.pull_before_run(context.database, context.sources.pulling)
    run_id = releases.release(
        context.database,
        campaign_id=campaign_id,
        revision=body.revision,
        seen_cleared=body.seen_cleared,
        seen_message_number=body.seen_message_number,
        user_id=user.user_id,
        public_url=context.public_url,
        keyring=context.keyring,
        now=context.clock(),
    )
    return Released(run_id=run_id)
