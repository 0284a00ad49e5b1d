"""Letters and messages as files: as one person reads them, as their source, and in our own open format."""

from datetime import datetime
from enum import StrEnum

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages.attachments import is_portable
from uvarovite.core.messages.message_file import FORMAT, FileOrganisation, FileSender, MessageFile
from uvarovite.core.messages.shared_blocks import without_shared
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.messages import get_message
from uvarovite.services.messages.one_letter import LetterAsk, one_letter
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.messages.saved_file import SavedFile
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store import organisation as organisation_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database


class LetterForm(StrEnum):
    """What a person's letter is saved as: a page, its text, a PDF, or the mail itself with what is attached."""

    HTML = "html"
    TEXT = "txt"
    PDF = "pdf"
    MAIL = "eml"


_MEDIA_TYPES = {
    LetterForm.HTML: "text/html; charset=utf-8",
    LetterForm.TEXT: "text/plain; charset=utf-8",
    LetterForm.PDF: "application/pdf",
    LetterForm.MAIL: "message/rfc822",
}


@needs(Permission.HAND_OUT)
def letter_file(
    database: Database, actor: Actor, ask: LetterAsk, form: LetterForm, *, keyring: Keyring, now: datetime
) -> SavedFile:
    """One person's letter as a file, with their data in it. Raises BadInput, NotFound."""
    with database.transaction() as tx:
        letter = one_letter(tx, ask, keyring=keyring, now=now, press=press_of(database))
        audit(tx, actor, Action.LETTER_EXPORTED, ask.contact_id, contact=ask.contact_id, form=form)
    if form is LetterForm.MAIL:
        to_address = str(letter.record.get("address") or letter.letterhead.from_address)
        content = letter.raw(message_id=f"copy.{ask.contact_id}.{now:%Y%m%d%H%M%S}", to_address=to_address)
    elif form is LetterForm.PDF:
        content = letter.pdf()
    else:
        rendered = letter.rendered()
        content = (rendered.html if form is LetterForm.HTML else rendered.text).encode("utf-8", "replace")
    return SavedFile(name=f"letter.{form}", media_type=_MEDIA_TYPES[form], content=content)


@needs(Permission.LOOK)
def letter_source(database: Database, actor: Actor, ask: LetterAsk, *, keyring: Keyring, now: datetime) -> str:
    """One person's letter as it goes over the wire, without the bytes of what is attached. Raises BadInput, NotFound."""
    with database.transaction() as tx:
        letter = one_letter(tx, ask, keyring=keyring, now=now)
    to_address = str(letter.record.get("address") or letter.letterhead.from_address)
    return letter.raw(message_id=f"{ask.contact_id}", to_address=to_address).decode("utf-8", "replace")


@needs(Permission.LOOK)
def message_file(database: Database, actor: Actor, message_id: int) -> SavedFile:
    """A message in our own format (docs/languages/message.md), with the first sender; files stay here. Raises NotFound."""
    view = get_message(database, actor, message_id)
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        sender = next(iter(organisation_store.senders(tx)), None)
        if sender is None:
            raise NotFound("sender")
        portable = tuple(one for one in view.content.attachments if is_portable(one))
        told = MessageFile(
            format=FORMAT,
            content=without_shared(view.content.model_copy(update={"attachments": portable})),
            fields=tuple(field for field in load_fields(tx).values() if not field.standard),
            sender=FileSender(
                name=sender.name, address=sender.address, reply_to=sender.reply_to, signature=sender.signature
            ),
            organisation=FileOrganisation(
                name=organisation.name,
                postal_address=organisation.postal_address,
                locale=organisation.locale,
                time_zone=organisation.time_zone,
            ),
        )
    return SavedFile(
        name=f"{view.name}.json",
        media_type="application/json",
        content=told.model_dump_json(indent=2).encode(),
    )
