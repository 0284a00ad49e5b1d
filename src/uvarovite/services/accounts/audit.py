"""The audit log: who did what, written in the transaction that does it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import (
    ACTIONS,
    Action,
    Actor,
    ActorKind,
    AuditArea,
    Permission,
    actions_said,
    audit_words,
)
from uvarovite.services.accounts.permitted import needs
from uvarovite.store.accounts.audit import audit_lines
from uvarovite.store.database import Database, Transaction
from uvarovite.store.organisation import organisation
from uvarovite.store.tables import AuditEntry

MOST_SHOWN = 200
_LONGEST_FACT = 500


def audit(tx: Transaction, actor: Actor, action: Action, about: int | None = None, **facts: str | int) -> None:
    """Write down that somebody did something; `about` is the id of what it was done to.

    The facts are those that the action's sentence has, no more and no fewer.
    """
    wanted = ACTIONS[action].facts
    if wanted != facts.keys():
        raise ValueError(f"{action} is told with {sorted(wanted)}, not {sorted(facts)}")
    tx.add(
        AuditEntry(
            actor_kind=actor.kind,
            actor_name=actor.name,
            user_id=actor.user_id,
            token_id=actor.token_id,
            action=action,
            about_id=about,
            facts={name: one if isinstance(one, int) else one[:_LONGEST_FACT] for name, one in facts.items()},
        )
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class AuditLine:
    """An entry: `words` follow the name. `area` is None for an action that this version does not know."""

    id: int
    at: datetime
    kind: ActorKind
    name: str
    user_id: int | None
    action: str
    area: AuditArea | None
    about_id: int | None
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AuditPage:
    """Entries, latest first; `more` tells that there are earlier ones."""

    lines: list[AuditLine]
    more: bool


def _area_of(action: str) -> AuditArea | None:
    return ACTIONS[Action(action)].area if action in set(Action) else None


def _actions_in(area: AuditArea | None) -> Sequence[str] | None:
    return [row.action for row in ACTIONS.values() if row.area is area] if area else None


def _midnight(day: date | None, zone: tzinfo) -> datetime | None:
    return datetime.combine(day, time.min, zone) if day else None


@needs(Permission.AUDIT)
def audit_page(
    database: Database,
    actor: Actor,
    *,
    search: str = "",
    area: AuditArea | None = None,
    user_id: int | None = None,
    since: date | None = None,
    until: date | None = None,
    before: int | None = None,
    limit: int = 50,
) -> AuditPage:
    """What was done: by whom, with which words or facts, in which part of the work.

    `since` and `until` are days of the organisation, both included.
    """
    wanted = search.strip()
    limit = min(limit, MOST_SHOWN)
    with database.transaction() as tx:
        founded = organisation(tx)
        zone = ZoneInfo(founded.time_zone) if founded else UTC
        rows = audit_lines(
            tx,
            search=wanted,
            said=actions_said(wanted) if wanted else (),
            actions=_actions_in(area),
            user_id=user_id,
            since=_midnight(since, zone),
            until=_midnight(until + timedelta(days=1), zone) if until and until < date.max else None,
            before=before,
            limit=limit + 1,
        )
    lines = [
        AuditLine(
            id=row.id,
            at=row.at,
            kind=ActorKind(row.actor_kind),
            name=row.actor_name,
            user_id=row.user_id,
            action=row.action,
            area=_area_of(row.action),
            about_id=row.about_id,
            words=audit_words(row.action, row.facts),
        )
        for row in rows[:limit]
    ]
    return AuditPage(lines=lines, more=len(rows) > limit)
