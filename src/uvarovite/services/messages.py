"""Messages: their versions, their checks, the lens, and a test to oneself."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.audiences import Caps
from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages import (
    Envelope,
    MessageContent,
    assemble,
    check_message,
    compile_message,
    mended,
    plain_links,
)
from uvarovite.core.messages.render import lens_mark
from uvarovite.core.responses import Keyring
from uvarovite.core.values import wire_form
from uvarovite.services.audiences import audience_sql
from uvarovite.services.clearance import terms_for
from uvarovite.services.criteria import ProblemView, problem_view
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.merging import Setting, setting_for
from uvarovite.services.organisation import clock_for, require_address, require_organisation
from uvarovite.store import audiences as audience_store
from uvarovite.store import campaigns as campaign_store
from uvarovite.store import consent as consent_store
from uvarovite.store import contacts as contact_store
from uvarovite.store import messages as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.fields import load_fields
from uvarovite.store.tables import Message, MessageVersion, Relay, Sender, Topic


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageLine:
    """A message in the list."""

    id: int
    name: str
    number: int
    subject: str
    updated_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PartProblemView:
    """A problem and the part of the message where it stands."""

    part: str
    problem: ProblemView


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageView:
    """A message with its latest words; `number` goes back with a change."""

    id: int
    name: str
    number: int
    content: MessageContent
    problems: list[PartProblemView]
    updated_at: datetime


def message_list(database: Database) -> list[MessageLine]:
    """All messages by latest change."""
    with database.transaction() as tx:
        return [
            MessageLine(id=row.id, name=row.name, number=row.number, subject=row.subject, updated_at=row.updated_at)
            for row in store.message_list(tx)
        ]


def problem_views(content: MessageContent, fields: FieldMap) -> list[PartProblemView]:
    """What is wrong with the words."""
    return [
        PartProblemView(
            part=found.part, problem=problem_view(found.problem, found.source, mended(found, fields), shown=True)
        )
        for found in check_message(content, fields)
    ]


def _view(tx: Transaction, message: Message, version: MessageVersion) -> MessageView:
    content = MessageContent.model_validate(version.content)
    return MessageView(
        id=message.id or 0,
        name=message.name,
        number=version.number,
        content=content,
        problems=problem_views(content, load_fields(tx)),
        updated_at=version.created_at,
    )


def get_message(database: Database, message_id: int) -> MessageView:
    """One message. Raises NotFound."""
    with database.transaction() as tx:
        message, version = tx.get(Message, message_id), store.latest_version(tx, message_id)
        if message is None or version is None:
            raise NotFound("message")
        return _view(tx, message, version)


def save_message(
    database: Database,
    *,
    message_id: int | None,
    name: str,
    content: MessageContent,
    number: int | None,
    user_id: int | None,
    now: datetime,
) -> MessageView:
    """Save words as a new version; a draft with problems can be saved, it cannot be released.

    Raises BadInput, NotFound, and Conflict when somebody saved a version after `number`.
    """
    if not name.strip():
        raise BadInput("no_name", "Give the message a name.")
    with database.transaction() as tx:
        if any(row.name == name.strip() and row.id != message_id for row in store.message_list(tx)):
            raise BadInput("taken", f"There is a message “{name.strip()}” already.")
        message = tx.get(Message, message_id, with_for_update=True) if message_id else None
        if message_id and message is None:
            raise NotFound("message")
        latest = store.latest_version(tx, message_id) if message_id else None
        if latest and latest.number != number:
            raise Conflict(
                "changed", "Somebody else saved this message meanwhile; your words are still on your screen."
            )
        if message is None:
            message = Message(name=name.strip(), created_at=now)
        message.name = name.strip()
        tx.add(message)
        tx.flush()
        stored = content.model_dump(mode="json")
        if latest and latest.content == stored:
            return _view(tx, message, latest)
        version = MessageVersion(
            message_id=message.id or 0,
            number=(latest.number + 1) if latest else 1,
            content=stored,
            created_by=user_id,
            created_at=now,
        )
        tx.add(version)
        tx.flush()
        return _view(tx, message, version)


@dataclass(frozen=True, slots=True, kw_only=True)
class LensView:
    """A message merged for one real person, or what stands in the way; `place` counts from 1 among the cleared."""

    problems: list[PartProblemView]
    contact_id: int | None
    name: str | None
    address: str | None
    place: int
    total: int
    subject: str
    preheader: str
    html: str
    text: str
    from_name: str


def look_through_lens(
    database: Database,
    *,
    content: MessageContent,
    criteria: str,
    audience_id: int | None = None,
    topic_id: int | None,
    sender_id: int | None,
    contact_id: int,
    step: int,
    keyring: Keyring,
    now: datetime,
) -> LensView:
    """The message for the cleared person at, behind (`step` 1) or before (-1) `contact_id`. Raises BadInput."""
    if step not in (-1, 0, 1):
        raise BadInput("step", "A step is one forward or one back.")
    with database.transaction() as tx:
        fields = load_fields(tx)
        problems = problem_views(content, fields)
        sql = audience_sql(tx, criteria, audience_id, now)
        # Whoever has had enough this week can be looked at all the same.
        terms = replace(terms_for(tx, topic_id=topic_id, now=now, content=content), caps=Caps())
        found = audience_store.cleared_neighbour(tx, sql, terms, from_id=contact_id, step=step)
        contact = contact_store.get_contact(tx, found.id) if found else None
        setting = _setting(tx, topic_id, sender_id, keyring)
        if found is None or contact is None or problems:
            return LensView(
                problems=problems,
                contact_id=found.id if found else None,
                name=_name(contact) if contact else None,
                address=contact.address if contact else None,
                place=found.place if found else 0,
                total=found.total if found else 0,
                subject="",
                preheader="",
                html="",
                text="",
                from_name=setting.from_name,
            )
        record = contact_store.record_of(contact, fields)
        clock = clock_for(setting.time_zone, now)
        since = next(
            (row.since for row in consent_store.consent_of_contact(tx, found.id) if row.key == setting.topic_key), None
        )
        rendered = compile_message(content, fields).render(
            record,
            setting.context(record, clock),
            plain_links(),
            setting.footer(since.date() if since else None),
            lens_mark,
        )
        return LensView(
            problems=[],
            contact_id=found.id,
            name=_name(contact),
            address=contact.address,
            place=found.place,
            total=found.total,
            subject=rendered.subject,
            preheader=rendered.preheader,
            html=rendered.html,
            text=rendered.text,
            from_name=setting.from_name,
        )


def _name(contact: Any) -> str:
    return " ".join(filter(None, [contact.first_name, contact.last_name]))


def _setting(tx: Transaction, topic_id: int | None, sender_id: int | None, keyring: Keyring) -> Setting:
    organisation = require_organisation(tx)
    topic = tx.get(Topic, topic_id) if topic_id else None
    sender = tx.get(Sender, sender_id) if sender_id else None
    sender = sender or next(iter(campaign_store.senders(tx)), None)
    if sender is None:
        raise ServiceRefusal("no_sender", "Nobody is set up to write in the organisation's name yet.")
    topic = topic or next(iter(consent_store.topics(tx)), None)
    if topic is None:
        raise ServiceRefusal("no_topic", "There is no topic yet.")
    return setting_for(organisation, topic, sender, public_url="", keyring=keyring)


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedMail:
    """A single message, ready to be handed to a relay."""

    relay: Relay
    from_address: str
    to_address: str
    raw: bytes


def prepare_test(
    database: Database,
    *,
    content: MessageContent,
    contact_id: int,
    to_address: str,
    topic_id: int | None,
    sender_id: int | None,
    relay_id: int | None,
    keyring: Keyring,
    test_id: str,
    now: datetime,
) -> PreparedMail:
    """The message as one contact would get it, addressed to somebody else. Raises BadInput, NotFound.

    Its links are untracked and its way to leave leads nowhere, so that a test changes nothing for the person shown.
    """
    address = require_address(to_address)
    with database.transaction() as tx:
        fields = load_fields(tx)
        problems = problem_views(content, fields)
        if problems:
            raise BadInput("problems", f"Mend this first: {problems[0].problem.message}")
        contact = contact_store.get_contact(tx, contact_id)
        if contact is None:
            raise NotFound("contact")
        relays = campaign_store.relays(tx)
        relay = next((one for one in relays if relay_id in (None, one.id)), None)
        if relay is None:
            raise ServiceRefusal("no_relay", "There is no relay to send through yet; add one in Set-up.")
        setting = _setting(tx, topic_id, sender_id, keyring)
        record = contact_store.record_of(contact, fields)
        rendered = compile_message(content, fields).render(
            record,
            setting.context(record, clock_for(setting.time_zone, now)),
            plain_links(),
            setting.footer(None),
        )
        envelope = Envelope(
            message_id=f"test.{test_id}@{setting.list_domain}",
            date=now,
            from_name=setting.from_name,
            from_address=setting.from_address,
            to_name="",
            to_address=address,
            reply_to=setting.reply_to,
            list_id=None,
            unsubscribe_url=None,
        )
        return PreparedMail(
            relay=relay,
            from_address=setting.from_address,
            to_address=wire_form(address),
            raw=assemble(rendered, envelope),
        )
