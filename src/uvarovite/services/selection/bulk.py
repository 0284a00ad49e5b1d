"""Doing one thing to ticked contacts, or to all that match: tag, set a field, subscribe, leave out, delete, erase.

Each is one transaction and one change set with an undo; what cannot be undone says so before it is done.
"""

import functools
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.consent import NO_EVIDENCE, ConsentEventKind, ConsentEvidence, SuppressionReason
from uvarovite.core.contacts import ReadFault, folded_value, read_value, value_to_json
from uvarovite.core.contacts.acts import REDEFINING, Act, act_words
from uvarovite.core.contacts.validating import LONGEST_TAG, tag_name
from uvarovite.core.messages.attachments import own_name
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.members import member_kind, require_audience
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.contacts.retyping import undo_retype
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.facts import typed_reading
from uvarovite.services.saving.reasons import require_legal_basis, require_reason
from uvarovite.services.selection.table import Wanted, asked_of
from uvarovite.store.audiences.members import pick as pick_members
from uvarovite.store.audiences.members import unpick_change_set
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.contacts.changes import mark_undone, new_change_set, note_contacts, restore_fields
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.tags import ensure_tags, put_tag, tag_of_id, take_tag
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import holding
from uvarovite.store.selection import chosen as store
from uvarovite.store.selection import erased_files, erasure
from uvarovite.store.selection.table import matching_ids_sql
from uvarovite.store.tables import ChangeSet, MemberKind

# Actions that are undone in a way of their own, or not at all.


@dataclass(frozen=True, slots=True, kw_only=True)
class Selection:
    """Either contacts by id, or all that match. `seen` is the number that stood on screen.

    With more or fewer than were seen, nothing is done: somebody else was at work meanwhile.
    """

    ids: tuple[int, ...] | None = None
    wanted: Wanted | None = None
    seen: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class BulkResult:
    """What was done: to how many of those selected, in words, and under which number it is undone (None: it is not)."""

    change_set_id: int | None
    contacts: int
    words: str


def choose(tx: Transaction, selection: Selection, now: datetime) -> int:
    """Put the selected contacts into `chosen`. Raises BadInput when nobody is ticked, Conflict when the number moved."""
    if selection.ids is not None:
        count = store.choose(tx, ids=selection.ids, matching=None)
    elif selection.wanted is not None:
        count = store.choose(tx, ids=None, matching=matching_ids_sql(asked_of(tx, selection.wanted, now)))
    else:
        count = 0
    if count == 0:
        raise BadInput("nobody", "Nobody is ticked. Tick some people, or choose all that match.")
    if count != selection.seen:
        raise Conflict(
            "moved",
            f"You saw {selection.seen:,} people; now there {'is' if count == 1 else 'are'} {count:,}. Nothing was done; look at the table again.",
        )
    return count


def _begin(tx: Transaction, actor: Actor, now: datetime, act: Act, **facts: str | int) -> tuple[int, str]:
    """(change set, what it does in words)."""
    made = new_change_set(tx, at=now, user_id=actor.user_id, channel="bulk", act=act, facts=facts)
    return made, act_words(act, facts)


def _people(count: int) -> str:
    return "1 person" if count == 1 else f"{count:,} people"


@needs(Permission.CONTACTS)
def tag(database: Database, actor: Actor, selection: Selection, *, name: str, put: bool, now: datetime) -> BulkResult:
    """Put a tag on, or take it off. Raises BadInput, Conflict."""
    name = tag_name(name)
    if not name or len(name) > LONGEST_TAG or any(sign in name for sign in ",;|"):
        raise BadInput("tag", f"A tag is a word or a few, at most {LONGEST_TAG} characters, without commas.")
    with database.transaction() as tx:
        choose(tx, selection, now)
        tag_id = ensure_tags(tx, [name])[name]
        name = tag_of_id(tx, tag_id)
        change_set, what = _begin(tx, actor, now, Act.TAGGED if put else Act.UNTAGGED, tag=name)
        move = put_tag if put else take_tag
        hit = move(tx, "SELECT contact_id FROM chosen", {}, tag_id)
        store.note_tags(tx, change_set, hit, name, put=put)
        note_contacts(tx, change_set, len(hit))
        audit(tx, actor, Action.CONTACTS_CHANGED, change_set, people=len(hit), what=what)
        return BulkResult(change_set_id=change_set, contacts=len(hit), words=f"{what}: {_people(len(hit))}.")


@needs(Permission.WRITE)
def pick(
    database: Database,
    actor: Actor,
    selection: Selection,
    *,
    audience_id: int,
    kind: str,
    now: datetime,
) -> BulkResult:
    """Add people to an audience by hand, or leave them out of it. Raises NotFound, BadInput, Conflict."""
    with database.transaction() as tx:
        audience = require_audience(tx, audience_id)
        member = member_kind(kind)
        choose(tx, selection, now)
        act = Act.PICKED if member is MemberKind.ADDED else Act.LEFT_OUT
        change_set, what = _begin(tx, actor, now, act, audience=audience.name)
        hit = pick_members(
            tx,
            "SELECT contact_id FROM chosen",
            {},
            audience_id=audience_id,
            kind=member,
            change_set_id=change_set,
            added_by=actor.user_id,
            at=now,
        )
        note_contacts(tx, change_set, hit)
        audit(tx, actor, Action.CONTACTS_CHANGED, change_set, people=hit, what=what)
        return BulkResult(change_set_id=change_set, contacts=hit, words=f"{what}: {_people(hit)}.")


@needs(Permission.CONTACTS)
def set_field(
    database: Database, actor: Actor, selection: Selection, *, key: str, text: str, now: datetime
) -> BulkResult:
    """Give a field the same value for all; an empty text makes it blank. Raises BadInput, Conflict."""
    with database.transaction() as tx:
        field = load_fields(tx).get(key)
        if field is None or key in ("address", "contact_no"):
            raise BadInput("field", "This field cannot be the same for several people.")
        value = read_value(text, field, typed_reading(tx))
        if isinstance(value, ReadFault):
            raise BadInput(value.code, value.message)
        choose(tx, selection, now)
        if value is None:
            change_set, what = _begin(tx, actor, now, Act.FIELD_BLANKED, field=field.label)
        else:
            change_set, what = _begin(tx, actor, now, Act.FIELD_SET, field=field.label, value=text.strip())
        hit = store.set_field(tx, change_set, key=key, stored=value_to_json(value), folded=folded_value(value), now=now)
        note_contacts(tx, change_set, hit)
        audit(tx, actor, Action.CONTACTS_CHANGED, change_set, people=hit, what=field.label)
        return BulkResult(change_set_id=change_set, contacts=hit, words=f"{what}: {_people(hit)}.")


@needs(Permission.CONTACTS)
def subscribe(
    database: Database, actor: Actor, selection: Selection, *, topic: str, legal_basis: str, now: datetime
) -> BulkResult:
    """State the consent of those selected, with its legal basis; who has left stays out. Raises BadInput, Conflict."""
    legal_basis = require_legal_basis(legal_basis)
    with database.transaction() as tx:
        found = consent_store.topic_by_key(tx, topic)
        if found is None or found.id is None:
            raise BadInput("topic", f"There is no topic “{topic}”.")
        choose(tx, selection, now)
        outlook = store.may_be_subscribed(tx, found.id)
        change_set, what = _begin(tx, actor, now, Act.SUBSCRIBED, topic=found.name)
        hit = consent_store.append_events(
            tx,
            store.MAY_BE_SUBSCRIBED,
            {"topic": found.id},
            topic_id=found.id,
            kind=ConsentEventKind.IMPORTED,
            at=now,
            channel="by_hand",
            evidence=ConsentEvidence(legal_basis=legal_basis, change_set=change_set),
            recorded_by=actor.user_id,
        )
        note_contacts(tx, change_set, hit)
        words = f"{what}: {_people(hit)}."
        if outlook["already"]:
            words += f" {_people(outlook['already'])} were already."
        if outlook["left"]:
            words += f" {_people(outlook['left'])} had left and stay out."
        audit(tx, actor, Action.CONTACTS_CHANGED, change_set, people=hit, what=what)
        return BulkResult(change_set_id=change_set, contacts=hit, words=words)


@needs(Permission.CONTACTS)
def suppress_many(database: Database, actor: Actor, selection: Selection, *, reason: str, now: datetime) -> BulkResult:
    """Put the addresses of those selected on the suppression list. Raises BadInput, Conflict."""
    reason = require_reason(reason, "reason", "Say why these people are suppressed; it stands on the suppression list.")
    with database.transaction() as tx:
        choose(tx, selection, now)
        change_set, _ = _begin(tx, actor, now, Act.SUPPRESSED, reason=reason)
        hit = store.suppress_chosen(tx, change_set, why=reason, at=now, recorded_by=actor.user_id)
        holding.hold_chosen(tx, gate="suppressed", reason="by_hand", now=now)
        note_contacts(tx, change_set, hit)
        words = "1 address" if hit == 1 else f"{hit:,} addresses"
        audit(tx, actor, Action.SUPPRESSED, entries=hit)
        return BulkResult(change_set_id=change_set, contacts=hit, words=f"{words} put on the suppression list.")


@needs(Permission.CONTACTS)
def delete(database: Database, actor: Actor, selection: Selection, *, now: datetime) -> BulkResult:
    """Delete contacts; for 30 days it can be undone. What has not gone out to them is held. Raises BadInput, Conflict."""
    with database.transaction() as tx:
        choose(tx, selection, now)
        change_set, _ = _begin(tx, actor, now, Act.DELETED)
        hit = store.delete_chosen(tx, change_set, now)
        holding.hold_chosen(tx, gate="address", reason="deleted", now=now)
        note_contacts(tx, change_set, hit)
        audit(tx, actor, Action.CONTACTS_DELETED, change_set, people=hit)
        return BulkResult(change_set_id=change_set, contacts=hit, words=f"{_people(hit)} deleted.")


@needs(Permission.ERASE)
def erase(database: Database, actor: Actor, selection: Selection, *, hasher: Hash, now: datetime) -> BulkResult:
    """Erase people for good, as data-protection law gives them a right to. Raises BadInput, Conflict.

    Everything about them goes. A keyed hash of each address stays on the suppression list, so that no import brings
    them back, and the ledger's entries stay, under a number that leads to nobody any more. An address that others have as
    well stays on the list as it is: it is theirs too, but it was the erased person's, who wants nothing there any more.
    """
    with database.transaction() as tx:
        count = choose(tx, selection, now)
        holding.hold_chosen(tx, gate="suppressed", reason="erased", now=now)
        erasure.choose_duplicates(tx)
        _forget_own_files(tx)
        others = 0
        for address in erasure.erase_chosen(tx, now):
            erased = functools.partial(
                suppress, tx, reason=SuppressionReason.ERASED, evidence=NO_EVIDENCE, at=now, recorded_by=actor.user_id
            )
            erased(address_hash=hasher(address))
            erasure.forget_address(tx, address)
            if shared := erasure.have_address(tx, address):
                erased(address_folded=address)
                others += shared
        change_set, _ = _begin(tx, actor, now, Act.ERASED, people=count)
        note_contacts(tx, change_set, count)
        words = f"{_people(count)} erased for good."
        if others:
            words += f" {_people(others)} with the same address will get nothing at it any more."
        audit(tx, actor, Action.CONTACTS_ERASED, people=count)
        return BulkResult(change_set_id=None, contacts=count, words=words)


def _forget_own_files(tx: Transaction) -> None:
    """Let go of the files that were uploaded for those who are chosen and for nobody else."""
    fields = load_fields(tx)
    for source in erased_files.own_file_sources(tx):
        if (own := own_name(source, fields)) is None:
            continue
        values = erased_files.values_of_the_erased(tx, own, standard=fields[own.field].standard)
        if names := {name for value in values if (name := own.of({own.field: value})) is not None}:
            erased_files.forget_own_files(tx, source, sorted(names))


@needs(Permission.CONTACTS)
def undo(database: Database, actor: Actor, change_set_id: int, *, now: datetime) -> BulkResult:
    """Undo a change set, as far as nothing has happened since. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        done = tx.get(ChangeSet, change_set_id, with_for_update=True)
        if done is None or done.channel != "bulk" or done.act == Act.ERASED:
            raise NotFound("change")
        if done.undone_at is not None:
            raise Conflict("undone", "This was undone already.")
        if done.act == Act.DELETED:
            if now - done.at > store.DELETED_LASTS:
                raise Conflict("too_late", f"It was deleted more than {store.DELETED_LASTS.days} days ago.")
            restored, kept = store.bring_back(tx, change_set_id, done.at)
        elif done.act in REDEFINING:
            restored, kept = undo_retype(tx, done, now=now)
        else:
            restored, kept = restore_fields(tx, change_set_id, now=now)
            lifted = store.lift_of_change_set(tx, change_set_id, at=now, user_id=actor.user_id)
            unpicked = unpick_change_set(tx, change_set_id)
            restored = max(restored, lifted, unpicked, _retract(tx, change_set_id, user_id=actor.user_id, now=now))
        mark_undone(tx, change_set_id, now)
        what = act_words(done.act, done.facts)
        words = f"Undone: {what[:1].lower()}{what[1:]}."
        if kept:
            words += f" {_people(kept)} changed since and stay as they are."
        audit(tx, actor, Action.CHANGE_UNDONE, change_set_id, what=what)
        return BulkResult(change_set_id=None, contacts=restored, words=words)


def _retract(tx: Transaction, change_set_id: int, *, user_id: int | None, now: datetime) -> int:
    return sum(
        consent_store.append_events(
            tx,
            store.STILL_ITS_OWN,
            {"topic": row.topic_id, "set": change_set_id},
            topic_id=row.topic_id,
            kind=ConsentEventKind.RETRACTED,
            at=now,
            channel="undone",
            evidence=ConsentEvidence(undone=change_set_id),
            recorded_by=user_id,
        )
        for row in store.subscribed_by(tx, change_set_id)
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLine:
    """A change set in the list of the latest; `undoable` tells whether it still can be taken back."""

    id: int
    at: datetime
    by: str | None
    what: str
    contacts: int
    undoable: bool
    undone: bool


@needs(Permission.LOOK)
def latest_changes(database: Database, actor: Actor, now: datetime, limit: int = 30) -> list[ChangeLine]:
    """What was done to many contacts at once, latest first."""
    with database.transaction() as tx:
        return [
            ChangeLine(
                id=row.id,
                at=row.at,
                by=row.by,
                what=act_words(row.act, row.facts),
                contacts=row.contacts,
                undoable=_undoable(row, now),
                undone=row.undone_at is not None,
            )
            for row in store.latest_change_sets(tx, limit)
        ]


def _undoable(row: Any, now: datetime) -> bool:
    if row.undone_at is not None or row.channel != "bulk" or row.act == Act.ERASED:
        return False
    return bool(row.act != Act.DELETED or now - row.at <= store.DELETED_LASTS)
