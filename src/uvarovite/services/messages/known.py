"""A message by its number, as services ask for it."""

from uvarovite.services.errors import NotFound
from uvarovite.store import messages as store
from uvarovite.store.database import Transaction
from uvarovite.store.tables import Message, MessageVersion


def require_message(tx: Transaction, message_id: int, *, locked: bool = False) -> tuple[Message, MessageVersion]:
    """The message with its latest words; `locked` nobody else changes it before this transaction ends. Raises NotFound."""
    message = tx.get(Message, message_id, with_for_update=locked)
    version = store.latest_version(tx, message_id)
    if message is None or version is None:
        raise NotFound("message")
    return message, version
