"""Comments on the words of a message: each at a place in them, open until somebody says that it is done."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.known import require_message
from uvarovite.store import comments as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import MessageComment

MOST_COMMENTS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class CommentView:
    """A comment. It stands at the block with this id in the words of a language, "" for the whole message.

    `quote` is what stood there when it was written; `by` is None for somebody who is known no more.
    """

    id: int
    language: str
    block_id: str
    quote: str
    words: str
    by: str | None
    at: datetime
    done_by: str | None
    done_at: datetime | None


def _views(tx: Transaction, message_id: int) -> list[CommentView]:
    return [
        CommentView(
            id=row.id,
            language=row.language,
            block_id=row.block_id,
            quote=row.quote,
            words=row.words,
            by=row.by,
            at=row.at,
            done_by=row.done_by,
            done_at=row.done_at,
        )
        for row in store.comments_on(tx, message_id)
    ]


@needs(Permission.LOOK)
def comment_list(database: Database, actor: Actor, message_id: int) -> list[CommentView]:
    """The comments on a message, the open ones first. Raises NotFound."""
    with database.transaction() as tx:
        require_message(tx, message_id)
        return _views(tx, message_id)


@needs(Permission.WRITE)
def add_comment(
    database: Database,
    actor: Actor,
    message_id: int,
    *,
    language: str,
    block_id: str,
    quote: str,
    words: str,
    now: datetime,
) -> list[CommentView]:
    """Say something of the words; all comments as they are then. Raises BadInput, NotFound."""
    if not words.strip():
        raise BadInput("no_words", "Write what you want to say of the words.")
    with database.transaction() as tx:
        message, _ = require_message(tx, message_id)
        if store.open_comments(tx, message_id) >= MOST_COMMENTS:
            raise BadInput("many_comments", f"{MOST_COMMENTS} comments are open. Say first of some that they are done.")
        tx.add(
            MessageComment(
                message_id=message_id,
                language=language,
                block_id=block_id,
                quote=quote.strip(),
                words=words.strip(),
                user_id=actor.user_id,
                at=now,
            )
        )
        tx.flush()
        audit(tx, actor, Action.COMMENT_WRITTEN, message_id, name=message.name)
        return _views(tx, message_id)


@needs(Permission.WRITE)
def close_comment(
    database: Database, actor: Actor, message_id: int, comment_id: int, *, done: bool, now: datetime
) -> list[CommentView]:
    """Say of a comment that it is done, or open it again; all comments as they are then. Raises NotFound."""
    with database.transaction() as tx:
        comment = tx.get(MessageComment, comment_id, with_for_update=True)
        if comment is None or comment.message_id != message_id:
            raise NotFound("comment")
        if done is (comment.done_at is None):
            comment.done_by, comment.done_at = (actor.user_id, now) if done else (None, None)
            tx.add(comment)
            tx.flush()
        return _views(tx, message_id)
