"""What waits although it should not: for whoever examines the installation."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.delivery.relay_pools import carry_at
from uvarovite.store.campaigns.planned import with_trouble
from uvarovite.store.database import Database, instant
from uvarovite.store.delivery.queue import overdue_batches
from uvarovite.store.delivery.relays import standings

# A worker looks every second.
_LATE = timedelta(minutes=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """`now` by the database's clock; batches that nobody has taken; and why planned releases did not go."""

    now: datetime
    overdue: int
    not_released: list[str]


def what_waits(database: Database) -> Waiting:
    """What is due and waits."""
    with database.transaction() as tx:
        now = instant(tx)
        return Waiting(
            now=now,
            overdue=overdue_batches(tx, carry_at(standings(tx), now - _LATE), now - _LATE),
            not_released=[f"A planned release did not go: {one.trouble}" for one in with_trouble(tx)],
        )
