"""One person changed by hand: a field at a time, tags, notes, what they said about a topic, the suppression list.

A change names the value that stood on screen. When somebody else changed that field meanwhile, nothing is overwritten:
both values are told, and the person decides.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.consent import ConsentEventKind, ConsentEvidence, SuppressionReason, may_be_lifted_by_user
from uvarovite.core.contacts import Field, Folded, ReadFault, folded_value, read_value, value_to_json
from uvarovite.core.contacts.acts import Act
from uvarovite.core.contacts.validating import tag_name
from uvarovite.core.messages import Tracked
from uvarovite.core.values import AddressFault, read_address
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.facts import typed_reading
from uvarovite.services.saving.reasons import require_reason
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent import tracking_wishes
from uvarovite.store.consent.suppressions import erased_hashes, get_suppression, lift, suppress
from uvarovite.store.contacts import people as people_store
from uvarovite.store.contacts import records as store
from uvarovite.store.contacts.changes import add_change, new_change_set, note_contacts
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.tags import ensure_tags, put_tag, tag_of_id, take_tag
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import holding
from uvarovite.store.tables import Contact, ContactNote

LONGEST_NOTE = 5_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Entered:
    """A text as it would be kept: its stored form, folded text, and, for an address, its form for comparing."""

    stored: Any
    folded: Folded | None
    address_folded: str | None


def _read(tx: Transaction, field: Field, text: str, *, contact_id: int | None, hasher: Hash) -> Entered:
    if field.key == "address":
        return _read_address(tx, text, hasher)
    value = read_value(text, field, typed_reading(tx))
    if isinstance(value, ReadFault):
        raise BadInput(value.code, value.message)
    if field.key == "contact_no" and isinstance(value, str) and people_store.number_is_taken(tx, value, contact_id):
        raise BadInput("number_taken", f"Somebody else has the contact number {value} already.")
    return Entered(stored=value_to_json(value), folded=folded_value(value), address_folded=None)


def _read_address(tx: Transaction, text: str, hasher: Hash) -> Entered:
    if not text.strip():
        return Entered(stored=None, folded=None, address_folded=None)
    address = read_address(text)
    if isinstance(address, AddressFault):
        raise BadInput(address.code, address.message)
    if hasher(address.folded) in erased_hashes(tx):
        raise BadInput(
            "erased",
            "The owner of this address asked to be forgotten. They can come back only by signing up themselves.",
        )
    return Entered(stored=address.text, folded=folded_value(address.text), address_folded=address.folded)


def _person(tx: Transaction, contact_id: int) -> Contact:
    contact = store.get_contact(tx, contact_id, lock=True)
    if contact is None:
        raise NotFound("contact")
    return contact


@needs(Permission.CONTACTS)
def change_value(
    database: Database,
    actor: Actor,
    contact_id: int,
    *,
    key: str,
    before: Any,
    text: str,
    hasher: Hash,
    now: datetime,
) -> None:
    """Give one field of a person another value; an empty text makes it blank. `before` is what stood on screen.

    Raises NotFound, BadInput for a text that is no value, Conflict when somebody else changed the field meanwhile.
    """
    with database.transaction() as tx:
        contact = _person(tx, contact_id)
        field = load_fields(tx).get(key)
        if field is None:
            raise NotFound("field")
        current = getattr(contact, key) if field.standard else contact.own.get(key)
        entered = _read(tx, field, text, contact_id=contact_id, hasher=hasher)
        if current == entered.stored:
            return
        if current != before:
            raise Conflict(
                "changed",
                f"Somebody else changed {field.label} meanwhile. Nothing was overwritten; yours stands in the box.",
                current,
            )
        if key in ("address", "contact_no") and entered.stored is None:
            other = contact.contact_no if key == "address" else contact.address
            if other is None:
                raise BadInput("no_key", "A person needs an address or a contact number, or nobody can tell who it is.")
        people_store.put_value(
            tx,
            contact_id,
            key,
            stored=entered.stored,
            folded=entered.folded,
            address_folded=entered.address_folded,
            now=now,
        )
        change_set = new_change_set(
            tx, at=now, user_id=actor.user_id, channel="by_hand", act=Act.FIELD_CHANGED, facts={"field": field.label}
        )
        add_change(tx, change_set, contact_id, {key: {"before": current, "after": entered.stored}})
        note_contacts(tx, change_set, 1)


@needs(Permission.CONTACTS)
def add_person(database: Database, actor: Actor, texts: Mapping[str, str], *, hasher: Hash, now: datetime) -> int:
    """Make a contact by hand from texts by field key; its id. Raises BadInput, also when nobody could tell who it is."""
    with database.transaction() as tx:
        fields = load_fields(tx)
        entered = {
            key: _read(tx, fields[key], text, contact_id=None, hasher=hasher)
            for key, text in texts.items()
            if key in fields and text.strip()
        }
        if "address" not in entered and "contact_no" not in entered:
            raise BadInput("no_key", "A person needs an e-mail address or a contact number.")
        contact = Contact(created_at=now, updated_at=now)
        for key, one in entered.items():
            if fields[key].standard:
                setattr(contact, key, one.stored)
            else:
                contact.own = {**contact.own, key: one.stored}
            if one.address_folded is not None:
                contact.address_folded = one.address_folded
        contact.folded = {key: one.folded for key, one in entered.items() if one.folded is not None}
        tx.add(contact)
        tx.flush()
        assert contact.id is not None
        store.write_search(tx, "SELECT CAST(:touched AS bigint)", {"touched": contact.id})
        change_set = new_change_set(tx, at=now, user_id=actor.user_id, channel="by_hand", act=Act.ADDED)
        add_change(tx, change_set, contact.id, {})
        audit(tx, actor, Action.CONTACT_ADDED, contact.id, contact=contact.id)
        return contact.id


@needs(Permission.CONTACTS)
def change_tag(database: Database, actor: Actor, contact_id: int, name: str, *, put: bool, now: datetime) -> None:
    """Put a tag on one person, or take it off. Raises NotFound, BadInput."""
    name = tag_name(name)
    if not name or len(name) > 60 or any(sign in name for sign in ",;|"):
        raise BadInput("tag", "A tag is a word or a few, at most 60 characters, without commas.")
    with database.transaction() as tx:
        _person(tx, contact_id)
        tag_id = ensure_tags(tx, [name])[name]
        name = tag_of_id(tx, tag_id)
        act = put_tag if put else take_tag
        if act(tx, "SELECT CAST(:one AS bigint)", {"one": contact_id}, tag_id):
            change_set = new_change_set(
                tx,
                at=now,
                user_id=actor.user_id,
                channel="by_hand",
                act=Act.TAGGED if put else Act.UNTAGGED,
                facts={"tag": name},
            )
            change = {"before": None if put else [name], "after": [name] if put else None}
            add_change(tx, change_set, contact_id, {"tags": change})


@needs(Permission.CONTACTS)
def add_note(database: Database, actor: Actor, contact_id: int, text: str, *, now: datetime) -> None:
    """Write something down about a person. Raises NotFound, BadInput."""
    text = text.strip()
    if not text or len(text) > LONGEST_NOTE:
        raise BadInput("note", f"A note has 1 to {LONGEST_NOTE:,} characters.")
    with database.transaction() as tx:
        _person(tx, contact_id)
        tx.add(ContactNote(contact_id=contact_id, at=now, user_id=actor.user_id, text=text))


@needs(Permission.CONTACTS)
def set_wish(database: Database, actor: Actor, contact_id: int, wish: Tracked | None, *, now: datetime) -> None:
    """Enter how much somebody wishes to be noted of what they open and follow; None: as usual. Raises NotFound."""
    with database.transaction() as tx:
        _person(tx, contact_id)
        tracking_wishes.set_wish(tx, contact_id, wish, now)
        audit(tx, actor, Action.WISH_ENTERED, contact_id, contact=contact_id, wish=wish or "as usual")


# What somebody with an account can enter for a person who said so.
_BY_HAND = {
    "granted": ConsentEventKind.GRANTED,
    "confirmed": ConsentEventKind.CONFIRMED,
    "withdrawn": ConsentEventKind.WITHDRAWN,
    "asked": ConsentEventKind.ASKED,
    "paused": ConsentEventKind.PAUSED,
}


@needs(Permission.CONTACTS)
def record_consent(
    database: Database,
    actor: Actor,
    contact_id: int,
    *,
    topic: str,
    kind: str,
    wording: str,
    until: datetime | None,
    for_address: bool | None = None,
    now: datetime | None = None,
) -> None:
    """Enter into the ledger what a person said about a topic, with the wording as evidence.

    Leaving takes effect at once in every run that is on its way. `for_address` says whether leaving or pausing is meant
    for everyone who has the address; None: only where nobody else has it. It is recorded at the database's own instant,
    where `now` tells no other. Raises NotFound, BadInput.
    """
    if kind not in _BY_HAND:
        raise BadInput("kind", f"This can be recorded by hand: {', '.join(_BY_HAND)}.")
    wording = require_reason(
        wording, "wording", "Say how and with which words they said so, such as “by telephone, 14 June”."
    )
    with database.transaction() as tx:
        began = instant(tx, now)
        if (kind == "paused") != (until is not None) or (until is not None and until <= began):
            raise BadInput("until", "A pause needs a day in the future on which it ends.")
        contact = _person(tx, contact_id)
        found = consent_store.topic_by_key(tx, topic)
        if found is None or found.id is None:
            raise NotFound("topic")
        if kind in ("withdrawn", "paused"):
            reason = "left" if kind == "withdrawn" else "paused"
            holding.hold_contact(tx, contact_id, found.id, gate="consent", reason=reason, now=began)
            if for_address and contact.address_folded is not None:
                holding.hold_address(
                    tx, contact.address_folded, found.id, gate="consent", reason=f"{reason}_address", now=began
                )
        consent_store.append_for_contact(
            tx,
            contact_id,
            topic_id=found.id,
            kind=_BY_HAND[kind],
            # Behind whatever was marked as being sent before: holding waited for it.
            at=instant(tx, now),
            channel="by_hand",
            evidence=ConsentEvidence(wording=wording),
            recorded_by=actor.user_id,
            until=until,
            for_address=for_address,
        )
        audit(tx, actor, Action.CONSENT_RECORDED, contact_id, contact=contact_id, topic=found.name, kind=kind)


@needs(Permission.CONTACTS)
def suppress_person(
    database: Database, actor: Actor, contact_id: int, *, topic: str | None, reason: str, now: datetime
) -> None:
    """Put a person's address on the suppression list, for everything or for one topic. Raises NotFound, BadInput."""
    reason = require_reason(reason, "reason", "Say why; it stands on the suppression list.")
    with database.transaction() as tx:
        contact = _person(tx, contact_id)
        if contact.address_folded is None:
            raise BadInput("no_address", "This person has no address that could be suppressed.")
        found = consent_store.topic_by_key(tx, topic) if topic else None
        if topic and found is None:
            raise NotFound("topic")
        topic_id = found.id if found else None
        holding.hold_suppressed(
            tx, address_folded=contact.address_folded, domain=None, topic_id=topic_id,
            reason=SuppressionReason.BY_HAND, now=now,
        )  # fmt: skip
        suppress(
            tx,
            reason=SuppressionReason.BY_HAND,
            evidence=ConsentEvidence(why=reason),
            at=now,
            address_folded=contact.address_folded,
            topic_id=topic_id,
            recorded_by=actor.user_id,
        )
        audit(tx, actor, Action.SUPPRESSED, contact_id, entries=1)


@needs(Permission.LIFT)
def lift_suppression(database: Database, actor: Actor, suppression_id: int, *, reason: str, now: datetime) -> None:
    """Take an entry off the suppression list. Raises NotFound, BadInput, and Conflict where only the person may."""
    reason = require_reason(reason, "reason", "Say why the entry is taken off.")
    with database.transaction() as tx:
        entry = get_suppression(tx, suppression_id)
        if entry is None:
            raise NotFound("entry")
        if not may_be_lifted_by_user(SuppressionReason(entry.reason)):
            raise Conflict("theirs", "Only the person themselves can open this again, by signing up.")
        lift(tx, suppression_id, at=now, user_id=actor.user_id, why=reason)
        audit(tx, actor, Action.SUPPRESSION_LIFTED, suppression_id, suppression=suppression_id)
