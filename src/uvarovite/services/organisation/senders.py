"""Who messages come from."""

from collections.abc import Sequence
from dataclasses import dataclass

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages.sender_words import reply_to_problem, sender_problem
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.addresses import require_address
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.store import organisation as store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Sender, User

LONGEST_NAME = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class SenderChange:
    """A sender as edited; a `revision` of None is a new one. An empty `reply_to` means the address itself.

    Name and `reply_to` may hold inlays, each with a fallback.

    `signature` are the lines that letters are signed with, where the author puts them; only its `users` may release what
    comes from it, everybody who may release where there are none.
    """

    name: str
    address: str
    reply_to: str
    revision: int | None
    signature: str = ""
    users: Sequence[int] = ()


@needs(Permission.SET_UP)
def save_sender(database: Database, actor: Actor, sender_id: int | None, change: SenderChange) -> int:
    """Make or change a sender; its id. Runs that were released keep theirs. Raises BadInput, NotFound, Conflict."""
    name = " ".join(change.name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput("name", f"A sender needs a name of at most {LONGEST_NAME} characters.", field="name")
    address = _address(change.address, "address")
    reply_to = change.reply_to.strip()
    if reply_to and "@{" not in reply_to:
        reply_to = _address(reply_to, "reply_to")
    with database.transaction() as tx:
        fields = load_fields(tx)
        for field, fault in (
            ("name", sender_problem(name, fields)),
            ("reply_to", reply_to_problem(reply_to, fields) if "@{" in reply_to else None),
        ):
            if fault:
                raise BadInput("inlay", fault, field=field)
        others = [one for one in store.senders(tx) if one.id != sender_id]
        if any(one.address.casefold() == address.casefold() for one in others):
            raise BadInput("taken", f"There is a sender with the address {address} already.", field="address")
        sender = tx.get(Sender, sender_id, with_for_update=True) if sender_id is not None else None
        if sender_id is not None and sender is None:
            raise NotFound("sender")
        if sender is None:
            sender = Sender(name=name, address=address, revision=0)
        elif sender.revision != change.revision:
            raise Conflict("changed", "Somebody else changed this sender meanwhile; look at it again.")
        sender.name, sender.address, sender.reply_to = name, address, reply_to or None
        sender.signature = "\n".join(line.strip() for line in change.signature.strip().splitlines())
        sender.users = _users(tx, change.users)
        sender.revision += 1
        tx.add(sender)
        tx.flush()
        audit(tx, actor, Action.SENDER_SAVED, sender.id, name=f"{name} <{address}>")
        return sender.id or 0


def _users(tx: Transaction, user_ids: Sequence[int]) -> list[int]:
    """Those who are there; each once. Raises BadInput for one who never was."""
    users = [tx.get(User, one) for one in sorted(set(user_ids))]
    if not all(users):
        raise BadInput("gone", "One of these people is not there any more. Look at them again.", field="users")
    return [user.id or 0 for user in users if user and user.left_at is None]


def may_send_as(sender: Sender, user_id: int | None) -> bool:
    """May somebody release what comes from a sender? What the installation does by itself is nobody's."""
    return not sender.users or user_id is None or user_id in sender.users


def senders_people(tx: Transaction, sender: Sender) -> str:
    """Who may, in words."""
    names = [user.name for one in sender.users if (user := tx.get(User, one)) and user.left_at is None]
    return " and ".join(filter(None, [", ".join(names[:-1]), *names[-1:]])) or "nobody who is still here"


def _address(text: str, field: str) -> str:
    try:
        return require_address(text)
    except BadInput as fault:
        raise BadInput(fault.code, fault.message, field=field) from fault


@needs(Permission.SET_UP)
def remove_sender(database: Database, actor: Actor, sender_id: int) -> None:
    """Remove a sender that no topic and no campaign uses. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        sender = tx.get(Sender, sender_id, with_for_update=True)
        if sender is None:
            raise NotFound("sender")
        if used := store.uses_of_sender(tx, sender_id):
            raise Conflict("used", f"“{used[0]}” comes from this sender; choose another there first.")
        audit(tx, actor, Action.SENDER_REMOVED, sender_id, name=f"{sender.name} <{sender.address}>")
        tx.delete(sender)
