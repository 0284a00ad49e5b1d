"""Two who change the same: the second one is told who was quicker, and how it stands now."""

from uvarovite.services.errors import Conflict
from uvarovite.store.database import Transaction
from uvarovite.store.tables import User


def changed_meanwhile(tx: Transaction, what: str, *, by: int | None, me: int | None, theirs: object) -> Conflict:
    """The conflict of a save that was made from an older state; `by` is who made the newer one."""
    who = tx.get(User, by) if by is not None else None
    if who and by == me:
        words = f"You changed this {what} in another tab meanwhile."
    else:
        words = f"{who.name if who else 'Somebody else'} changed this {what} meanwhile."
    return Conflict("changed", f"{words} Nothing of yours is lost.", theirs)
