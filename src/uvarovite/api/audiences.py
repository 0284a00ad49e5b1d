"""Criteria, audiences and the clearance."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MayLook, MayWrite
from uvarovite.api.schemas.audiences import (
    AudienceSave,
    CompleteAsk,
    CriteriaRead,
    ExplainAsk,
    HeldAsk,
    LookAsk,
    MemberSave,
    SamplesAsk,
    WithoutAsk,
)
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.services.audiences import audiences, explain, freezing, members, overlap
from uvarovite.services.audiences import clearance as clearances
from uvarovite.services.audiences.audiences import AudienceView
from uvarovite.services.audiences.clearance import ClearanceView, JudgedPerson
from uvarovite.services.audiences.explain import ExplainedAddress
from uvarovite.services.audiences.freezing import DriftView, SinceRunView
from uvarovite.services.audiences.members import MemberLine
from uvarovite.services.audiences.overlap import OverlapView
from uvarovite.services.expressions import completion, criteria
from uvarovite.services.expressions.completion import CompletionView, NamesView, SamplesView, ViewWords
from uvarovite.services.expressions.criteria import CriteriaView

router = APIRouter(prefix="/api", tags=["audiences"])


@router.post("/criteria")
def read_criteria(body: CriteriaRead, actor: MayLook, context: Context) -> CriteriaView:
    """Criteria from text or tree into both, with what is wrong or how many match."""
    return criteria.read_criteria(
        context.database,
        actor,
        text=body.text,
        tree=body.tree,
        audience_id=body.audience_id,
        estimate=body.estimate,
        now=context.clock(),
    )


@router.post("/criteria/samples")
def criteria_samples(body: SamplesAsk, actor: MayLook, context: Context) -> SamplesView:
    """Some who match, and those who would but for a single condition."""
    return completion.criteria_samples(
        context.database, actor, text=body.text, audience_id=body.audience_id, now=context.clock()
    )


@router.post("/criteria/complete")
def complete(body: CompleteAsk, actor: MayLook, context: Context) -> CompletionView:
    """What can stand at the caret."""
    return completion.complete(
        context.database, actor, text=body.text, at=body.at, audience_id=body.audience_id, now=context.clock()
    )


@router.get("/criteria/names")
def criteria_names(actor: MayLook, context: Context) -> NamesView:
    """What criteria can name."""
    return completion.criteria_names(context.database, actor, context.clock())


@router.get("/criteria/views")
def views_for_sql(actor: MayLook, context: Context) -> list[ViewWords]:
    """What SQL by hand can read."""
    return completion.views_for_sql(context.database, actor)


@router.post("/clearance")
def clearance(body: LookAsk, actor: MayLook, context: Context) -> ClearanceView:
    """The clearance of criteria for a topic."""
    return clearances.clearance(
        context.database,
        actor,
        **body.asked(),
        now=context.clock(),
    )


@router.post("/clearance/people")
def people_behind(body: HeldAsk, actor: MayLook, context: Context) -> list[JudgedPerson]:
    """The people whom a gate holds, or who are cleared."""
    return clearances.people_behind(
        context.database,
        actor,
        **body.asked(),
        gate=body.gate,
        after_id=body.after_id,
        now=context.clock(),
    )


@router.post("/clearance/without")
def cleared_without(body: WithoutAsk, actor: MayLook, context: Context) -> int:
    """How many would be cleared if a gate were lifted."""
    return clearances.cleared_without(
        context.database,
        actor,
        **body.asked(),
        gate=body.gate,
        now=context.clock(),
    )


@router.post("/clearance/explain")
def explain_person(body: ExplainAsk, actor: MayLook, context: Context) -> ExplainedAddress:
    """Why those with an address get it, or not."""
    return explain.explain(
        context.database,
        actor,
        **body.asked(),
        address=body.address,
        hasher=context.hash_address,
        now=context.clock(),
    )


@router.get("/audiences")
def audience_list(actor: MayLook, context: Context) -> list[AudienceView]:
    """All audiences by name."""
    return audiences.audience_list(context.database, actor)


@router.post("/audiences")
def make_audience(body: AudienceSave, actor: MayWrite, context: Context) -> AudienceView:
    """Make an audience."""
    return _save(None, body, actor, context)


@router.put("/audiences/{audience_id}")
def change_audience(audience_id: Id, body: AudienceSave, actor: MayWrite, context: Context) -> AudienceView:
    """Change an audience."""
    return _save(audience_id, body, actor, context)


def _save(audience_id: int | None, body: AudienceSave, actor: Actor, context: Context) -> AudienceView:
    return audiences.save_audience(
        context.database,
        actor,
        audience_id=audience_id,
        name=body.name,
        text=body.text,
        part=body.part,
        revision=body.revision,
        now=context.clock(),
    )


@router.delete("/audiences/{audience_id}", status_code=204)
def delete_audience(audience_id: Id, actor: MayWrite, context: Context) -> None:
    """Remove an audience that no campaign uses."""
    audiences.delete_audience(context.database, actor, audience_id)


@router.get("/audiences/{audience_id}/members")
def member_list(audience_id: Id, actor: MayLook, context: Context) -> list[MemberLine]:
    """Who is added to an audience by hand, or left out."""
    return members.member_list(context.database, actor, audience_id)


@router.put("/audiences/{audience_id}/members/{contact_id}", status_code=204)
def pick(audience_id: Id, contact_id: Id, body: MemberSave, actor: MayWrite, context: Context) -> None:
    """Add somebody by hand, or leave them out."""
    members.pick_one(context.database, actor, audience_id, contact_id, kind=body.kind, now=context.clock())


@router.delete("/audiences/{audience_id}/members/{contact_id}", status_code=204)
def unpick(audience_id: Id, contact_id: Id, actor: MayWrite, context: Context) -> None:
    """Let the criteria alone decide about somebody again."""
    members.unpick(context.database, actor, audience_id, contact_id)


@router.get("/audiences/{audience_id}/overlap/{other_id}")
def audience_overlap(audience_id: Id, other_id: Id, actor: MayLook, context: Context) -> OverlapView:
    """Who is in two audiences, and who in one of them alone."""
    return overlap.overlap(context.database, actor, audience_id, other_id, context.clock())


@router.get("/audiences/{audience_id}/since-run")
def since_last_run(audience_id: Id, actor: MayLook, context: Context) -> SinceRunView | None:
    """What has changed since the last run to an audience."""
    return freezing.since_last_run(context.database, actor, audience_id, context.clock())


@router.post("/audiences/{audience_id}/freeze")
def freeze(audience_id: Id, actor: MayWrite, context: Context) -> int:
    """Keep the people of now as the audience's; how many."""
    return freezing.freeze(context.database, actor, audience_id, context.clock())


@router.post("/audiences/{audience_id}/thaw", status_code=204)
def thaw(audience_id: Id, actor: MayWrite, context: Context) -> None:
    """Let an audience follow its conditions again."""
    freezing.thaw(context.database, actor, audience_id)


@router.get("/audiences/{audience_id}/drift")
def drift(audience_id: Id, actor: MayLook, context: Context) -> DriftView:
    """What has changed since an audience was frozen."""
    return freezing.drift(context.database, actor, audience_id, context.clock())
