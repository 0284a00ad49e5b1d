"""Letters on paper of a campaign."""

from concurrent.futures import TimeoutError as NotReady
from contextlib import suppress

from fastapi import APIRouter, Response

from uvarovite.api.context import Context, MayLook, MayRelease
from uvarovite.api.handing_out import handed_out
from uvarovite.api.schemas.campaigns import PrintingAsk, PrintingEnd
from uvarovite.api.schemas.values import Id
from uvarovite.core.messages.paper import Paper
from uvarovite.services.campaigns import laying_out, printing
from uvarovite.services.campaigns.printing import PrintingView

router = APIRouter(prefix="/api/campaigns/{campaign_id}/letters", tags=["campaigns"])

# Long enough for some letters, short enough that nobody wonders.
_PATIENCE_SECONDS = 2.0


@router.get("")
def get_printing(campaign_id: Id, actor: MayLook, context: Context) -> PrintingView:
    """Letters on paper as they stand."""
    return printing.get_printing(context.database, actor, campaign_id, now=context.clock())


@router.post("")
def lay_out_letters(campaign_id: Id, body: PrintingAsk, actor: MayRelease, context: Context) -> PrintingView:
    """Lay out the letters of everybody who is cleared for one."""
    printing_id = printing.begin_printing(
        context.database, actor, campaign_id, paper=body.paper, seen_cleared=body.seen_cleared, now=context.clock()
    )
    job = context.jobs.submit(
        laying_out.lay_out_letters, context.database, actor, printing_id, keyring=context.keyring, clock=context.clock
    )
    with suppress(NotReady):
        job.result(timeout=_PATIENCE_SECONDS)
    return get_printing(campaign_id, actor, context)


@router.get("/sample.pdf", response_class=Response)
def sample_letter(campaign_id: Id, actor: MayLook, context: Context, paper: Paper = Paper.DIN) -> Response:
    """The first of them, to be looked at."""
    # Laid out by a process: no more of them at once than there are threads for jobs.
    job = context.jobs.submit(
        laying_out.sample_letter,
        context.database,
        actor,
        campaign_id,
        paper=paper,
        keyring=context.keyring,
        now=context.clock(),
    )
    return handed_out(job.result(), to_look_at=True)


@router.get("/{printing_id}.pdf", response_class=Response)
def take_letters(campaign_id: Id, printing_id: Id, actor: MayRelease, context: Context) -> Response:
    """The PDF of letters that were laid out."""
    return handed_out(printing.take_letters(context.database, actor, campaign_id, printing_id))


@router.post("/{printing_id}")
def settle_printing(
    campaign_id: Id, printing_id: Id, body: PrintingEnd, actor: MayRelease, context: Context
) -> PrintingView:
    """Say that letters were printed, or throw them away."""
    printing.settle_printing(
        context.database, actor, campaign_id, printing_id, printed=body.printed, now=context.clock()
    )
    return get_printing(campaign_id, actor, context)
