"""Campaigns, their run sheet and their release."""

from concurrent.futures import TimeoutError as NotReady
from contextlib import suppress
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Path
from fastapi.responses import StreamingResponse

from uvarovite.api.context import Context, MayExport, MayLook, MayPause, MayRelease, MayWrite
from uvarovite.api.schemas.campaigns import (
    AdviceAcceptance,
    BranchesAsk,
    CampaignSave,
    PlanBody,
    ProofTick,
    ReleaseAsk,
    Released,
)
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.core.campaigns import Pace, Preset
from uvarovite.services.campaigns import (
    accepted_advice,
    campaigns,
    dry_run,
    forecasting,
    planned,
    proofs,
    readers,
    releases,
)
from uvarovite.services.campaigns.campaigns import CampaignChange, CampaignLine, CampaignView
from uvarovite.services.campaigns.forecasting import LastMoment
from uvarovite.services.campaigns.planned import PlanAsk
from uvarovite.services.campaigns.proofs import ProofSheetView
from uvarovite.services.sources import jobs

router = APIRouter(prefix="/api/campaigns", tags=["campaigns"])

# Long enough for some ten thousand people, short enough that nobody wonders.
_PATIENCE_SECONDS = 2.0

Digest = Annotated[str, Path(max_length=64, pattern=r"^[0-9a-f]+$")]


@router.get("")
def campaign_list(actor: MayLook, context: Context) -> list[CampaignLine]:
    """All campaigns, latest first."""
    return campaigns.campaign_list(context.database, actor)


@router.get("/paces")
def paces(actor: MayLook, context: Context) -> list[Preset]:
    """The paces that one can begin from."""
    return forecasting.presets(context.database, actor)


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


@router.get("/{campaign_id}/last-moment")
def last_moment(campaign_id: Id, done_by: datetime, actor: MayLook, context: Context) -> LastMoment:
    """When a release has to be at the latest to be through by then; without a zone the organisation's clock is meant."""
    return forecasting.last_moment(context.database, actor, campaign_id, done_by, context.clock())


@router.get("/{campaign_id}/blanks")
def blanks(campaign_id: Id, actor: MayLook, context: Context) -> dict[str, int]:
    """How many of those who are cleared have nothing in each field, by key; empty while it is not said who they are."""
    return readers.blanks_among_readers(context.database, actor, campaign_id, context.clock())


@router.post("/{campaign_id}/branches")
def branches(campaign_id: Id, body: BranchesAsk, actor: MayLook, context: Context) -> list[list[int | None]]:
    """How many of those who are cleared read each branch of blocks that are for some people only."""
    return readers.readers_of_branches(
        context.database,
        actor,
        campaign_id,
        body.branches,
        language=body.language,
        others=body.others,
        now=context.clock(),
    )


@router.get("/{campaign_id}/proofs")
def get_proofs(campaign_id: Id, actor: MayLook, context: Context) -> ProofSheetView:
    """The sheet of proofs as it stands."""
    return proofs.get_proofs(context.database, actor, campaign_id, keyring=context.keyring, now=context.clock())


@router.post("/{campaign_id}/proofs")
def make_proofs(campaign_id: Id, actor: MayWrite, context: Context) -> ProofSheetView:
    """Make a new sheet of proofs, or say how far it is."""
    job = context.jobs.submit(
        proofs.make_proofs, context.database, actor, campaign_id, keyring=context.keyring, clock=context.clock
    )
    with suppress(NotReady):
        job.result(timeout=_PATIENCE_SECONDS)
    return get_proofs(campaign_id, actor, context)


@router.put("/{campaign_id}/proofs/{contact_id}")
def tick_proof(campaign_id: Id, contact_id: Id, body: ProofTick, actor: MayWrite, context: Context) -> ProofSheetView:
    """Say of a letter that it is right, or take that back."""
    proofs.tick_proof(
        context.database,
        actor,
        campaign_id,
        contact_id,
        digest=body.digest,
        right=body.right,
        now=context.clock(),
    )
    return get_proofs(campaign_id, actor, context)


@router.put("/{campaign_id}/advice/{digest}")
def accept_advice(
    campaign_id: Id, digest: Digest, body: AdviceAcceptance, actor: MayWrite, context: Context
) -> CampaignView:
    """Accept a piece of advice, by name and with a reason; it stands again when it says something else."""
    accepted_advice.accept_advice(context.database, actor, campaign_id, digest, reason=body.reason, now=context.clock())
    return get_campaign(campaign_id, actor, context)


@router.delete("/{campaign_id}/advice/{digest}")
def take_back_acceptance(campaign_id: Id, digest: Digest, actor: MayWrite, context: Context) -> CampaignView:
    """Let a piece of advice stand again."""
    accepted_advice.take_back_acceptance(context.database, actor, campaign_id, digest)
    return get_campaign(campaign_id, actor, context)


# More than somebody reads; the command line makes all of them.
_DRY_MESSAGES = 1_000


@router.get("/{campaign_id}/dry-run.mbox", response_class=StreamingResponse)
def dry_run_file(campaign_id: Id, actor: MayExport, context: Context) -> StreamingResponse:
    """What would go out now, as an mbox file (RFC 4155), to a thousand people at most. Nothing is sent."""
    now = context.clock()
    made = dry_run.dry_run(
        context.database,
        actor,
        campaign_id,
        most=_DRY_MESSAGES,
        public_url=context.public_url,
        keyring=context.keyring,
        secret=context.secret,
        now=now,
    )
    headers = {"Content-Disposition": 'attachment; filename="dry run.mbox"', "Cache-Control": "no-store"}
    return StreamingResponse((one.in_mbox(now) for one in made), media_type="application/mbox", headers=headers)


@router.put("/{campaign_id}/planned")
def plan_release(campaign_id: Id, body: PlanBody, actor: MayRelease, context: Context) -> CampaignView:
    """Plan its release for a moment."""
    ask = PlanAsk(campaign_id=campaign_id, **body.model_dump())
    return planned.plan_release(context.database, actor, ask, context.clock())


@router.delete("/{campaign_id}/planned")
def take_back_release(campaign_id: Id, actor: MayPause, context: Context) -> CampaignView:
    """It is not released by itself any more."""
    return planned.take_back_release(context.database, actor, campaign_id, context.clock())


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
