"""Rehearsals of campaigns."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MayLook, MayWrite
from uvarovite.api.schemas.rehearsals import RehearsalsOf, RehearsalWish, ScenarioChoice
from uvarovite.api.schemas.values import Id
from uvarovite.services.errors import BadInput
from uvarovite.services.rehearsals import asking
from uvarovite.services.rehearsals.asking import RehearsalAsk, RehearsalView

router = APIRouter(prefix="/api", tags=["campaigns"])


@router.get("/campaigns/{campaign_id}/rehearsals")
def rehearsals_of(campaign_id: Id, actor: MayLook, context: Context) -> RehearsalsOf:
    """The rehearsals of a campaign, latest first, and the scenarios that there are."""
    return RehearsalsOf(
        scenarios=[ScenarioChoice(name=name, about=about) for name, about in context.scenarios.items()],
        most=asking.MOST_KEPT,
        rehearsals=asking.rehearsals_of(context.database, actor, campaign_id, now=context.clock()),
    )


@router.post("/campaigns/{campaign_id}/rehearsals")
def rehearse(campaign_id: Id, body: RehearsalWish, actor: MayWrite, context: Context) -> RehearsalView:
    """Have a campaign rehearsed as soon as a worker is free."""
    if body.scenario not in context.scenarios:
        raise BadInput("scenario", "There is no such scenario.", field="scenario")
    ask = RehearsalAsk(campaign_id=campaign_id, scenario=body.scenario, starts_at=body.starts_at)
    return rehearsal_view(asking.ask_for_rehearsal(context.database, actor, ask, now=context.clock()), actor, context)


@router.get("/rehearsals/{rehearsal_id}")
def rehearsal_view(rehearsal_id: Id, actor: MayLook, context: Context) -> RehearsalView:
    """A rehearsal with its run. What is asked of runs and deliveries is asked with `?rehearsal=` for those of one."""
    return asking.rehearsal_view(context.database, actor, rehearsal_id, now=context.clock())


@router.delete("/rehearsals/{rehearsal_id}", status_code=204)
def throw_away(rehearsal_id: Id, actor: MayWrite, context: Context) -> None:
    """Throw a rehearsal away, with everything that came of it."""
    asking.throw_away(context.database, actor, rehearsal_id)
