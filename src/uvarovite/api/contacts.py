"""Contacts, and bringing people in."""

from typing import Annotated

from fastapi import APIRouter, File, Query, Request, Response, UploadFile

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.contacts import ImportLook, ImportWrite
from uvarovite.services import contacts, imports
from uvarovite.services.contacts import ContactPage, Person
from uvarovite.services.errors import BadInput
from uvarovite.services.import_views import ImportView
from uvarovite.services.imports import LARGEST_UPLOAD_BYTES

router = APIRouter(prefix="/api", tags=["contacts"])


@router.get("/contacts")
def contact_page(
    user: User,
    context: Context,
    search: Annotated[str, Query(max_length=200)] = "",
    after: Annotated[str | None, Query(max_length=2000)] = None,
    limit: int = 100,
) -> ContactPage:
    """A page of contacts by name."""
    return contacts.contact_page(context.database, search=search, after=after, limit=limit)


@router.get("/contacts/{contact_id}")
def person(contact_id: int, user: User, context: Context) -> Person:
    """One contact with everything that is known."""
    return contacts.person(context.database, contact_id)


@router.post("/imports")
def look_at_file(request: Request, user: User, context: Context, file: Annotated[UploadFile, File()]) -> ImportView:
    """Read a file and say what it would do; nothing of it is written yet."""
    largest = LARGEST_UPLOAD_BYTES // 1024 // 1024
    content = file.file.read(LARGEST_UPLOAD_BYTES + 1)
    if len(content) > LARGEST_UPLOAD_BYTES:
        raise BadInput(
            "file_too_large",
            f"The file is larger than {largest} MB. Nothing was brought in. Split it, or use the command "
            "“uvarovite import FILE” on the server, which takes any size.",
        )
    return imports.look_at_file(
        context.database,
        filename=file.filename or "contacts.csv",
        content=content,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.post("/imports/{import_id}/look")
def look_again(import_id: int, body: ImportLook, user: User, context: Context) -> ImportView:
    """The same file with other columns, another encoding or a topic."""
    return imports.look_again(
        context.database, import_id, columns=body.columns, encoding=body.encoding, topic=body.topic
    )


@router.post("/imports/{import_id}/write")
def write_import(import_id: int, body: ImportWrite, user: User, context: Context) -> ImportView:
    """Write a file that was looked at."""
    return imports.write_import(
        context.database,
        import_id,
        topic=body.topic,
        ground=body.ground,
        user_id=user.user_id,
        now=context.clock(),
    )


@router.delete("/imports/{import_id}", status_code=204)
def discard_import(import_id: int, user: User, context: Context) -> None:
    """Forget a file that was looked at and not written."""
    imports.discard_import(context.database, import_id)


@router.get("/imports/{import_id}/refused", response_class=Response)
def refused_file(import_id: int, user: User, context: Context) -> Response:
    """The refused rows as a CSV file, to mend and bring in again."""
    name, text = imports.refused_file(context.database, import_id)
    safe = "".join(sign if sign.isascii() and (sign.isalnum() or sign in " .-_") else "_" for sign in name)
    headers = {"Content-Disposition": f'attachment; filename="{safe}"'}
    return Response(text.encode("utf-8"), media_type="text/csv; charset=utf-8", headers=headers)
