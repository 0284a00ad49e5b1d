"""Two audiences side by side: who is in both, before two campaigns reach the same people."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.expressions import InAudience
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.members import require_audience
from uvarovite.services.expressions.criteria import criteria_vocabulary
from uvarovite.store.database import Database
from uvarovite.store.expressions import names as store
from uvarovite.store.expressions.conditions import condition_sql


@dataclass(frozen=True, slots=True, kw_only=True)
class OverlapView:
    """How many are in this audience alone, in both, and in the other alone; hand-picked people included."""

    here: int
    both: int
    there: int


@needs(Permission.LOOK)
def overlap(database: Database, actor: Actor, audience_id: int, other_id: int, now: datetime) -> OverlapView:
    """The overlap of two saved audiences. Raises NotFound."""
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now)
        this, other = (
            condition_sql(
                InAudience(audience=require_audience(tx, one).name),
                known.fields,
                known.clock,
                known.names,
                prefix=prefix,
            )
            for one, prefix in ((audience_id, "a"), (other_id, "b"))
        )
        return OverlapView(**store.overlap(tx, this, other))
