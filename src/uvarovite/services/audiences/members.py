"""People who are in an audience, or out of it, by hand."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.audiences import members as store
from uvarovite.store.contacts.records import get_contact
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Audience, MemberKind

MEMBERS_SHOWN = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberLine:
    """Somebody picked by hand: `kind` is added or left_out."""

    id: int
    name: str
    address: str | None
    kind: str
    by: str | None
    at: datetime


def member_kind(text: str) -> MemberKind:
    """A kind by its word. Raises BadInput."""
    if text not in set(MemberKind):
        raise BadInput("kind", "Somebody is added, or left out.")
    return MemberKind(text)


def require_audience(tx: Transaction, audience_id: int) -> Audience:
    """An audience. Raises NotFound."""
    found = tx.get(Audience, audience_id)
    if found is None:
        raise NotFound("audience")
    return found


@needs(Permission.LOOK)
def member_list(database: Database, actor: Actor, audience_id: int) -> list[MemberLine]:
    """The hand-picked of an audience, latest first. Raises NotFound."""
    with database.transaction() as tx:
        require_audience(tx, audience_id)
        return [MemberLine(**row._mapping) for row in store.members(tx, audience_id, MEMBERS_SHOWN)]


@needs(Permission.WRITE)
def pick_one(database: Database, actor: Actor, audience_id: int, contact_id: int, *, kind: str, now: datetime) -> None:
    """Add somebody by hand, or leave them out. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        require_audience(tx, audience_id)
        if get_contact(tx, contact_id) is None:
            raise NotFound("contact")
        store.pick(
            tx,
            "SELECT CAST(:contact AS bigint)",
            {"contact": contact_id},
            audience_id=audience_id,
            kind=member_kind(kind),
            change_set_id=None,
            added_by=actor.user_id,
            at=now,
        )


@needs(Permission.WRITE)
def unpick(database: Database, actor: Actor, audience_id: int, contact_id: int) -> None:
    """Let the criteria alone decide about somebody again. Raises NotFound."""
    with database.transaction() as tx:
        if not store.unpick(tx, audience_id, contact_id):
            raise NotFound("person of the audience")
