"""Duplicates: found, laid side by side, merged field by field or many by a rule. Consent merges to the narrower."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.consent import (
    REASON_WORDS,
    ConsentEventKind,
    ConsentEvidence,
    ConsentState,
    SuppressionReason,
    narrower,
)
from uvarovite.core.contacts import STANDARD_FIELDS, FieldMap, FieldType, folded_value, value_from_json
from uvarovite.core.contacts.acts import Act
from uvarovite.core.values import Address, read_address
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts import duplicates as store
from uvarovite.store.contacts import people as people_store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.changes import add_change, new_change_set, note_contacts
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import holding
from uvarovite.store.tables import Topic

BY_ADDRESS = "address"
MOST_GROUPS = 500
# More contacts than this are hardly one person: whoever shares their address is a family or an office.
MOST_IN_GROUP = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """One of the contacts that may be the same person; `record` is in stored form, `topics` the state by key.

    `pauses` is when a pause ends, by topic key.
    """

    id: int
    record: dict[str, Any]
    topics: dict[str, str]
    pauses: dict[str, datetime]
    created_at: datetime
    updated_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class DuplicateGroup:
    """Contacts that may be one person, the oldest first, and what they share. `merged` is the consent after a merge.

    `doubt` says why they may not be one: such a group is not merged with all the others. `effects` says what a merge
    does to whom they may be written to.
    """

    what: str
    people: list[Candidate]
    merged: dict[str, str]
    doubt: str | None
    effects: list[str]


@needs(Permission.LOOK)
def duplicate_groups(
    database: Database, actor: Actor, *, by: str = BY_ADDRESS, limit: int = 50, now: datetime
) -> list[DuplicateGroup]:
    """Groups that share an address, or a name and the field `by`. Raises BadInput for a field that holds no text."""
    limit = min(max(limit, 1), MOST_GROUPS)
    with database.transaction() as tx:
        fields = load_fields(tx)
        groups = [(row, _candidates(tx, row.ids[:MOST_IN_GROUP], now)) for row in _found(tx, by, fields, limit)]
        world = _world(tx, [one.id for _, people in groups for one in people])
        return [_group(world, row.what, people, _doubt(row)) for row, people in groups]


def _found(tx: Transaction, by: str, fields: FieldMap, limit: int) -> Sequence[Any]:
    if by == BY_ADDRESS:
        return store.same_address(tx, limit)
    if by not in fields or fields[by].type not in (FieldType.TEXT, FieldType.CHOICE):
        raise BadInput("by", "Choose a field that holds a text or a choice.")
    return store.same_name_and(tx, by, limit)


def _candidates(tx: Transaction, ids: Sequence[int], now: datetime) -> list[Candidate]:
    found = []
    for row in store.people(tx, ids):
        consent = consent_store.consent_of_contact(tx, row.id)
        standard = {f.key: row._mapping[f.key] for f in STANDARD_FIELDS if row._mapping[f.key] is not None}
        found.append(
            Candidate(
                id=row.id,
                record={**standard, **row.own},
                topics={one.key: one.state or ConsentState.NEVER for one in consent},
                pauses={
                    one.key: one.paused_until
                    for one in consent
                    if one.paused_until is not None and one.paused_until > now
                },
                created_at=row.created_at,
                updated_at=row.updated_at,
            )
        )
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class _World:
    """What effects are told with: topics, the organisation's time zone, and what is suppressed of the people's addresses."""

    topics: Sequence[Topic]
    zone: ZoneInfo
    suppressed: Sequence[Any]


def _world(tx: Transaction, ids: Sequence[int]) -> _World:
    return _World(
        topics=consent_store.topics(tx),
        zone=ZoneInfo(require_organisation(tx).time_zone),
        suppressed=store.suppressed_for(tx, ids),
    )


def _doubt(row: Any) -> str | None:
    """Why a group that was found may not be one person; None if nothing speaks against it."""
    if row.first_names > 1:
        return "Their first names differ: perhaps a household that shares an address."
    if row.parted:
        return "Some of them were said to be different people."
    if len(row.ids) > MOST_IN_GROUP:
        return f"{len(row.ids)} contacts are much for one person; these are the first {MOST_IN_GROUP}."
    return None


def _group(world: _World, what: str, people: list[Candidate], doubt: str | None = None) -> DuplicateGroup:
    merged = _merged_consent(people)
    return DuplicateGroup(
        what=what,
        people=people,
        merged=merged,
        doubt=doubt,
        effects=_effects(world, people, merged),
    )


_AFTER = {
    ConsentState.LEFT: "they have left it, as one of them did",
    ConsentState.ASKED: "they are asked and have not answered, as one of them has not",
    ConsentState.NEVER: "they are not opted in, as one of them is not",
}


def _effects(world: _World, people: Sequence[Candidate], merged: Mapping[str, str]) -> list[str]:
    """What a merge does to consent and suppression, a sentence each, wherever they differ."""
    told = []
    for topic in world.topics:
        states = {one.topics.get(topic.key, ConsentState.NEVER) for one in people}
        after = ConsentState(merged.get(topic.key, ConsentState.NEVER))
        pauses = [one.pauses[topic.key] for one in people if topic.key in one.pauses]
        if len(states) > 1 and after in _AFTER:
            told.append(f"{topic.name}: {_AFTER[after]}.")
        elif after is ConsentState.SUBSCRIBED and pauses:
            until = max(pauses).astimezone(world.zone)
            told.append(f"{topic.name}: they pause until {until:%-d %B %Y}.")
    addresses = {one.record.get("address") for one in people if one.record.get("address")}
    more = ", and so is the address that stays" if len(addresses) > 1 else ""
    for row in world.suppressed:
        if any(one.id == row.id for one in people):
            what = f"for {row.topic}" if row.topic else "for all mail"
            told.append(f"{row.address} is suppressed {what} ({REASON_WORDS[SuppressionReason(row.reason)]}){more}.")
    return list(dict.fromkeys(told))


def _merged_consent(people: Sequence[Candidate]) -> dict[str, str]:
    merged: dict[str, str] = dict(people[0].topics) if people else {}
    for one in people[1:]:
        merged = {key: narrower(ConsentState(state), ConsentState(one.topics[key])) for key, state in merged.items()}
    return merged


@needs(Permission.CONTACTS)
def say_different(database: Database, actor: Actor, ids: Sequence[int], *, now: datetime) -> None:
    """Remember that contacts are different people: they are not offered as one again. Raises NotFound for fewer than two."""
    with database.transaction() as tx:
        if len(store.people(tx, ids)) < 2:
            raise NotFound("pair of contacts")
        store.say_different(tx, ids, user_id=actor.user_id, now=now)


@needs(Permission.CONTACTS)
def take_back_different(database: Database, actor: Actor, ids: Sequence[int]) -> None:
    """Forget that contacts were said to be different people."""
    with database.transaction() as tx:
        store.take_back_different(tx, ids)


@needs(Permission.LOOK)
def compare(database: Database, actor: Actor, ids: Sequence[int], now: datetime) -> DuplicateGroup:
    """Contacts side by side. Raises NotFound unless at least two of them are there."""
    with database.transaction() as tx:
        people = _candidates(tx, ids, now)
        if len(people) < 2:
            raise NotFound("pair of contacts")
        return _group(_world(tx, ids), "", people)


@needs(Permission.CONTACTS)
def merge(
    database: Database,
    actor: Actor,
    *,
    kept_id: int,
    gone_ids: Sequence[int],
    choices: Mapping[str, int],
    now: datetime,
) -> None:
    """Make several contacts one. `choices` names, by field key, whose value is taken; else the kept one's, or, where
    that is blank, the first of the others'. Raises NotFound, BadInput.
    """
    with database.transaction() as tx:
        _merge(tx, kept_id, gone_ids, choices, actor.user_id, now)
        audit(tx, actor, Action.CONTACTS_MERGED, kept_id, people=len(gone_ids))


def _merge(
    tx: Transaction,
    kept_id: int,
    gone_ids: Sequence[int],
    choices: Mapping[str, int],
    user_id: int | None,
    now: datetime,
) -> None:
    if kept_id in gone_ids or not gone_ids:
        raise BadInput("merge", "A person is merged with somebody else.")
    for contact_id in sorted([kept_id, *gone_ids]):
        if contact_store.get_contact(tx, contact_id, lock=True) is None:
            raise NotFound("contact")
    people = {one.id: one for one in _candidates(tx, [kept_id, *gone_ids], now)}
    addresses = [row.address_folded for row in store.people(tx, [kept_id, *gone_ids]) if row.address_folded]
    paused = _longest_pauses(tx, [kept_id, *gone_ids])
    kept, gone = people[kept_id], [people[one] for one in gone_ids]
    fields = load_fields(tx)
    names = ", ".join(str(one.record.get("contact_no") or f"contact {one.id}") for one in gone)
    change_set = new_change_set(tx, at=now, user_id=user_id, channel="merge", act=Act.MERGED, facts={"contacts": names})
    narrowed = _merged_consent([kept, *gone])
    # The duplicates go first: a contact number that one of them has is free then.
    for one in gone:
        holding.hold_merged(tx, kept_id=kept_id, gone_id=one.id, now=now)
        store.move_to(tx, kept_id=kept_id, gone_id=one.id, now=now)
    contact_store.write_search(tx, "SELECT unnest(CAST(:ids AS bigint[]))", {"ids": list(gone_ids)})
    changes: dict[str, Any] = {}
    for key in fields:
        before = kept.record.get(key)
        after = _chosen(key, kept, gone, people, choices)
        if after == before:
            continue
        value = value_from_json(after, fields[key])
        address = read_address(after) if key == "address" and isinstance(after, str) else None
        people_store.put_value(
            tx,
            kept_id,
            key,
            stored=after,
            folded=folded_value(value),
            address_folded=address.folded if isinstance(address, Address) else None,
            now=now,
        )
        changes[key] = {"before": before, "after": after}
    add_change(tx, change_set, kept_id, changes)
    note_contacts(tx, change_set, 1 + len(gone))
    store.carry_suppression(tx, kept_id=kept_id, addresses=addresses, now=now)
    _narrow_consent(tx, kept, narrowed, [one.id for one in gone], user_id, now)
    for key, until in paused.items():
        if narrowed[key] == ConsentState.SUBSCRIBED and until > now:
            _append(tx, kept.id, key, ConsentEventKind.PAUSED, [one.id for one in gone], user_id, now, until)


def _chosen(
    key: str, kept: Candidate, gone: Sequence[Candidate], people: Mapping[int, Candidate], choices: Mapping[str, int]
) -> Any:
    if key in choices:
        if choices[key] not in people:
            raise BadInput("merge", "A value is taken from one of those who are merged.")
        return people[choices[key]].record.get(key)
    return next((one.record[key] for one in (kept, *gone) if one.record.get(key) is not None), None)


def _longest_pauses(tx: Transaction, ids: Sequence[int]) -> dict[str, datetime]:
    """By topic key, the latest end of a pause that any of them has."""
    ends: dict[str, datetime] = {}
    for contact_id in ids:
        for row in consent_store.consent_of_contact(tx, contact_id):
            if row.paused_until is not None:
                ends[row.key] = max(row.paused_until, ends.get(row.key, row.paused_until))
    return ends


def _narrow_consent(
    tx: Transaction,
    kept: Candidate,
    narrowed: Mapping[str, str],
    gone_ids: list[int],
    user_id: int | None,
    now: datetime,
) -> None:
    """Append what makes the kept contact's consent as narrow as the narrowest; the ledgers of the others stay."""
    for key, state in narrowed.items():
        if kept.topics[key] == state:
            continue
        left = state == ConsentState.LEFT
        _append(
            tx, kept.id, key, ConsentEventKind.WITHDRAWN if left else ConsentEventKind.RETRACTED, gone_ids, user_id, now
        )
        if state == ConsentState.ASKED:
            _append(tx, kept.id, key, ConsentEventKind.ASKED, gone_ids, user_id, now)


def _append(
    tx: Transaction,
    contact_id: int,
    topic_key: str,
    kind: ConsentEventKind,
    gone_ids: list[int],
    user_id: int | None,
    now: datetime,
    until: datetime | None = None,
) -> None:
    topic = consent_store.topic_by_key(tx, topic_key)
    assert topic is not None
    assert topic.id is not None
    consent_store.append_for_contact(
        tx,
        contact_id,
        topic_id=topic.id,
        kind=kind,
        at=now,
        channel="merge",
        evidence=ConsentEvidence(merged=gone_ids),
        recorded_by=user_id,
        until=until,
    )


@needs(Permission.CONTACTS)
def merge_all(database: Database, actor: Actor, *, by: str, keep: str, seen: int, now: datetime) -> int:
    """Merge every group that is found without a doubt, by a rule: the oldest or the latest changed stays; how many.

    Raises BadInput, also when there are others than the `seen` groups that were on screen.
    """
    if keep not in ("oldest", "latest"):
        raise BadInput("keep", "Keep the oldest, or the latest changed.")
    with database.transaction() as tx:
        found = [row for row in _found(tx, by, load_fields(tx), MOST_GROUPS) if _doubt(row) is None]
        if len(found) != seen:
            there = f"{'is' if len(found) == 1 else 'are'} {len(found)}"
            raise BadInput("moved", f"You saw {seen} groups to merge; now there {there}. Nothing was merged.")
        for people in [_candidates(tx, row.ids, now) for row in found]:
            kept = people[0] if keep == "oldest" else max(people, key=lambda one: (one.updated_at, -one.id))
            _merge(tx, kept.id, [one.id for one in people if one.id != kept.id], {}, actor.user_id, now)
        audit(tx, actor, Action.CONTACTS_MERGED, people=sum(len(row.ids) - 1 for row in found))
        return len(found)
