"""Shared blocks: written in one place, and in the words of every message that has them as they are now."""

from datetime import datetime

from pydantic import ValidationError

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.shared_blocks import WordsOf, shared_in, with_shared_now
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.messages.known import require_message
from uvarovite.store import messages as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Message, MessageVersion


def with_shared(tx: Transaction, content: MessageContent) -> MessageContent:
    """The words with their shared blocks as they are now, which nobody changes before this transaction ends.

    Raises BadInput where a block names what is not shared.
    """
    wanted = shared_in(content)
    if not wanted:
        return content
    # They come before the message that they stand in, so that two who save never wait for each other.
    found = store.lock_messages(tx, sorted(wanted))
    for number in wanted:
        if number not in found or not found[number].is_shared:
            raise BadInput(
                "not_shared", "A block here is shared no longer. Take it out, or make its words the message's own."
            )
    return _brought(content, lambda number: _words_of(tx, found[number]), "The message")


def _brought(content: MessageContent, words_of: WordsOf, name: str) -> MessageContent:
    try:
        return with_shared_now(content, words_of)
    except ValidationError as fault:
        message = f"{name} would hold more blocks with its shared ones than can be kept. Take some out first."
        raise BadInput("many_blocks", message) from fault


def _words_of(tx: Transaction, message: Message) -> tuple[str, MessageContent] | None:
    latest = store.latest_version(tx, message.id or 0)
    return (message.name, latest.content) if latest else None


def refuse_nested(content: MessageContent) -> None:
    """A shared block holds no shared block, so that none can hold itself. Raises BadInput."""
    if shared_in(content):
        raise BadInput(
            "nested_shared", "A shared block cannot hold another one. Make the words of the inner one its own first."
        )


def pass_on(tx: Transaction, actor: Actor, message: Message, now: datetime) -> None:
    """Give what a shared block says now to every message that has it, as a new version of each. Raises BadInput."""
    words = _words_of(tx, message)
    for other_id, _ in store.messages_using(tx, message.id or 0):
        other = tx.get(Message, other_id, with_for_update=True)
        latest = store.latest_version(tx, other_id)
        if other is None or latest is None or words is None:
            continue
        content = _brought(latest.content, lambda number: words if number == message.id else None, f"“{other.name}”")
        if content == latest.content:
            continue
        other.revision, other.updated_by = other.revision + 1, actor.user_id
        tx.add(other)
        version = MessageVersion(
            message_id=other_id, number=latest.number + 1, content=content, created_by=actor.user_id, created_at=now
        )
        tx.add(version)
        tx.flush()
        audit(tx, actor, Action.MESSAGE_SAVED, other_id, name=other.name, version=version.number)


@needs(Permission.WRITE)
def share(database: Database, actor: Actor, message_id: int, *, shared: bool) -> None:
    """Let the blocks of a message stand in others, or not any more. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        message, latest = require_message(tx, message_id, locked=True)
        if shared:
            refuse_nested(latest.content)
            if campaigns := store.campaigns_of(tx, message_id):
                raise BadInput(
                    "in_campaign",
                    f"It is the message of {', '.join(campaigns)}. Copy it, and share the copy.",
                )
            message.is_starter = False
        elif using := store.messages_using(tx, message_id):
            raise BadInput(
                "in_use",
                f"It stands in {', '.join(name for _, name in using)}. Make its words their own there, or take it out, first.",
            )
        message.is_shared = shared
        tx.add(message)
