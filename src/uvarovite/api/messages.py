"""Messages, the lens and test sends."""

import secrets
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, File, Path, Response, UploadFile

from uvarovite.api.context import Context, MayHandOut, MayLook, MayWrite
from uvarovite.api.handing_out import handed_out
from uvarovite.api.schemas.messages import (
    CommentClose,
    CommentNew,
    InlayAsk,
    LensAsk,
    LensPersonAsk,
    LetterAsk,
    MessageNew,
    MessageSave,
    MessageShelf,
    TestAsk,
    TestListSave,
)
from uvarovite.api.schemas.values import Count, Id
from uvarovite.core.accounts import Actor
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import LARGEST_BYTES as LARGEST_ATTACHMENT_BYTES
from uvarovite.core.messages.from_files import LARGEST_BYTES
from uvarovite.core.messages.pictures import LARGEST_BYTES as LARGEST_PICTURE_BYTES
from uvarovite.services.messages import (
    attachments,
    comments,
    from_files,
    letter_files,
    library,
    messages,
    one_letter,
    pictures,
    shared_blocks,
    test_lists,
)
from uvarovite.services.messages.attachments import AttachmentView
from uvarovite.services.messages.comments import CommentView
from uvarovite.services.messages.from_files import FileWords
from uvarovite.services.messages.inlays import InlayView, look_at_inlay
from uvarovite.services.messages.lens import LensPerson, LensView, lens_person, look_through_lens
from uvarovite.services.messages.letter_files import LetterForm
from uvarovite.services.messages.library import MessageLine, MessagePicture, VersionLine
from uvarovite.services.messages.messages import MessageView
from uvarovite.services.messages.pictures import PictureView
from uvarovite.services.messages.test_lists import TestReaders
from uvarovite.services.organisation.single_mails import HandedOver

router = APIRouter(prefix="/api", tags=["messages"])


@router.get("/messages")
def message_list(actor: MayLook, context: Context) -> list[MessageLine]:
    """All messages by latest change."""
    return library.message_list(context.database, actor)


@router.get("/messages/{message_id}")
def get_message(message_id: Id, actor: MayLook, context: Context) -> MessageView:
    """One message with its latest words."""
    return messages.get_message(context.database, actor, message_id)


@router.post("/messages")
def make_message(body: MessageNew, actor: MayWrite, context: Context) -> MessageView:
    """Make a message."""
    return _save(None, body, actor, context, shared=body.shared is True)


@router.put("/messages/{message_id}")
def change_message(message_id: Id, body: MessageSave, actor: MayWrite, context: Context) -> MessageView:
    """Save a message as a new version."""
    return _save(message_id, body, actor, context)


def _save(
    message_id: int | None, body: MessageSave, actor: Actor, context: Context, *, shared: bool = False
) -> MessageView:
    return messages.save_message(
        context.database,
        actor,
        message_id=message_id,
        name=body.name,
        content=body.content,
        revision=body.revision,
        shared=shared,
        now=context.clock(),
    )


@router.post("/messages/{message_id}/copies")
def copy_message(message_id: Id, actor: MayWrite, context: Context) -> MessageView:
    """A new message with the words of another, or of a starter."""
    return library.copy_message(context.database, actor, message_id, context.clock())


@router.patch("/messages/{message_id}")
def shelve_message(message_id: Id, body: MessageShelf, actor: MayWrite, context: Context) -> list[MessageLine]:
    """Put a message away or back, let new ones begin as it, or its blocks stand in others; the list as it is then."""
    if body.put_away is not None:
        library.put_away(context.database, actor, message_id, away=body.put_away, now=context.clock())
    if body.is_starter is not None:
        library.keep_as_starter(context.database, actor, message_id, starter=body.is_starter)
    if body.is_shared is not None:
        shared_blocks.share(context.database, actor, message_id, shared=body.is_shared)
    return library.message_list(context.database, actor)


@router.post("/messages/from-file")
def words_from_file(actor: MayWrite, context: Context, file: Annotated[UploadFile, File()]) -> FileWords:
    """The words of an HTML, Word, Markdown, text or mail file as those of a message; nothing is saved yet."""
    data = file.file.read(LARGEST_BYTES + 1)
    return from_files.words_from_file(context.database, actor, data=data, filename=file.filename or "letter.txt")


@router.get("/pictures")
def picture_list(actor: MayLook, context: Context) -> list[PictureView]:
    """The pictures that letters can show, those uploaded last first."""
    return pictures.picture_list(context.database, actor, public_url=context.public_url)


@router.post("/pictures")
def keep_picture(actor: MayWrite, context: Context, file: Annotated[UploadFile, File()]) -> PictureView:
    """Keep a picture for letters, scaled to what they show."""
    return pictures.keep_picture(
        context.database,
        actor,
        data=file.file.read(LARGEST_PICTURE_BYTES + 1),
        filename=file.filename or "picture",
        public_url=context.public_url,
        now=context.clock(),
    )


@router.get("/attachments")
def attachment_list(actor: MayLook, context: Context) -> list[AttachmentView]:
    """The files that can go with messages, those uploaded last first."""
    return attachments.attachment_list(context.database, actor)


@router.post("/attachments")
def keep_attachment(actor: MayWrite, context: Context, file: Annotated[UploadFile, File()]) -> AttachmentView:
    """Keep a file that can go with messages."""
    data = file.file.read(LARGEST_ATTACHMENT_BYTES + 1)
    return attachments.keep_attachment(
        context.database, actor, data=data, filename=file.filename or "file", now=context.clock()
    )


@router.get("/attachments/{digest}", response_class=Response)
def attachment_content(
    digest: Annotated[str, Path(max_length=64, pattern=r"^[0-9a-f]+$")], actor: MayLook, context: Context
) -> Response:
    """A file as readers get it, to be kept and not to be shown: whatever it holds does nothing here."""
    return handed_out(attachments.attachment_content(context.database, actor, digest))


@router.get("/messages/{message_id}/picture")
def message_picture(message_id: Id, actor: MayLook, context: Context) -> MessagePicture:
    """A message as a picture of itself, without anybody's data."""
    return library.picture_of(context.database, actor, message_id, keyring=context.keyring, now=context.clock())


@router.get("/messages/{message_id}/versions")
def version_list(message_id: Id, actor: MayLook, context: Context) -> list[VersionLine]:
    """The versions of a message, the latest first."""
    return library.version_list(context.database, actor, message_id)


@router.get("/messages/{message_id}/versions/{number}")
def get_version(message_id: Id, number: Count, actor: MayLook, context: Context) -> MessageContent:
    """The words of one version."""
    return library.get_version(context.database, actor, message_id, number)


@router.post("/lens")
def lens(body: LensAsk, actor: MayLook, context: Context) -> LensView:
    """A message composed for one person."""
    return look_through_lens(
        context.database,
        actor,
        content=body.content,
        topic_id=body.topic_id,
        sender_id=body.sender_id,
        contact_id=body.contact_id,
        keyring=context.keyring,
        now=context.clock(),
    )


@router.post("/lens/person")
def person_in_lens(body: LensPersonAsk, actor: MayLook, context: Context) -> LensPerson:
    """A cleared person whose letter can be looked at, and their place among all of them."""
    return lens_person(
        context.database,
        actor,
        content=body.content,
        criteria=body.criteria,
        audience_id=body.audience_id,
        campaign_id=body.campaign_id,
        topic_id=body.topic_id,
        contact_id=body.contact_id,
        step=body.step,
        fallbacks=body.fallbacks,
        now=context.clock(),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class LetterSource:
    """A letter as it goes over the wire, without the bytes of what is attached."""

    source: str


@router.post("/lens/source")
def letter_source(body: LetterAsk, actor: MayLook, context: Context) -> LetterSource:
    """The source of one person's letter."""
    ask = one_letter.LetterAsk(**dict(body))
    source = letter_files.letter_source(context.database, actor, ask, keyring=context.keyring, now=context.clock())
    return LetterSource(source=source)


@router.post("/lens/file/{form}", response_class=Response)
def letter_file(form: LetterForm, body: LetterAsk, actor: MayHandOut, context: Context) -> Response:
    """One person's letter to be kept: as a page, as text, or as the mail itself."""
    ask = one_letter.LetterAsk(**dict(body))
    return handed_out(
        letter_files.letter_file(context.database, actor, ask, form, keyring=context.keyring, now=context.clock())
    )


@router.get("/messages/{message_id}/file", response_class=Response)
def message_file(message_id: Id, actor: MayLook, context: Context) -> Response:
    """A message in our own format, to be kept, or read by another installation."""
    return handed_out(letter_files.message_file(context.database, actor, message_id))


@router.post("/inlay")
def inlay(body: InlayAsk, actor: MayLook, context: Context) -> InlayView:
    """One inlay by itself: what is wrong with it, its formats, and what one person reads there."""
    return look_at_inlay(
        context.database,
        actor,
        source=body.source,
        variable=body.variable,
        listed=body.listed,
        contact_id=body.contact_id,
        language=body.language,
        keyring=context.keyring,
        now=context.clock(),
    )


@router.get("/messages/{message_id}/comments")
def comment_list(message_id: Id, actor: MayLook, context: Context) -> list[CommentView]:
    """The comments on a message, the open ones first."""
    return comments.comment_list(context.database, actor, message_id)


@router.post("/messages/{message_id}/comments")
def add_comment(message_id: Id, body: CommentNew, actor: MayWrite, context: Context) -> list[CommentView]:
    """Say something of the words; all comments as they are then."""
    return comments.add_comment(
        context.database,
        actor,
        message_id,
        language=body.language,
        block_id=body.block_id,
        quote=body.quote,
        words=body.words,
        now=context.clock(),
    )


@router.put("/messages/{message_id}/comments/{comment_id}")
def close_comment(
    message_id: Id, comment_id: Id, body: CommentClose, actor: MayWrite, context: Context
) -> list[CommentView]:
    """Say of a comment that it is done, or open it again; all comments as they are then."""
    return comments.close_comment(context.database, actor, message_id, comment_id, done=body.done, now=context.clock())


@router.get("/test-lists")
def readers_of_tests(actor: MayWrite, context: Context) -> TestReaders:
    """Whom tests can go to by name: colleagues and lists."""
    return test_lists.readers_of_tests(context.database, actor)


@router.post("/test-lists")
def keep_test_list(body: TestListSave, actor: MayWrite, context: Context) -> TestReaders:
    """Keep addresses as a list; all lists as they are then."""
    return test_lists.keep_test_list(
        context.database, actor, name=body.name, addresses=body.addresses, now=context.clock()
    )


@router.delete("/test-lists/{list_id}")
def remove_test_list(list_id: Id, actor: MayWrite, context: Context) -> TestReaders:
    """Forget a list; all lists as they are then."""
    return test_lists.remove_test_list(context.database, actor, list_id)


@router.post("/test-send")
async def test_send(body: TestAsk, actor: MayWrite, context: Context) -> HandedOver:
    """Send one person's message to somebody else, and say what the relay answered."""
    return await context.send_test(
        actor,
        content=body.content,
        message_id=body.message_id,
        contact_id=body.contact_id,
        to_address=body.to_address or actor.email,
        marked=body.marked,
        topic_id=body.topic_id,
        sender_id=body.sender_id,
        pool_id=body.pool_id,
        test_id=secrets.token_hex(8),
    )
