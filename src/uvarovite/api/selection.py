"""Doing one thing to many contacts: change, export, send to a colleague, undo."""

import secrets

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from uvarovite.api.context import Context, MayContacts, MayErase, MayExport, MayHandOut, MayLook, MayWrite
from uvarovite.api.schemas.selection import (
    ExportAsk,
    PickMany,
    SetMany,
    SubscribeMany,
    SuppressMany,
    TableMailAsk,
    TagMany,
    WhoOnly,
)
from uvarovite.api.schemas.values import Id
from uvarovite.services.organisation.single_mails import HandedOver
from uvarovite.services.selection import bulk, exports, table_mail
from uvarovite.services.selection.bulk import BulkResult, ChangeLine
from uvarovite.services.selection.table_mail import Colleague, TableMailLine

router = APIRouter(prefix="/api", tags=["bulk"])


@router.post("/bulk/tag")
def tag(body: TagMany, actor: MayContacts, context: Context) -> BulkResult:
    """Put a tag on many, or take it off."""
    return bulk.tag(
        context.database,
        actor,
        body.who.selection(),
        name=body.name,
        put=body.put,
        now=context.clock(),
    )


@router.post("/bulk/pick")
def pick(body: PickMany, actor: MayWrite, context: Context) -> BulkResult:
    """Add many to an audience by hand, or leave them out of it."""
    return bulk.pick(
        context.database,
        actor,
        body.who.selection(),
        audience_id=body.audience_id,
        kind=body.kind,
        now=context.clock(),
    )


@router.post("/bulk/set-field")
def set_field(body: SetMany, actor: MayContacts, context: Context) -> BulkResult:
    """Give a field the same value for many."""
    return bulk.set_field(
        context.database,
        actor,
        body.who.selection(),
        key=body.key,
        text=body.text,
        now=context.clock(),
    )


@router.post("/bulk/subscribe")
def subscribe(body: SubscribeMany, actor: MayContacts, context: Context) -> BulkResult:
    """State the consent of many, with its legal basis."""
    return bulk.subscribe(
        context.database,
        actor,
        body.who.selection(),
        topic=body.topic,
        legal_basis=body.legal_basis,
        now=context.clock(),
    )


@router.post("/bulk/suppress")
def suppress(body: SuppressMany, actor: MayContacts, context: Context) -> BulkResult:
    """Put the addresses of many on the suppression list."""
    return bulk.suppress_many(context.database, actor, body.who.selection(), reason=body.reason, now=context.clock())


@router.post("/bulk/delete")
def delete(body: WhoOnly, actor: MayContacts, context: Context) -> BulkResult:
    """Delete many; it can be undone for 30 days."""
    return bulk.delete(context.database, actor, body.who.selection(), now=context.clock())


@router.post("/bulk/erase")
def erase(body: WhoOnly, actor: MayErase, context: Context) -> BulkResult:
    """Erase many for good."""
    return bulk.erase(
        context.database,
        actor,
        body.who.selection(),
        hasher=context.hash_address,
        now=context.clock(),
    )


@router.post("/bulk/export", response_class=StreamingResponse)
def export(body: ExportAsk, actor: MayExport, context: Context) -> StreamingResponse:
    """Many as a file."""
    made = exports.export(
        context.database, actor, body.who.selection(), columns=body.columns, form=body.form, now=context.clock()
    )
    headers = {"Content-Disposition": f'attachment; filename="{made.filename}"'}
    return StreamingResponse(made.pieces, media_type=made.media_type, headers=headers)


@router.post("/bulk/mail")
async def mail_table(body: TableMailAsk, actor: MayHandOut, context: Context) -> HandedOver:
    """Send many as a table to a colleague."""
    return await context.send_table(
        actor,
        selection=body.who.selection(),
        columns=body.columns,
        form=body.form,
        to_address=body.to_address,
        note=body.note,
        mail_id=secrets.token_hex(8),
    )


@router.get("/table-mails")
def sent_tables(actor: MayLook, context: Context) -> list[TableMailLine]:
    """The tables that were sent, latest first."""
    return table_mail.sent_tables(context.database, actor)


@router.get("/colleagues")
def colleague_list(actor: MayLook, context: Context) -> list[Colleague]:
    """Everybody with an account."""
    return table_mail.colleagues(context.database, actor)


@router.get("/changes")
def latest_changes(actor: MayLook, context: Context) -> list[ChangeLine]:
    """What was done to many at once, latest first."""
    return bulk.latest_changes(context.database, actor, context.clock())


@router.post("/changes/{change_set_id}/undo")
def undo(change_set_id: Id, actor: MayContacts, context: Context) -> BulkResult:
    """Undo a change set."""
    return bulk.undo(context.database, actor, change_set_id, now=context.clock())
