"""Criteria, audiences and the clearance."""

from fastapi import APIRouter

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.audiences import AudienceSave, ClearanceAsk, CriteriaRead, HeldAsk
from uvarovite.services import audiences
from uvarovite.services.audiences import AudienceView, ClearanceView, CriteriaView, JudgedPerson

router = APIRouter(prefix="/api", tags=["audiences"])


@router.post("/criteria")
def read_criteria(body: CriteriaRead, user: User, context: Context) -> CriteriaView:
    """Criteria from text or tree into both, with what is wrong or how many match."""
    return audiences.read_criteria(context.database, text=body.text, tree=body.tree, now=context.clock())


@router.post("/clearance")
def clearance(body: ClearanceAsk, user: User, context: Context) -> ClearanceView:
    """The clearance of criteria for a topic."""
    return audiences.clearance(context.database, text=body.text, topic_id=body.topic_id, now=context.clock())


@router.post("/clearance/people")
def people_behind(body: HeldAsk, user: User, context: Context) -> list[JudgedPerson]:
    """The people whom a gate holds, or who are cleared."""
    return audiences.people_behind(
        context.database,
        text=body.text,
        topic_id=body.topic_id,
        gate=body.gate,
        after_id=body.after_id,
        now=context.clock(),
    )


@router.get("/audiences")
def audience_list(user: User, context: Context) -> list[AudienceView]:
    """All audiences by name."""
    return audiences.audience_list(context.database)


@router.post("/audiences")
def make_audience(body: AudienceSave, user: User, context: Context) -> AudienceView:
    """Make an audience."""
    return _save(None, body, user, context)


@router.put("/audiences/{audience_id}")
def change_audience(audience_id: int, body: AudienceSave, user: User, context: Context) -> AudienceView:
    """Change an audience."""
    return _save(audience_id, body, user, context)


def _save(audience_id: int | None, body: AudienceSave, user: User, context: Context) -> AudienceView:
    return audiences.save_audience(
        context.database,
        audience_id=audience_id,
        name=body.name,
        text=body.text,
        edition=body.edition,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.delete("/audiences/{audience_id}", status_code=204)
def delete_audience(audience_id: int, user: User, context: Context) -> None:
    """Remove an audience that no campaign uses."""
    audiences.delete_audience(context.database, audience_id)
