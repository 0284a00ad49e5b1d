"""Saved views of the table of contacts."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MayLook, MayWrite
from uvarovite.api.schemas.contact_views import (
    ViewSave,
)
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.services.selection import views
from uvarovite.services.selection.views import SavedView

router = APIRouter(prefix="/api", tags=["contacts"])


@router.get("/contact-views")
def view_list(actor: MayLook, context: Context) -> list[SavedView]:
    """All saved views by name."""
    return views.view_list(context.database, actor)


def _save(view_id: int | None, body: ViewSave, actor: Actor, context: Context) -> SavedView:
    return views.save_view(
        context.database,
        actor,
        view_id=view_id,
        name=body.name,
        criteria=body.criteria,
        columns=body.columns,
        sort=body.sort,
        revision=body.revision,
        now=context.clock(),
    )


@router.post("/contact-views")
def make_view(body: ViewSave, actor: MayWrite, context: Context) -> SavedView:
    """Save a view under a new name."""
    return _save(None, body, actor, context)


@router.put("/contact-views/{view_id}")
def change_view(view_id: Id, body: ViewSave, actor: MayWrite, context: Context) -> SavedView:
    """Save a view as it is on screen now."""
    return _save(view_id, body, actor, context)


@router.delete("/contact-views/{view_id}", status_code=204)
def delete_view(view_id: Id, actor: MayWrite, context: Context) -> None:
    """Remove a view."""
    views.delete_view(context.database, actor, view_id)
