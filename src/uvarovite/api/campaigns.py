"""Campaigns, their run sheet and their release."""

from dataclasses import dataclass

from fastapi import APIRouter

from uvarovite.api.context import Context, MayLook, MayRelease, MayWrite
from uvarovite.api.schemas.campaigns import CampaignSave, ReleaseAsk
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.core.campaigns import Pace
from uvarovite.services.campaigns import campaigns, releases
from uvarovite.services.campaigns.campaigns import CampaignChange, CampaignLine, CampaignView
from uvarovite.services.sources import jobs

router = APIRouter(prefix="/api/campaigns", tags=["campaigns"])


@router.get("")
def campaign_list(actor: MayLook, context: Context) -> list[CampaignLine]:
    """All campaigns, latest first."""
    return campaigns.campaign_list(context.database, actor)


@router.get("/{campaign_id}")
def get_campaign(campaign_id: Id, actor: MayLook, context: Context) -> CampaignView:
    """The run sheet of a campaign."""
    return campaigns.get_campaign(context.database, actor, campaign_id, context.clock())


@router.post("")
def make_campaign(body: CampaignSave, actor: MayWrite, context: Context) -> CampaignView:
    """Make a campaign."""
    return _save(None, body, actor, context)


@router.put("/{campaign_id}")
def change_campaign(campaign_id: Id, body: CampaignSave, actor: MayWrite, context: Context) -> CampaignView:
    """Change a campaign."""
    return _save(campaign_id, body, actor, context)


def _save(campaign_id: int | None, body: CampaignSave, actor: Actor, context: Context) -> CampaignView:
    change = CampaignChange(**body.model_dump(exclude={"revision", "pace"}), pace=body.pace or Pace())
    return campaigns.save_campaign(
        context.database,
        actor,
        campaign_id=campaign_id,
        change=change,
        revision=body.revision,
        now=context.clock(),
    )


@router.post("/{campaign_id}/preview")
def preview(campaign_id: Id, actor: MayWrite, context: Context) -> CampaignView:
    """The run sheet before a release; who is cleared is kept, so that what changes can be named."""
    return releases.preview(context.database, actor, campaign_id, context.clock())


@dataclass(frozen=True, slots=True, kw_only=True)
class Released:
    """The run that a release made."""

    run_id: int


@router.post("/{campaign_id}/release")
def release(campaign_id: Id, body: ReleaseAsk, actor: MayRelease, context: Context) -> Released:
    """Let a campaign go, as it was on screen, once the sources that are to be fresh have been pulled."""
    jobs.pull_before_run(context.database, context.sources.pulling)
    run_id = releases.release(
        context.database,
        actor,
        campaign_id=campaign_id,
        revision=body.revision,
        seen_cleared=body.seen_cleared,
        seen_message_number=body.seen_message_number,
        public_url=context.public_url,
        keyring=context.keyring,
        now=context.clock(),
    )
    return Released(run_id=run_id)
