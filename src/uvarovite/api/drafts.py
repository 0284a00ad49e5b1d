"""Work that is open, kept while it is written."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MayWrite
from uvarovite.api.schemas.drafts import DraftSave
from uvarovite.api.schemas.values import Id
from uvarovite.services.saving import drafts
from uvarovite.services.saving.drafts import DraftKind, DraftsView, DraftView

router = APIRouter(prefix="/api/drafts", tags=["drafts"])


@router.get("/{kind}/{object_id}")
def get_drafts(kind: DraftKind, object_id: Id, actor: MayWrite, context: Context) -> DraftsView:
    """One's own draft of a thing (0: of a new one), and who else has one."""
    return drafts.get_drafts(context.database, actor, kind, object_id)


@router.put("/{kind}/{object_id}")
def keep_draft(kind: DraftKind, object_id: Id, body: DraftSave, actor: MayWrite, context: Context) -> DraftView:
    """Keep what was changed; nothing is saved by this."""
    return drafts.keep_draft(context.database, actor, kind, object_id, **body.model_dump(), now=context.clock())


@router.delete("/{kind}/{object_id}", status_code=204)
def throw_away(kind: DraftKind, object_id: Id, actor: MayWrite, context: Context) -> None:
    """Throw away what was changed."""
    drafts.throw_away(context.database, actor, kind, object_id)
