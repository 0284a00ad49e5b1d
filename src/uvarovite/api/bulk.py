"""Doing one thing to many contacts, taking them out as a file, undoing; and saved views of the table."""

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.bulk import ExportAsk, LeaveOutMany, SetMany, SubscribeMany, TagMany, ViewSave, WhoOnly
from uvarovite.services import bulk, contact_views, exports
from uvarovite.services.bulk import BulkResult, ChangeLine
from uvarovite.services.contact_views import SavedView

router = APIRouter(prefix="/api", tags=["bulk"])


@router.post("/bulk/tag")
def tag(body: TagMany, user: User, context: Context) -> BulkResult:
    """Put a tag on many, or take it off."""
    return bulk.tag(
        context.database,
        body.who.selection(),
        name=body.name,
        put=body.put,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/bulk/set-field")
def set_field(body: SetMany, user: User, context: Context) -> BulkResult:
    """Give a field the same value for many."""
    return bulk.set_field(
        context.database,
        body.who.selection(),
        key=body.key,
        text=body.text,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/bulk/subscribe")
def subscribe(body: SubscribeMany, user: User, context: Context) -> BulkResult:
    """State the consent of many, with its ground."""
    return bulk.subscribe(
        context.database,
        body.who.selection(),
        topic=body.topic,
        ground=body.ground,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/bulk/leave-out")
def leave_out(body: LeaveOutMany, user: User, context: Context) -> BulkResult:
    """Put the addresses of many on the suppression list."""
    return bulk.leave_out(
        context.database, body.who.selection(), why=body.why, user_id=user.user_id, now=context.clock()
    )


@router.post("/bulk/delete")
def delete(body: WhoOnly, user: User, context: Context) -> BulkResult:
    """Delete many; it can be undone for 30 days."""
    return bulk.delete(context.database, body.who.selection(), user_id=user.user_id, now=context.clock())


@router.post("/bulk/erase")
def erase(body: WhoOnly, user: User, context: Context) -> BulkResult:
    """Erase many for good."""
    return bulk.erase(
        context.database,
        body.who.selection(),
        hasher=context.hash_address,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/bulk/export", response_class=StreamingResponse)
def export(body: ExportAsk, user: User, context: Context) -> StreamingResponse:
    """Many as a file."""
    made = exports.export(
        context.database, body.who.selection(), columns=body.columns, form=body.form, now=context.clock()
    )
    headers = {"Content-Disposition": f'attachment; filename="{made.filename}"'}
    return StreamingResponse(made.pieces, media_type=made.media_type, headers=headers)


@router.get("/changes")
def latest_changes(user: User, context: Context) -> list[ChangeLine]:
    """What was done to many at once, latest first."""
    return bulk.latest_changes(context.database, context.clock())


@router.post("/changes/{change_set_id}/undo")
def undo(change_set_id: int, user: User, context: Context) -> BulkResult:
    """Undo a change set."""
    return bulk.undo(context.database, change_set_id, user_id=user.user_id, now=context.clock())


@router.get("/contact-views")
def view_list(user: User, context: Context) -> list[SavedView]:
    """All saved views by name."""
    return contact_views.view_list(context.database)


def _save(view_id: int | None, body: ViewSave, user: User, context: Context) -> SavedView:
    return contact_views.save_view(
        context.database,
        view_id=view_id,
        name=body.name,
        criteria=body.criteria,
        columns=body.columns,
        sort=body.sort,
        edition=body.edition,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/contact-views")
def make_view(body: ViewSave, user: User, context: Context) -> SavedView:
    """Save a view under a new name."""
    return _save(None, body, user, context)


@router.put("/contact-views/{view_id}")
def change_view(view_id: int, body: ViewSave, user: User, context: Context) -> SavedView:
    """Save a view as it is on screen now."""
    return _save(view_id, body, user, context)


@router.delete("/contact-views/{view_id}", status_code=204)
def delete_view(view_id: int, user: User, context: Context) -> None:
    """Remove a view."""
    contact_views.delete_view(context.database, view_id)
