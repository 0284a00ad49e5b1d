"""What has changed in an audience: since it was frozen, and since the last run that went to it."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import Again, Caps
from uvarovite.core.expressions import print_criteria
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql, everybody_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.audiences.members import require_audience
from uvarovite.services.errors import Conflict
from uvarovite.services.expressions.completion import SampledPerson
from uvarovite.store.audiences import snapshots as store
from uvarovite.store.audiences.differences import Difference, Found
from uvarovite.store.campaigns.campaigns import last_run_of_audience
from uvarovite.store.campaigns.previews import difference_to_run
from uvarovite.store.database import Database
from uvarovite.store.tables import Campaign, MessageVersion

NAMES_SHOWN = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Changes:
    """How many have come and how many are gone, and some of them."""

    come: int
    come_people: list[SampledPerson]
    gone: int
    gone_people: list[SampledPerson]


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftView(Changes):
    """How the conditions would choose now: who has come and who is gone since the audience was frozen."""

    frozen_at: datetime


@needs(Permission.WRITE)
def freeze(database: Database, actor: Actor, audience_id: int, now: datetime) -> int:
    """Keep the people of now as the audience's; how many. A frozen audience is frozen anew. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        count = store.take_snapshot(tx, audience_id, everybody_sql(tx, audience, now))
        audience.frozen_at = now
        tx.add(audience)
        audit(tx, actor, Action.AUDIENCE_FROZEN, audience_id, name=audience.name)
        return count


@needs(Permission.WRITE)
def thaw(database: Database, actor: Actor, audience_id: int) -> None:
    """Let the audience follow its conditions again. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        if audience.frozen_at is None:
            raise Conflict("not_frozen", "This audience updates by itself already.")
        store.drop_snapshot(tx, audience_id)
        audience.frozen_at = None
        tx.add(audience)
        audit(tx, actor, Action.AUDIENCE_THAWED, audience_id, name=audience.name)


@needs(Permission.LOOK)
def drift(database: Database, actor: Actor, audience_id: int, now: datetime) -> DriftView:
    """What has changed since an audience was frozen. Raises NotFound, Conflict, BadInput."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        if audience.frozen_at is None:
            raise Conflict("not_frozen", "This audience is not frozen.")
        people = everybody_sql(tx, audience, now)
        changed = store.difference_to_snapshot(tx, audience_id, people, NAMES_SHOWN)
        return DriftView(frozen_at=audience.frozen_at, **_changes(changed))


@dataclass(frozen=True, slots=True, kw_only=True)
class SinceRunView(Changes):
    """Who would get it now and did not get it in the last run, and who got it and would not any more.

    Whoever got it is held by what they had since, which is no change of the audience: caps and repeats are left out.
    """

    campaign_id: int
    campaign: str
    released_at: datetime
    planned: int


@needs(Permission.LOOK)
def since_last_run(database: Database, actor: Actor, audience_id: int, now: datetime) -> SinceRunView | None:
    """What has changed since the last run to an audience; None before the first. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        run = last_run_of_audience(tx, audience_id)
        if run is None:
            return None
        people = audience_sql(tx, print_criteria(audience.criteria), audience_id, now)
        campaign = tx.get(Campaign, run.campaign_id)
        version = tx.get(MessageVersion, run.message_version_id)
        content = version.content if version else None
        terms = replace(
            terms_for(tx, topic_id=run.topic_id, now=now, campaign=campaign, content=content),
            caps=Caps(),
            again=Again.EVERYBODY,
        )
        changed = difference_to_run(tx, run.id, people, terms, NAMES_SHOWN)
        return SinceRunView(
            campaign_id=run.campaign_id,
            campaign=run.campaign,
            released_at=run.released_at,
            planned=run.planned,
            **_changes(changed),
        )


def _changes(changed: Difference) -> dict[str, Any]:
    def some(found: Found) -> list[SampledPerson]:
        return [SampledPerson(id=id_, name=name, address=address) for id_, name, address in found.people]

    return {
        "come": changed.come.count,
        "come_people": some(changed.come),
        "gone": changed.gone.count,
        "gone_people": some(changed.gone),
    }
