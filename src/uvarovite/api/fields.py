"""The organisation's own fields, as they are set up."""

from fastapi import APIRouter, Response

from uvarovite.api.context import Context, MayLook, MaySetUp
from uvarovite.api.schemas.fields import (
    FieldChange,
    FieldSave,
    Order,
)
from uvarovite.services.contacts import fields, retyping
from uvarovite.services.contacts.fields import RemovedField
from uvarovite.services.contacts.retyping import RetypeReport

router = APIRouter(prefix="/api", tags=["set-up"])


@router.post("/fields")
def make_field(body: FieldSave, actor: MaySetUp, context: Context) -> str:
    """Make a field; its key."""
    return fields.make_field(context.database, actor, body.draft())


@router.post("/fields/{key}/preview")
def preview_retype(key: str, body: FieldSave, actor: MaySetUp, context: Context) -> RetypeReport:
    """What changing a field would do to its values."""
    return retyping.preview_retype(context.database, actor, key, body.draft())


@router.post("/fields/{key}/misfits.csv", response_class=Response)
def misfits_file(key: str, body: FieldSave, actor: MaySetUp, context: Context) -> Response:
    """Every value that changing a field would lose, as CSV."""
    headers = {"Content-Disposition": 'attachment; filename="values that do not fit.csv"'}
    text = retyping.misfits_file(context.database, actor, key, body.draft())
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.put("/fields/{key}")
def change_field(key: str, body: FieldChange, actor: MaySetUp, context: Context) -> RetypeReport:
    """Rename or retype a field."""
    return retyping.change_field(
        context.database,
        actor,
        key,
        body.draft(),
        lose=body.lose,
        amounts=body.said(),
        now=context.clock(),
    )


@router.delete("/fields/{key}", status_code=204)
def remove_field(key: str, actor: MaySetUp, context: Context) -> None:
    """Remove a field; it can be brought back."""
    fields.remove_field(context.database, actor, key, now=context.clock())


@router.post("/fields/{key}/restore", status_code=204)
def restore_field(key: str, actor: MaySetUp, context: Context) -> None:
    """Bring a removed field back, with its values."""
    fields.restore_field(context.database, actor, key)


@router.get("/removed-fields")
def removed_fields(actor: MayLook, context: Context) -> list[RemovedField]:
    """Fields that can be brought back."""
    return fields.removed_fields(context.database, actor)


@router.post("/fields-order", status_code=204)
def order_fields(body: Order, actor: MaySetUp, context: Context) -> None:
    """Put the fields into an order."""
    fields.order_fields(context.database, actor, body.keys)
