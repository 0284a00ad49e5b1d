"""Two who change the same: the second one is told who was quicker, and how it stands now."""

from uvarovite.services.errors import Conflict
from uvarovite.store.database import Transaction
from uvarovite.store.tables import User


def name_of_user(tx: Transaction, user_id: int | None) -> str | None:
    """Who it was; None where nobody did it by hand."""
    user = tx.get(User, user_id) if user_id is not None else None
    return user.name if user else None


def changed_meanwhile(tx: Transaction, what: str, *, by: int | None, me: int | None, theirs: object) -> Conflict:
    """The conflict of a save that was made from an older state; `by` is who made the newer one."""
    who = name_of_user(tx, by)
    if by is not None and by == me:
        words = f"You changed this {what} in another tab meanwhile."
    else:
        words = f"{who or 'Somebody else'} changed this {what} meanwhile."
    return Conflict("changed", f"{words} Nothing of yours is lost.", theirs)
