"""The suppression list."""

from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile

from uvarovite.api.context import Context, MayContacts, MayExport, MayLook
from uvarovite.api.schemas.suppressions import (
    SuppressText,
)
from uvarovite.api.schemas.values import Id
from uvarovite.services.consent import suppressions
from uvarovite.services.consent.suppressions import LARGEST_LIST_BYTES, ListReport, SuppressionPage
from uvarovite.services.errors import BadInput

router = APIRouter(prefix="/api", tags=["consent"])


@router.get("/suppressions")
def suppression_page(
    actor: MayLook,
    context: Context,
    search: Annotated[str, Query(max_length=320)] = "",
    reason: Annotated[str | None, Query(max_length=20)] = None,
    before: Id | None = None,
) -> SuppressionPage:
    """A page of the suppression list."""
    return suppressions.suppression_page(context.database, actor, search=search, reason=reason, before=before)


@router.post("/suppressions")
def suppress(body: SuppressText, actor: MayContacts, context: Context) -> bool:
    """Put an address or a domain on the list; false when it stands there already."""
    return suppressions.suppress_by_text(context.database, actor, body.text, reason=body.reason, now=context.clock())


@router.post("/suppressions/file")
def import_list_of_addresses(actor: MayContacts, context: Context, file: Annotated[UploadFile, File()]) -> ListReport:
    """Import a suppression list from elsewhere."""
    content = file.file.read(LARGEST_LIST_BYTES + 1)
    if len(content) > LARGEST_LIST_BYTES:
        raise BadInput("file_too_large", f"The list is larger than {LARGEST_LIST_BYTES >> 20} MB. Split it.")
    return suppressions.import_list_of_addresses(
        context.database, actor, content, filename=file.filename or "list", now=context.clock()
    )


@router.get("/suppressions.csv", response_class=Response)
def list_as_csv(actor: MayExport, context: Context) -> Response:
    """The whole list as CSV."""
    headers = {"Content-Disposition": 'attachment; filename="suppression list.csv"'}
    text = suppressions.list_as_csv(context.database, actor)
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)
