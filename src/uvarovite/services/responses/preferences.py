"""The preference page: what somebody gets and how often, and what is known of them, changed by nobody but them.

Whoever has a message's token has the mailbox that it went to. So what they say here is their own word: it opens and closes
topics for the address, and takes effect at once in every run that is on its way.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.consent import LIFTED_BY_PERSON_ALONE, ConsentEventKind, ConsentEvidence, SuppressionReason
from uvarovite.core.consent.own_limit import AtMost
from uvarovite.core.contacts import ReadFault, folded_value, read_value, value_to_json
from uvarovite.core.contacts.acts import Act
from uvarovite.core.messages import Tracked
from uvarovite.core.messages.look import Look
from uvarovite.core.responses import Keyring, ResponseDetail
from uvarovite.core.responses.form_fields import FormField, correctable, fits_a_line, form_field
from uvarovite.core.responses.preferences import FIELDS, PAUSE, Standing, Wishes, form_back, own_name
from uvarovite.services.organisation.facts import require_organisation, typed_reading
from uvarovite.services.responses.reader import LEAVING, Reader, owner_of, reader_of
from uvarovite.services.responses.visits import Visit, admit
from uvarovite.store.consent import closings, own_limits, tracking_wishes
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent.suppressions import lift, suppress, suppressions_of
from uvarovite.store.contacts import people as people_store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.changes import add_change, new_change_set, note_contacts
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import holding
from uvarovite.store.responses import add_event
from uvarovite.store.tables import Contact, ContactNote
from uvarovite.store.tables.responses import ResponseKind

CHANNEL = "preferences"
# What only they can open; and whoever reads what came to an address has one that is there.
_THEIRS_TO_LIFT = LIFTED_BY_PERSON_ALONE | {SuppressionReason.HARD_BOUNCE}


@dataclass(frozen=True, slots=True, kw_only=True)
class TopicChoice:
    """A topic, and whether somebody gets it."""

    id: int
    name: str
    description: str
    on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PreferencePage:
    """How everything stands for somebody. `saved`: that was just changed, and `back` is the form that takes it back; `language` is a
    code, None where none is known.
    """

    organisation: str
    look: Look
    address: str
    language: str | None
    first_name: str
    last_name: str
    topics: tuple[TopicChoice, ...]
    at_most: AtMost | None
    paused_until: datetime | None
    fields: tuple[FormField, ...]
    noted: Tracked
    time_zone: str
    saved: bool
    back: tuple[tuple[str, str], ...] = ()

    @property
    def standing(self) -> Standing:
        """The same, as its form says it."""
        texts = {"at_most": self.at_most or "", "noted": self.noted.value, "language": self.language or ""}
        texts |= {"first_name": self.first_name, "last_name": self.last_name}
        return Standing(
            topics=frozenset(one.id for one in self.topics if one.on),
            texts=texts | {own_name(field.key): field.value for field in self.fields},
            paused=self.paused_until is not None,
        )


def preference_page(
    database: Database, token: str, visit: Visit, *, keyring: Keyring, now: datetime
) -> PreferencePage | None:
    """The page of whoever has a token, None for one that is none of ours. Changes nothing. Raises TooManyVisits."""
    read = admit(database, token, LEAVING, visit, keyring, now)
    with database.transaction() as tx:
        reader = reader_of(tx, read)
        contact = owner_of(tx, reader)
        return _page(tx, reader, contact, now, saved=False) if reader and contact else None


def save_preferences(
    database: Database,
    token: str,
    visit: Visit,
    wishes: Wishes,
    *,
    said: Callable[[PreferencePage], str],
    keyring: Keyring,
    now: datetime,
    at: datetime | None = None,
) -> PreferencePage | None:
    """Do what somebody wishes; None for a token that is none of ours. `said` tells what the page said.

    It is recorded at the database's own instant, where `at` tells no other. Raises TooManyVisits.
    """
    read = admit(database, token, LEAVING, visit, keyring, now)
    with database.transaction() as tx:
        reader = reader_of(tx, read, locked=True)
        contact = owner_of(tx, reader)
        if reader is None or contact is None:
            return None
        before = _page(tx, reader, contact, now, saved=False)
        evidence = ConsentEvidence(
            delivery=reader.delivery.id if reader.delivery else None,
            agent=visit.agent[:300],
            origin=visit.origin,
            page="preferences",
            wording=said(before),
            why=wishes.why or None,
        )
        _Change(tx, reader, contact, evidence, at).make(wishes)
        tx.expire(contact)
        after = _page(tx, reader, contact, now, saved=True)
        return replace(after, back=form_back(before.standing, after.standing))


def stay(
    database: Database,
    token: str,
    visit: Visit,
    *,
    wording: str,
    keyring: Keyring,
    now: datetime,
    at: datetime | None = None,
) -> bool:
    """Take back that somebody left the topic of a message, by their own word; False for a token that is none of ours.

    Raises TooManyVisits.
    """
    read = admit(database, token, LEAVING, visit, keyring, now)
    with database.transaction() as tx:
        reader = reader_of(tx, read, locked=True)
        contact = owner_of(tx, reader)
        if reader is None or contact is None:
            return False
        evidence = ConsentEvidence(
            delivery=reader.delivery.id if reader.delivery else None,
            agent=visit.agent[:300],
            origin=visit.origin,
            page="leaving",
            wording=wording,
        )
        for standing in _standing(tx, reader, contact):
            if standing.id in reader.topics and not standing.on:
                _Change(tx, reader, contact, evidence, at).open(standing.id)
        return True


def _standing(tx: Transaction, reader: Reader, contact: Contact) -> list[TopicChoice]:
    assert contact.id is not None
    listed = suppressions_of(tx, reader.mailbox)
    # Whoever is on the list gets nothing, whatever they opted in to.
    silent = any(entry.topic is None for entry in listed)
    about = {topic.id: topic for topic in consent_store.topics(tx)}
    inner = set(require_organisation(tx).inner_topics)
    standing = [
        TopicChoice(
            id=row.id,
            name=row.name,
            description=about[row.id].description,
            on=not silent
            and row.state == "subscribed"
            and not row.left_address
            and not closings.is_closed(tx, reader.mailbox, row.id),
        )
        for row in consent_store.consent_of_contact(tx, contact.id)
    ]
    # One that is not offered to everybody sees who gets it, and who has just left it by this message.
    return [one for one in standing if one.on or one.id not in inner or one.id in reader.topics]


def _page(tx: Transaction, reader: Reader, contact: Contact, now: datetime, *, saved: bool) -> PreferencePage:
    assert contact.id is not None
    organisation = require_organisation(tx)
    return PreferencePage(
        organisation=organisation.name,
        look=organisation.look or Look(),
        address=reader.address,
        language=contact.language,
        first_name=contact.first_name or "",
        last_name=contact.last_name or "",
        topics=tuple(_standing(tx, reader, contact)),
        at_most=own_limits.limit_of(tx, contact.id),
        paused_until=_paused_until(tx, contact.id, now),
        fields=_own_fields(tx, contact),
        noted=tracking_wishes.wish_of(tx, contact.id) or Tracked.BY_PERSON,
        time_zone=organisation.time_zone,
        saved=saved,
    )


def _own_fields(tx: Transaction, contact: Contact) -> tuple[FormField, ...]:
    """The organisation's own fields that people may correct, as they stand."""
    fields = load_fields(tx)
    return tuple(
        form_field(fields[key], value)
        for key in require_organisation(tx).page_fields
        if key in fields
        and correctable(fields[key])
        # What an input of one line would change by itself stays out of reach.
        and fits_a_line(value := _as_filled_in(contact.own.get(key)))
    )


def _as_filled_in(stored: Any) -> str:
    if isinstance(stored, bool):
        return "yes" if stored else "no"
    return str(stored) if stored is not None else ""


def _paused_until(tx: Transaction, contact_id: int, now: datetime) -> datetime | None:
    pauses = [row.paused_until for row in consent_store.consent_of_contact(tx, contact_id) if row.paused_until]
    return max((one for one in pauses if one > now), default=None)


class _Change:
    """What somebody says of themselves, written with its evidence."""

    def __init__(
        self, tx: Transaction, reader: Reader, contact: Contact, evidence: ConsentEvidence, at: datetime | None
    ) -> None:
        assert contact.id is not None
        self._tx, self._reader, self._contact, self._evidence, self._at = tx, reader, contact, evidence, at
        self._contact_id = contact.id
        self._mailbox = reader.mailbox

    @property
    def _now(self) -> datetime:
        """This instant: what was marked before it is marked for good, once holding has waited for it."""
        return instant(self._tx, self._at)

    def make(self, wishes: Wishes) -> None:
        """All of it, in one transaction."""
        known = {one.id: one for one in _standing(self._tx, self._reader, self._contact)}
        self._write_fields(wishes.fields)
        if wishes.noted is not None:
            tracking_wishes.set_wish(self._tx, self._contact_id, wishes.noted, self._now)
        if wishes.why and wishes.is_nothing:
            # Words without a deed are kept where somebody reads them.
            said = f"On their preference page: {wishes.why}"
            if all(note.text != said for note in people_store.notes_of(self._tx, self._contact_id)):
                self._tx.add(ContactNote(contact_id=self._contact_id, at=self._now, user_id=None, text=said))
        if wishes.leaves_all:
            self._leave_all([one.id for one in known.values() if one.on])
            return
        changed = {topic: on for topic, on in wishes.topics.items() if topic in known and known[topic].on != on}
        for topic_id, on in changed.items():
            (self.open if on else self._close)(topic_id)
        if False in changed.values():
            self._note_left()
        mine = [topic for topic, one in known.items() if wishes.topics.get(topic, one.on)]
        # Pressed twice, it is done once.
        is_paused = _paused_until(self._tx, self._contact_id, self._now) is not None
        if wishes.pauses and not is_paused:
            for topic_id in mine:
                self._pause(topic_id)
        elif wishes.resumes and is_paused:
            for topic_id in mine:
                self.open(topic_id)
        if wishes.at_most is not None or wishes.limit_lifted:
            own_limits.set_limit(self._tx, self._contact_id, wishes.at_most, self._now)
        if wishes.at_most is not None:
            holding.hold_beyond_limit(self._tx, self._contact_id, wishes.at_most, self._now)

    def open(self, topic_id: int) -> None:
        """Opt in, from the mailbox itself; what only they can open, is open again."""
        for entry in suppressions_of(self._tx, self._mailbox):
            if entry.topic is None and entry.domain is None and SuppressionReason(entry.reason) in _THEIRS_TO_LIFT:
                lift(self._tx, entry.id, at=self._now, user_id=None, why="their own word, on their preference page")
        is_theirs = self._contact.address_folded == self._mailbox
        self._append(topic_id, ConsentEventKind.CONFIRMED if is_theirs else ConsentEventKind.GRANTED, self._now)

    def _close(self, topic_id: int) -> None:
        tx, began = self._tx, self._now
        holding.hold_contact(tx, self._contact_id, topic_id, gate="consent", reason="left", now=began)
        holding.hold_address(tx, self._mailbox, topic_id, gate="consent", reason="left_address", now=began)
        # Whatever had been marked is marked for good by now: holding waited for it.
        self._append(topic_id, ConsentEventKind.WITHDRAWN, self._now)

    def _pause(self, topic_id: int) -> None:
        tx, began = self._tx, self._now
        holding.hold_contact(tx, self._contact_id, topic_id, gate="consent", reason="paused", now=began)
        holding.hold_address(tx, self._mailbox, topic_id, gate="consent", reason="paused_address", now=began)
        self._append(topic_id, ConsentEventKind.PAUSED, self._now, until=self._now + PAUSE)

    def _leave_all(self, topics: list[int]) -> None:
        for topic_id in topics:
            self._close(topic_id)
        reason = SuppressionReason.LEFT_ALL
        holding.hold_suppressed(
            self._tx, address_folded=self._mailbox, domain=None, topic_id=None, reason=reason, now=self._now
        )
        listed = suppress(self._tx, reason=reason, evidence=self._evidence, at=self._now, address_folded=self._mailbox)
        if listed or topics:
            self._note_left()

    def _note_left(self) -> None:
        if self._reader.delivery is None:
            return
        detail = ResponseDetail(channel=CHANNEL, said=self._evidence.why)
        add_event(self._tx, self._reader.delivery, ResponseKind.LEFT, self._now, machine_rule=None, detail=detail)

    def _append(self, topic_id: int, kind: ConsentEventKind, at: datetime, *, until: datetime | None = None) -> None:
        consent_store.append_for_contact(
            self._tx,
            self._contact_id,
            topic_id=topic_id,
            kind=kind,
            at=at,
            channel=CHANNEL,
            evidence=self._evidence,
            recorded_by=None,
            until=until,
            mailbox=self._mailbox,
        )

    def _write_fields(self, texts: Mapping[str, str]) -> None:
        """Their own name and language, and what else they may correct; what is no value of a field stays as it is."""
        fields = load_fields(self._tx)
        open_to_them = {*FIELDS, *(one.key for one in _own_fields(self._tx, self._contact))}
        contact_store.get_contact(self._tx, self._contact_id, lock=True)
        for key, text in texts.items():
            if key not in open_to_them:
                continue
            field = fields[key]
            value = read_value(text, field, typed_reading(self._tx))
            before = getattr(self._contact, key) if field.standard else self._contact.own.get(key)
            if isinstance(value, ReadFault) or value_to_json(value) == before:
                continue
            after = value_to_json(value)
            people_store.put_value(
                self._tx, self._contact_id, key, stored=after, folded=folded_value(value), now=self._now
            )
            change_set = new_change_set(
                self._tx,
                at=self._now,
                user_id=None,
                channel=CHANNEL,
                act=Act.FIELD_CHANGED,
                facts={"field": field.label},
            )
            add_change(self._tx, change_set, self._contact_id, {key: {"before": before, "after": after}})
            note_contacts(self._tx, change_set, 1)
