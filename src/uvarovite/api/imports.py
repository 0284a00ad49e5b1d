"""Importing people.

Looking at a file and writing it are jobs. A request waits a moment for its job; what takes longer goes on by itself, and
the answer says how far it is.
"""

from collections.abc import Iterator
from concurrent.futures import Future
from concurrent.futures import TimeoutError as NotReady
from functools import partial
from typing import Annotated, Any

from fastapi import APIRouter, File, Response, UploadFile

from uvarovite.api.context import ApiContext, Context, MayContacts, MayLook
from uvarovite.api.schemas.contacts import ImportPreviewAsk, ImportWrite, PastedCells
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.core.contacts.import_report import UndoneView
from uvarovite.services.imports import files, jobs, standing, undo, writing
from uvarovite.services.imports.columns import ColumnChoice
from uvarovite.services.imports.previewing import NO_CHANGE, PreviewChange
from uvarovite.services.imports.views import ImportLine, ImportView

router = APIRouter(prefix="/api", tags=["imports"])

# Long enough for a few thousand rows, short enough that nobody wonders.
_PATIENCE_SECONDS = 2.5


def answer_import(context: ApiContext, actor: Actor, import_id: Id, job: "Future[ImportView]") -> ImportView:
    """What a job found, or how far it has come when it takes longer than anybody waits."""
    try:
        return job.result(timeout=_PATIENCE_SECONDS)
    except NotReady:
        return standing.get_import(context.database, actor, import_id)


def _preview(context: ApiContext, actor: Actor, import_id: Id, change: PreviewChange, *, forget: bool) -> ImportView:
    work = partial(
        jobs.preview_job,
        context.database,
        actor,
        import_id,
        hasher=context.hash_address,
        clock=context.clock,
        change=change,
        forget=forget,
    )
    return answer_import(context, actor, import_id, context.jobs.submit(work))


def _bring(context: ApiContext, actor: Actor, filename: str, content: Iterator[bytes]) -> ImportView:
    import_id = files.keep_file(context.database, actor, filename=filename, content=content, now=context.clock())
    return _preview(context, actor, import_id, NO_CHANGE, forget=True)


@router.get("/imports")
def import_list(actor: MayLook, context: Context) -> list[ImportLine]:
    """The imports that were written, latest first."""
    return standing.import_list(context.database, actor)


@router.post("/imports")
def look_at_file(actor: MayContacts, context: Context, file: Annotated[UploadFile, File()]) -> ImportView:
    """Read a file and say what it would do; nothing of it is written yet."""
    content = iter(lambda: file.file.read(1 << 20), b"")
    return _bring(context, actor, file.filename or "contacts.csv", content)


@router.post("/imports/cells")
def look_at_cells(body: PastedCells, actor: MayContacts, context: Context) -> ImportView:
    """The same for cells pasted from a spreadsheet."""
    return _bring(context, actor, "pasted cells", iter([body.text.encode()]))


@router.get("/imports/{import_id}")
def get_import(import_id: Id, actor: MayLook, context: Context) -> ImportView:
    """An import as it stands."""
    return standing.get_import(context.database, actor, import_id)


@router.post("/imports/{import_id}/preview")
def preview_again(import_id: Id, body: ImportPreviewAsk, actor: MayContacts, context: Context) -> ImportView:
    """The same file with other columns, another form, key, topic or tags."""
    form: dict[str, Any] | None = body.form.model_dump(exclude_unset=True) if body.form else None
    change = PreviewChange(
        form=form,
        columns=[ColumnChoice(**one.model_dump()) for one in body.columns] if body.columns is not None else None,
        key=body.key,
        topic=body.topic,
        tags=body.tags,
    )
    return _preview(context, actor, import_id, change, forget=False)


@router.post("/imports/{import_id}/write")
def write_import(import_id: Id, body: ImportWrite, actor: MayContacts, context: Context) -> ImportView:
    """Write a file that was looked at."""
    work = partial(
        jobs.write_job,
        context.database,
        actor,
        import_id,
        topic=body.topic,
        legal_basis=body.legal_basis,
        clock=context.clock,
    )
    return answer_import(context, actor, import_id, context.jobs.submit(work))


@router.post("/imports/{import_id}/undo")
def undo_import(import_id: Id, actor: MayContacts, context: Context) -> UndoneView:
    """Take a whole import back."""
    return undo.undo_import(context.database, actor, import_id, now=context.clock())


@router.delete("/imports/{import_id}", status_code=204)
def discard_import(import_id: Id, actor: MayContacts, context: Context) -> None:
    """Forget a file that was looked at and not written."""
    writing.discard_import(context.database, actor, import_id)


@router.get("/imports/{import_id}/refused", response_class=Response)
def refused_file(import_id: Id, actor: MayContacts, context: Context) -> Response:
    """The refused rows as a CSV file, to mend and import again."""
    name, text = undo.refused_file(context.database, actor, import_id)
    safe = "".join(sign if sign.isascii() and (sign.isalnum() or sign in " .-_") else "_" for sign in name)
    headers = {"Content-Disposition": f'attachment; filename="{safe}"'}
    return Response(text.encode("utf-8"), media_type="text/csv; charset=utf-8", headers=headers)
