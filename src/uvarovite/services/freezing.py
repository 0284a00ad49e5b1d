"""Frozen audiences: the people of one moment, whatever becomes of them, and what has changed since."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.expressions import SqlFragment, node_from_json, print_criteria
from uvarovite.services.audience_members import require_audience
from uvarovite.services.audiences import criteria_with_hand_picked
from uvarovite.services.criteria import SampledPerson
from uvarovite.services.errors import Conflict
from uvarovite.store import snapshots as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Audience

NAMES_SHOWN = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftView:
    """How the conditions would choose now: who has come and who is gone since the audience was frozen."""

    frozen_at: datetime
    come: int
    come_people: list[SampledPerson]
    gone: int
    gone_people: list[SampledPerson]


def freeze(database: Database, audience_id: int, now: datetime) -> int:
    """Keep the people of now as the audience's; how many. A frozen audience is frozen anew. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        count = store.take_snapshot(tx, audience_id, _dynamic(tx, audience, now))
        audience.frozen_at = now
        tx.add(audience)
        return count


def thaw(database: Database, audience_id: int) -> None:
    """Let the audience follow its conditions again. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        if audience.frozen_at is None:
            raise Conflict("not_frozen", "This audience follows its conditions already.")
        store.drop_snapshot(tx, audience_id)
        audience.frozen_at = None
        tx.add(audience)


def drift(database: Database, audience_id: int, now: datetime) -> DriftView:
    """What has changed since an audience was frozen. Raises NotFound, Conflict, BadInput."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        if audience.frozen_at is None:
            raise Conflict("not_frozen", "This audience is not frozen.")
        people = _dynamic(tx, audience, now)
        come = store.come_since(tx, audience_id, people, NAMES_SHOWN)
        gone = store.gone_since(tx, audience_id, people, NAMES_SHOWN)
        return DriftView(
            frozen_at=audience.frozen_at,
            come=come[0].n if come else 0,
            come_people=[SampledPerson(id=row.id, name=row.name, address=row.address) for row in come],
            gone=gone[0].n if gone else 0,
            gone_people=[SampledPerson(id=row.id, name=row.name, address=row.address) for row in gone],
        )


def _dynamic(tx: Transaction, audience: Audience, now: datetime) -> SqlFragment:
    text = print_criteria(node_from_json(audience.criteria))
    return criteria_with_hand_picked(tx, text, audience.id, now)
