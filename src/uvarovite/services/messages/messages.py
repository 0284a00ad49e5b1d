"""Messages: their versions and their checks."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages import (
    Letterhead,
    MessageContent,
    check_message,
    mended,
)
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.services.expressions.criteria import ProblemView, problem_view
from uvarovite.services.messages.attachments import without_lost_files
from uvarovite.services.messages.composing import letterhead_for
from uvarovite.services.messages.known import require_message
from uvarovite.services.messages.shared_blocks import pass_on, refuse_nested, with_shared
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.saving.conflicts import changed_meanwhile
from uvarovite.store import messages as store
from uvarovite.store import organisation as organisation_store
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.drafts import forget_draft
from uvarovite.store.tables import DraftKind, Message, MessageVersion, Sender, Topic


@dataclass(frozen=True, slots=True, kw_only=True)
class PartProblemView:
    """A problem and the part of the message where it stands."""

    part: str
    problem: ProblemView


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageView:
    """A message with its latest words; `revision` goes back with a change, `number` is that of the version of its words.

    The blocks of one that `is_shared` stand in the messages `used_in`.
    """

    id: int
    name: str
    revision: int
    number: int
    content: MessageContent
    problems: list[PartProblemView]
    updated_at: datetime
    is_shared: bool
    used_in: list[str]


def problem_views(content: MessageContent, fields: FieldMap) -> list[PartProblemView]:
    """What is wrong with the words."""
    return [
        PartProblemView(
            part=found.part, problem=problem_view(found.problem, found.source, mended(found, fields), shown=True)
        )
        for found in check_message(content, fields)
    ]


def message_view(tx: Transaction, message: Message, version: MessageVersion) -> MessageView:
    """A message within a transaction."""
    content = version.content
    return MessageView(
        id=message.id or 0,
        name=message.name,
        revision=message.revision,
        number=version.number,
        content=content,
        problems=problem_views(content, load_fields(tx)),
        updated_at=version.created_at,
        is_shared=message.is_shared,
        used_in=[name for _, name in store.messages_using(tx, message.id or 0)] if message.is_shared else [],
    )


@needs(Permission.LOOK)
def get_message(database: Database, actor: Actor, message_id: int) -> MessageView:
    """One message. Raises NotFound."""
    with database.transaction() as tx:
        return message_view(tx, *require_message(tx, message_id))


@needs(Permission.WRITE)
def save_message(
    database: Database,
    actor: Actor,
    *,
    message_id: int | None,
    name: str,
    content: MessageContent,
    revision: int | None,
    shared: bool = False,
    now: datetime,
) -> MessageView:
    """Save words as a new version; words with problems can be saved, they cannot be released.

    Shared blocks in them become what they are now, and files for one person that are not kept any more go; what a shared
    one says goes to every message that has it. With `shared` a new one begins as such.

    Raises BadInput, NotFound, and Conflict when somebody changed the message after `revision`.
    """
    if not name.strip():
        raise BadInput("no_name", "Give the message a name.")
    with database.transaction() as tx:
        if store.name_is_taken(tx, name.strip(), but=message_id):
            raise BadInput("taken", f"There is a message “{name.strip()}” already.")
        content = without_lost_files(tx, with_shared(tx, content))
        message = tx.get(Message, message_id, with_for_update=True) if message_id else None
        if message_id and message is None:
            raise NotFound("message")
        latest = store.latest_version(tx, message_id) if message_id else None
        if message is None:
            message = Message(name=name.strip(), created_at=now, revision=0, is_shared=shared)
        elif latest and message.revision != revision:
            raise changed_meanwhile(
                tx, "message", by=message.updated_by, me=actor.user_id, theirs=message_view(tx, message, latest)
            )
        if actor.user_id is not None:
            forget_draft(tx, DraftKind.MESSAGE, message_id or 0, actor.user_id)
        if message.is_shared:
            refuse_nested(content)
        same_words = latest is not None and latest.content == content
        if latest and same_words and message.name == name.strip():
            return message_view(tx, message, latest)
        message.name, message.revision, message.updated_by = name.strip(), message.revision + 1, actor.user_id
        tx.add(message)
        tx.flush()
        if latest and same_words:
            if message.is_shared:
                pass_on(tx, actor, message, now)
            return message_view(tx, message, latest)
        version = MessageVersion(
            message_id=message.id or 0,
            number=(latest.number + 1) if latest else 1,
            content=content,
            created_by=actor.user_id,
            created_at=now,
        )
        tx.add(version)
        tx.flush()
        audit(tx, actor, Action.MESSAGE_SAVED, message.id, name=message.name, version=version.number)
        if message.is_shared:
            pass_on(tx, actor, message, now)
        return message_view(tx, message, version)


def letterhead_or_first(tx: Transaction, topic_id: int | None, sender_id: int | None, keyring: Keyring) -> Letterhead:
    """What a message reads besides the record; the first topic and sender where none is chosen. Raises ServiceRefusal."""
    organisation = require_organisation(tx)
    topic = tx.get(Topic, topic_id) if topic_id else None
    sender = tx.get(Sender, sender_id) if sender_id else None
    sender = sender or next(iter(organisation_store.senders(tx)), None)
    if sender is None:
        raise ServiceRefusal("no_sender", "Nobody is set up to write in the organisation's name yet.")
    topic = topic or next(iter(consent_store.topics(tx)), None)
    if topic is None:
        raise ServiceRefusal("no_topic", "There is no topic yet.")
    return letterhead_for(organisation, topic, sender, public_url="", keyring=keyring)
