"""What is kept for how long."""

from datetime import datetime

from uvarovite.store.database import Database
from uvarovite.store.selection import erasure as store


def let_go_of_deleted(database: Database, now: datetime) -> int:
    """Blank contacts whose deletion can be undone no more, some thousands at most; how many.

    Nothing keeps them from coming back by a file, as it does those who were erased. What was sent to them stays.
    """
    with database.transaction() as tx:
        hit = store.choose_long_deleted(tx, now)
        if hit:
            store.blank_chosen(tx, now)
        return hit
