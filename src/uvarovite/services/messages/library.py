"""The messages that there are: their list, starters, copies, what is put away, and their versions."""

from dataclasses import dataclass
from datetime import datetime
from itertools import count

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.expressions import Clock
from uvarovite.core.messages import MessageContent, check_message, plain_links
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.composing import maker_now
from uvarovite.services.messages.known import require_message
from uvarovite.services.messages.messages import MessageView, letterhead_or_first, message_view
from uvarovite.store import messages as store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.tables import Message, MessageVersion


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageLine:
    """A message in the list, the campaigns that send it, and the messages that have its blocks if it is shared.

    One that was put away stands behind the others.
    """

    id: int
    name: str
    number: int
    subject: str
    updated_at: datetime
    put_away_at: datetime | None
    is_starter: bool
    is_shared: bool
    campaigns: list[str]
    used_in: list[str]


@needs(Permission.LOOK)
def message_list(database: Database, actor: Actor) -> list[MessageLine]:
    """All messages by latest change."""
    with database.transaction() as tx:
        return [
            MessageLine(
                id=row.id,
                name=row.name,
                number=row.number,
                subject=row.subject,
                updated_at=row.updated_at,
                put_away_at=row.put_away_at,
                is_starter=row.is_starter,
                is_shared=row.is_shared,
                campaigns=row.campaigns,
                used_in=row.used_in,
            )
            for row in store.message_list(tx)
        ]


@needs(Permission.WRITE)
def copy_message(database: Database, actor: Actor, message_id: int, now: datetime) -> MessageView:
    """A new message with the words of another, or of a starter. Raises NotFound."""
    with database.transaction() as tx:
        message, version = require_message(tx, message_id)
        begin = message.name if message.is_starter else f"Copy of {message.name}"
        # No name is longer than the form of a message takes.
        names = (begin[:190] if number == 1 else f"{begin[:190]} {number}" for number in count(1))
        name = next(one for one in names if not store.name_is_taken(tx, one))
        copied = Message(name=name, created_at=now, revision=1, updated_by=actor.user_id)
        tx.add(copied)
        tx.flush()
        first = MessageVersion(
            message_id=copied.id or 0, number=1, content=version.content, created_by=actor.user_id, created_at=now
        )
        tx.add(first)
        tx.flush()
        audit(tx, actor, Action.MESSAGE_SAVED, copied.id, name=name, version=1)
        return message_view(tx, copied, first)


@needs(Permission.WRITE)
def put_away(database: Database, actor: Actor, message_id: int, *, away: bool, now: datetime) -> None:
    """Take a message out of the lists, or put it back; what uses it goes on using it. Raises NotFound."""
    with database.transaction() as tx:
        message, _ = require_message(tx, message_id)
        message.put_away_at = now if away else None
        tx.add(message)
        audit(tx, actor, Action.MESSAGE_PUT_AWAY if away else Action.MESSAGE_PUT_BACK, message_id, name=message.name)


@needs(Permission.WRITE)
def keep_as_starter(database: Database, actor: Actor, message_id: int, *, starter: bool) -> None:
    """Let new messages begin as this one, or not any more. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        message, _ = require_message(tx, message_id)
        message.is_starter = starter
        if starter and message.is_shared:
            raise BadInput(
                "shared", "Its blocks are shared with other messages. Copy it, and let new ones begin as the copy."
            )
        tx.add(message)


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionLine:
    """A version: who saved it and when, and the runs that sent it."""

    number: int
    subject: str
    created_at: datetime
    by: str | None
    runs: list[str]


@needs(Permission.LOOK)
def version_list(database: Database, actor: Actor, message_id: int) -> list[VersionLine]:
    """The versions of a message, the latest first. Raises NotFound."""
    with database.transaction() as tx:
        require_message(tx, message_id)
        return [
            VersionLine(number=row.number, subject=row.subject, created_at=row.created_at, by=row.by, runs=row.runs)
            for row in store.version_list(tx, message_id)
        ]


@needs(Permission.LOOK)
def get_version(database: Database, actor: Actor, message_id: int, number: int) -> MessageContent:
    """The words of one version. Raises NotFound."""
    with database.transaction() as tx:
        version = store.version_by_number(tx, message_id, number)
        if version is None:
            raise NotFound("version")
        return version.content


@dataclass(frozen=True, slots=True, kw_only=True)
class MessagePicture:
    """A message as somebody reads it of whom nothing is known; "" where its words have a fault."""

    html: str


@needs(Permission.LOOK)
def picture_of(database: Database, actor: Actor, message_id: int, *, keyring: Keyring, now: datetime) -> MessagePicture:
    """A message as a picture of itself: nobody's data is in it. Raises NotFound."""
    with database.transaction() as tx:
        _, version = require_message(tx, message_id)
        fields, content = load_fields(tx), version.content
        if check_message(content, fields):
            return MessagePicture(html="")
        letterhead = letterhead_or_first(tx, None, None, keyring)
        context = letterhead.context({}, Clock.at(now, letterhead.time_zone), content.language)
        letter = maker_now(tx, content, fields).render({}, context, plain_links(), letterhead.footer(None))
        return MessagePicture(html=letter.html)
