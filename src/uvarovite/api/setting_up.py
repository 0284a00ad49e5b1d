"""Fields, topics and the suppression list, as they are set up."""

from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.setting_up import (
    CareSave,
    FieldChange,
    FieldSave,
    Order,
    SuppressText,
    TopicOrder,
    TopicSave,
)
from uvarovite.api.schemas.values import Id
from uvarovite.services import caps, fields, retyping, suppressions, topics
from uvarovite.services.caps import CareView
from uvarovite.services.errors import BadInput
from uvarovite.services.fields import RemovedField
from uvarovite.services.retyping import RetypeReport
from uvarovite.services.suppressions import LARGEST_LIST_BYTES, ListReport, SuppressionPage

router = APIRouter(prefix="/api", tags=["set-up"])


@router.post("/fields")
def make_field(body: FieldSave, user: User, context: Context) -> str:
    """Make a field; its key."""
    return fields.make_field(context.database, body.draft())


@router.post("/fields/{key}/preview")
def preview_retype(key: str, body: FieldSave, user: User, context: Context) -> RetypeReport:
    """What changing a field would do to its values."""
    return retyping.preview_retype(context.database, key, body.draft())


@router.post("/fields/{key}/misfits.csv", response_class=Response)
def misfits_file(key: str, body: FieldSave, user: User, context: Context) -> Response:
    """Every value that changing a field would lose, as CSV."""
    headers = {"Content-Disposition": 'attachment; filename="values that do not fit.csv"'}
    text = retyping.misfits_file(context.database, key, body.draft())
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.put("/fields/{key}")
def change_field(key: str, body: FieldChange, user: User, context: Context) -> RetypeReport:
    """Rename or retype a field."""
    return retyping.change_field(
        context.database,
        key,
        body.draft(),
        lose=body.lose,
        amounts=body.said(),
        user_id=user.user_id,
        now=context.clock(),
    )


@router.delete("/fields/{key}", status_code=204)
def remove_field(key: str, user: User, context: Context) -> None:
    """Remove a field; it can be brought back."""
    fields.remove_field(context.database, key, now=context.clock())


@router.post("/fields/{key}/restore", status_code=204)
def restore_field(key: str, user: User, context: Context) -> None:
    """Bring a removed field back, with its values."""
    fields.restore_field(context.database, key)


@router.get("/removed-fields")
def removed_fields(user: User, context: Context) -> list[RemovedField]:
    """Fields that can be brought back."""
    return fields.removed_fields(context.database)


@router.post("/fields-order", status_code=204)
def order_fields(body: Order, user: User, context: Context) -> None:
    """Put the fields into an order."""
    fields.order_fields(context.database, body.keys)


@router.post("/topics")
def make_topic(body: TopicSave, user: User, context: Context) -> int:
    """Make a topic; its id."""
    return topics.save_topic(context.database, topic_id=None, **body.model_dump())


@router.post("/topics-order", status_code=204)
def order_topics(body: TopicOrder, user: User, context: Context) -> None:
    """Put the topics into an order."""
    topics.order_topics(context.database, body.ids)


@router.put("/topics/{topic_id}")
def change_topic(topic_id: Id, body: TopicSave, user: User, context: Context) -> int:
    """Change a topic."""
    return topics.save_topic(context.database, topic_id=topic_id, **body.model_dump())


@router.delete("/topics/{topic_id}", status_code=204)
def remove_topic(topic_id: Id, user: User, context: Context) -> None:
    """Remove a topic that nobody was ever asked about."""
    topics.remove_topic(context.database, topic_id)


@router.get("/care")
def get_care(user: User, context: Context) -> CareView:
    """How often a person may be written to, and which of several records is kept."""
    return caps.care(context.database)


@router.put("/care", status_code=204)
def change_care(body: CareSave, user: User, context: Context) -> None:
    """Set the caps, and which record is kept."""
    caps.change_care(context.database, CareView(**body.model_dump()))


@router.get("/suppressions")
def suppression_page(
    user: User,
    context: Context,
    search: Annotated[str, Query(max_length=320)] = "",
    reason: Annotated[str | None, Query(max_length=20)] = None,
    before: Id | None = None,
) -> SuppressionPage:
    """A page of the suppression list."""
    return suppressions.suppression_page(context.database, search=search, reason=reason, before=before)


@router.post("/suppressions")
def suppress(body: SuppressText, user: User, context: Context) -> bool:
    """Put an address or a domain on the list; false when it stands there already."""
    return suppressions.suppress_by_text(
        context.database, body.text, reason=body.reason, user_id=user.user_id, now=context.clock()
    )


@router.post("/suppressions/file")
def bring_in_list(user: User, context: Context, file: Annotated[UploadFile, File()]) -> ListReport:
    """Bring in a suppression list from elsewhere."""
    content = file.file.read(LARGEST_LIST_BYTES + 1)
    if len(content) > LARGEST_LIST_BYTES:
        raise BadInput("file_too_large", f"The list is larger than {LARGEST_LIST_BYTES >> 20} MB. Split it.")
    return suppressions.bring_in_list(
        context.database, content, filename=file.filename or "list", user_id=user.user_id, now=context.clock()
    )


@router.get("/suppressions.csv", response_class=Response)
def list_as_csv(user: User, context: Context) -> Response:
    """The whole list as CSV."""
    headers = {"Content-Disposition": 'attachment; filename="suppression list.csv"'}
    text = suppressions.list_as_csv(context.database)
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)
