"""Saved views of the table of contacts."""

from fastapi import APIRouter

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.contact_views import (
    ViewSave,
)
from uvarovite.api.schemas.values import Id
from uvarovite.services.selection import views
from uvarovite.services.selection.views import SavedView

router = APIRouter(prefix="/api", tags=["contacts"])


@router.get("/contact-views")
def view_list(user: User, context: Context) -> list[SavedView]:
    """All saved views by name."""
    return views.view_list(context.database)


def _save(view_id: int | None, body: ViewSave, user: User, context: Context) -> SavedView:
    return views.save_view(
        context.database,
        view_id=view_id,
        name=body.name,
        criteria=body.criteria,
        columns=body.columns,
        sort=body.sort,
        revision=body.revision,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/contact-views")
def make_view(body: ViewSave, user: User, context: Context) -> SavedView:
    """Save a view under a new name."""
    return _save(None, body, user, context)


@router.put("/contact-views/{view_id}")
def change_view(view_id: Id, body: ViewSave, user: User, context: Context) -> SavedView:
    """Save a view as it is on screen now."""
    return _save(view_id, body, user, context)


@router.delete("/contact-views/{view_id}", status_code=204)
def delete_view(view_id: Id, user: User, context: Context) -> None:
    """Remove a view."""
    views.delete_view(context.database, view_id)
