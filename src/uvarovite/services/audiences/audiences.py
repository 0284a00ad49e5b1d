"""Audiences: criteria with a name, the people who were picked by hand, and the condition that they make."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import Places, Share, part_words
from uvarovite.core.contacts import FieldType
from uvarovite.core.expressions import (
    Clock,
    NameKind,
    SqlFragment,
    audiences_in,
    parse_criteria,
    print_criteria,
)
from uvarovite.core.values import fold
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.expressions.criteria import criteria_sql, narrow
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.saving.conflicts import changed_meanwhile
from uvarovite.services.saving.renaming import rename_in_criteria
from uvarovite.store.audiences import audiences as store
from uvarovite.store.audiences.clearance import of_snapshot, with_hand_picked
from uvarovite.store.audiences.members import member_counts
from uvarovite.store.campaigns.campaigns import campaigns_using
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.drafts import forget_draft
from uvarovite.store.tables import Audience, DraftKind, MemberKind


def audience_sql(tx: Transaction, text: str, audience_id: int | None, now: datetime) -> SqlFragment:
    """The condition of an audience: the part that is chosen of those who match, with its hand-picked people.

    Of a frozen audience the part is cut from the snapshot, unless `text` is something else than what was saved: then it
    is being edited. Raises BadInput.
    """
    audience = tx.get(Audience, audience_id) if audience_id is not None else None
    if audience is not None and audience.frozen_at is not None and text == _text_of(audience):
        people = of_snapshot(Clock.at(now, require_organisation(tx).time_zone).now)
    else:
        people = criteria_sql(tx, text, now, audience_id)
    if audience is not None:
        people = narrow(audience, load_fields(tx), people)
    return with_hand_picked(people, audience_id, any_added=_any_added(tx, audience_id))


def everybody_sql(tx: Transaction, audience: Audience, now: datetime) -> SqlFragment:
    """Whom criteria and hands choose now, whatever part of them the audience consists of. Raises BadInput."""
    people = criteria_sql(tx, _text_of(audience), now, audience.id)
    return with_hand_picked(people, audience.id, any_added=_any_added(tx, audience.id))


def _any_added(tx: Transaction, audience_id: int | None) -> bool:
    return audience_id is not None and member_counts(tx, audience_id).get(MemberKind.ADDED, 0) > 0


def _text_of(audience: Audience) -> str:
    return print_criteria(audience.criteria)


@dataclass(frozen=True, slots=True, kw_only=True)
class UsedIn:
    """What uses an audience: a `campaign`, or another `audience` whose criteria refer to it."""

    kind: Literal["campaign", "audience"]
    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AudienceView:
    """An audience; `revision` goes back with a change, so that nobody's work is overwritten.

    `added` and `left_out` count the people picked by hand; `used_in` is what would miss it.
    """

    id: int
    name: str
    text: str
    revision: int
    updated_at: datetime
    used_in: list[UsedIn]
    added: int
    left_out: int
    frozen_at: datetime | None
    part: Places | Share | None
    part_words: str | None


def _audience_view(tx: Transaction, audience: Audience) -> AudienceView:
    assert audience.id is not None
    picked = member_counts(tx, audience.id)
    part = audience.part
    field = load_fields(tx).get(part.spread_over) if part and part.spread_over else None
    return AudienceView(
        id=audience.id,
        name=audience.name,
        text=_text_of(audience),
        revision=audience.revision,
        updated_at=audience.updated_at,
        used_in=_used_in(tx, audience, store.audiences(tx)),
        added=picked.get(MemberKind.ADDED, 0),
        left_out=picked.get(MemberKind.LEFT_OUT, 0),
        frozen_at=audience.frozen_at,
        part=part,
        part_words=part_words(part, field) if part else None,
    )


def _used_in(tx: Transaction, audience: Audience, everything: Iterable[Audience]) -> list[UsedIn]:
    assert audience.id is not None
    campaigns = [UsedIn(kind="campaign", id=row.id, name=row.name) for row in campaigns_using(tx, audience.id)]
    return campaigns + [
        UsedIn(kind="audience", id=other.id or 0, name=other.name)
        for other in everything
        if any(fold(one.audience) == fold(audience.name) for one in audiences_in(other.criteria))
    ]


@needs(Permission.LOOK)
def audience_list(database: Database, actor: Actor) -> list[AudienceView]:
    """All audiences by name."""
    with database.transaction() as tx:
        return [_audience_view(tx, audience) for audience in store.audiences(tx)]


@needs(Permission.WRITE)
def save_audience(
    database: Database,
    actor: Actor,
    *,
    audience_id: int | None,
    name: str,
    text: str,
    part: Places | Share | None = None,
    revision: int | None,
    now: datetime,
) -> AudienceView:
    """Make or change an audience, with the part of those who match that it consists of (None: all).

    Raises BadInput for criteria or a part with a fault, Conflict when it changed meanwhile.
    """
    if not name.strip():
        raise BadInput("no_name", "Give the audience a name.")
    with database.transaction() as tx:
        criteria_sql(tx, text, now, audience_id)
        _require_spread(tx, part)
        audience = tx.get(Audience, audience_id, with_for_update=True) if audience_id else None
        if audience_id and audience is None:
            raise NotFound("audience")
        if any(fold(other.name) == fold(name.strip()) and other.id != audience_id for other in store.audiences(tx)):
            raise BadInput("taken", f"There is an audience “{name.strip()}” already.")
        criteria = parse_criteria(text)
        if audience is None:
            audience = Audience(
                name=name.strip(), criteria=criteria, part=part, updated_by=actor.user_id, updated_at=now
            )
        else:
            if revision != audience.revision:
                raise changed_meanwhile(
                    tx, "audience", by=audience.updated_by, me=actor.user_id, theirs=_audience_view(tx, audience)
                )
            if audience.frozen_at is not None and print_criteria(criteria) != _text_of(audience):
                raise Conflict("frozen", "The audience is frozen. Let it follow its conditions before you change them.")
            rename_in_criteria(tx, NameKind.AUDIENCE, audience.name, name.strip())
            audience.name, audience.criteria, audience.part = name.strip(), criteria, part
            audience.revision, audience.updated_by, audience.updated_at = audience.revision + 1, actor.user_id, now
        tx.add(audience)
        tx.flush()
        if actor.user_id is not None:
            forget_draft(tx, DraftKind.AUDIENCE, audience_id or 0, actor.user_id)
        audit(tx, actor, Action.AUDIENCE_SAVED, audience.id, name=audience.name)
        return _audience_view(tx, audience)


def _require_spread(tx: Transaction, part: Places | Share | None) -> None:
    """Raises BadInput for a part that is spread over no field."""
    if part is not None and part.spread_over is not None:
        field = load_fields(tx).get(part.spread_over)
        if field is None or field.type is FieldType.LIST:
            raise BadInput("field", "There is no such field to spread over; a list cannot be spread over.")


@needs(Permission.WRITE)
def delete_audience(database: Database, actor: Actor, audience_id: int) -> None:
    """Remove an audience that no campaign uses. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        audience = tx.get(Audience, audience_id, with_for_update=True)
        if audience is None:
            raise NotFound("audience")
        for used in _used_in(tx, audience, store.audiences(tx)):
            if used.kind == "campaign":
                raise Conflict("used", f"The campaign “{used.name}” goes to this audience; choose another there first.")
            raise Conflict("used", f"The audience “{used.name}” refers to this one; change its criteria first.")
        audit(tx, actor, Action.AUDIENCE_DELETED, audience_id, name=audience.name)
        forget_draft(tx, DraftKind.AUDIENCE, audience_id, None)
        tx.delete(audience)
