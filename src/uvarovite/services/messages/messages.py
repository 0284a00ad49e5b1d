"""Messages: their versions, their checks, the lens, and a test to oneself."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import Caps
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import Clock
from uvarovite.core.messages import (
    Letterhead,
    MessageContent,
    check_message,
    mended,
    plain_links,
)
from uvarovite.core.messages.checks import fields_with_fallback
from uvarovite.core.messages.lens import lens_mark
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.services.expressions.criteria import ProblemView, problem_view
from uvarovite.services.messages.attachments import without_lost_files
from uvarovite.services.messages.blanks import blank_conditions
from uvarovite.services.messages.composing import letterhead_for, maker_now
from uvarovite.services.messages.known import require_message
from uvarovite.services.messages.shared_blocks import pass_on, refuse_nested, with_shared
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.saving.conflicts import changed_meanwhile
from uvarovite.store import messages as store
from uvarovite.store import organisation as organisation_store
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.drafts import forget_draft
from uvarovite.store.tables import Campaign, DraftKind, Message, MessageVersion, Sender, Topic


@dataclass(frozen=True, slots=True, kw_only=True)
class PartProblemView:
    """A problem and the part of the message where it stands."""

    part: str
    problem: ProblemView


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageView:
    """A message with its latest words; `revision` goes back with a change, `number` is that of the version of its words.

    The blocks of one that `is_shared` stand in the messages `used_in`.
    """

    id: int
    name: str
    revision: int
    number: int
    content: MessageContent
    problems: list[PartProblemView]
    updated_at: datetime
    is_shared: bool
    used_in: list[str]


def problem_views(content: MessageContent, fields: FieldMap) -> list[PartProblemView]:
    """What is wrong with the words."""
    return [
        PartProblemView(
            part=found.part, problem=problem_view(found.problem, found.source, mended(found, fields), shown=True)
        )
        for found in check_message(content, fields)
    ]


def message_view(tx: Transaction, message: Message, version: MessageVersion) -> MessageView:
    """A message within a transaction."""
    content = version.content
    return MessageView(
        id=message.id or 0,
        name=message.name,
        revision=message.revision,
        number=version.number,
        content=content,
        problems=problem_views(content, load_fields(tx)),
        updated_at=version.created_at,
        is_shared=message.is_shared,
        used_in=[name for _, name in store.messages_using(tx, message.id or 0)] if message.is_shared else [],
    )


@needs(Permission.LOOK)
def get_message(database: Database, actor: Actor, message_id: int) -> MessageView:
    """One message. Raises NotFound."""
    with database.transaction() as tx:
        return message_view(tx, *require_message(tx, message_id))


@needs(Permission.WRITE)
def save_message(
    database: Database,
    actor: Actor,
    *,
    message_id: int | None,
    name: str,
    content: MessageContent,
    revision: int | None,
    shared: bool = False,
    now: datetime,
) -> MessageView:
    """Save words as a new version; words with problems can be saved, they cannot be released.

    Shared blocks in them become what they are now, and files for one person that are not kept any more go; what a shared
    one says goes to every message that has it. With `shared` a new one begins as such.

    Raises BadInput, NotFound, and Conflict when somebody changed the message after `revision`.
    """
    if not name.strip():
        raise BadInput("no_name", "Give the message a name.")
    with database.transaction() as tx:
        if store.name_is_taken(tx, name.strip(), but=message_id):
            raise BadInput("taken", f"There is a message “{name.strip()}” already.")
        content = without_lost_files(tx, with_shared(tx, content))
        message = tx.get(Message, message_id, with_for_update=True) if message_id else None
        if message_id and message is None:
            raise NotFound("message")
        latest = store.latest_version(tx, message_id) if message_id else None
        if message is None:
            message = Message(name=name.strip(), created_at=now, revision=0, is_shared=shared)
        elif latest and message.revision != revision:
            raise changed_meanwhile(
                tx, "message", by=message.updated_by, me=actor.user_id, theirs=message_view(tx, message, latest)
            )
        if actor.user_id is not None:
            forget_draft(tx, DraftKind.MESSAGE, message_id or 0, actor.user_id)
        if message.is_shared:
            refuse_nested(content)
        same_words = latest is not None and latest.content == content
        if latest and same_words and message.name == name.strip():
            return message_view(tx, message, latest)
        message.name, message.revision, message.updated_by = name.strip(), message.revision + 1, actor.user_id
        tx.add(message)
        tx.flush()
        if latest and same_words:
            if message.is_shared:
                pass_on(tx, actor, message, now)
            return message_view(tx, message, latest)
        version = MessageVersion(
            message_id=message.id or 0,
            number=(latest.number + 1) if latest else 1,
            content=content,
            created_by=actor.user_id,
            created_at=now,
        )
        tx.add(version)
        tx.flush()
        audit(tx, actor, Action.MESSAGE_SAVED, message.id, name=message.name, version=version.number)
        if message.is_shared:
            pass_on(tx, actor, message, now)
        return message_view(tx, message, version)


@dataclass(frozen=True, slots=True, kw_only=True)
class AttachedView:
    """What a person finds attached; `size` in bytes, None where it is known only when it is made."""

    name: str
    size: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LensView:
    """A message composed for one real person, or what stands in the way; `place` counts from 1 among `total`.

    They are the cleared ones. Where nobody is cleared now, it is whom neither their caps nor earlier runs kept back:
    `cleared` is False then.
    """

    cleared: bool
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
    language: str
    attached: list[AttachedView]


@needs(Permission.LOOK)
def look_through_lens(
    database: Database,
    actor: Actor,
    *,
    content: MessageContent,
    criteria: str,
    audience_id: int | None = None,
    campaign_id: int | None = None,
    topic_id: int | None,
    sender_id: int | None,
    contact_id: int,
    step: int,
    fallbacks: bool = False,
    keyring: Keyring,
    now: datetime,
) -> LensView:
    """The message for the cleared person at, behind (`step` 1) or before (-1) `contact_id`. Raises BadInput.

    With `fallbacks` only those are looked at who have nothing in a field that has a fallback.
    """
    if step not in (-1, 0, 1):
        raise BadInput("step", "A step is one forward or one back.")
    with database.transaction() as tx:
        fields = load_fields(tx)
        problems = problem_views(content, fields)
        sql = audience_sql(tx, criteria, audience_id, now)
        if fallbacks and not problems:
            blanks = blank_conditions(content, fields, fields_with_fallback(content, fields))
            sql = audience_store.narrowed(sql, list(blanks.values()))
        campaign = tx.get(Campaign, campaign_id) if campaign_id else None
        terms = terms_for(tx, topic_id=topic_id, now=now, campaign=campaign, content=content)
        found = audience_store.cleared_neighbour(tx, sql, terms, from_id=contact_id, step=step)
        cleared = found is not None
        if found is None:
            # Whoever had it, or has had enough this week, can be looked at all the same.
            terms = replace(terms_for(tx, topic_id=topic_id, now=now, content=content), caps=Caps())
            found = audience_store.cleared_neighbour(tx, sql, terms, from_id=contact_id, step=step)
        contact = contact_store.get_contact(tx, found.id) if found else None
        letterhead = letterhead_or_first(tx, topic_id, sender_id, keyring)
        if found is None or contact is None or problems:
            return LensView(
                cleared=cleared,
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
                from_name=letterhead.from_name,
                language="",
                attached=[],
            )
        record = contact_store.record_of(contact, fields)
        clock = Clock.at(now, letterhead.time_zone)
        since = next(
            (row.since for row in consent_store.consent_of_contact(tx, found.id) if row.key == letterhead.topic_key),
            None,
        )
        maker, sender = maker_now(tx, content, fields), SenderWords(letterhead, fields)
        context = sender.context(record, clock, maker.language_for(record))
        rendered = maker.render(
            record,
            context,
            plain_links(),
            letterhead.footer(since.date() if since else None),
            lens_mark,
        )
        return LensView(
            cleared=cleared,
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
            from_name=sender.name(record, context),
            language=maker.language_for(record) or letterhead.locale[:2],
            attached=[AttachedView(name=one.name, size=one.size) for one in rendered.attached],
        )


def _name(contact: Any) -> str:
    return " ".join(filter(None, [contact.first_name, contact.last_name]))


def letterhead_or_first(tx: Transaction, topic_id: int | None, sender_id: int | None, keyring: Keyring) -> Letterhead:
    """What a message reads besides the record; the first topic and sender where none is chosen. Raises ServiceRefusal."""
    organisation = require_organisation(tx)
    topic = tx.get(Topic, topic_id) if topic_id else None
    sender = tx.get(Sender, sender_id) if sender_id else None
    sender = sender or next(iter(organisation_store.senders(tx)), None)
    if sender is None:
        raise ServiceRefusal("no_sender", "Nobody is set up to write in the organisation's name yet.")
    topic = topic or next(iter(consent_store.topics(tx)), None)
    if topic is None:
        raise ServiceRefusal("no_topic", "There is no topic yet.")
    return letterhead_for(organisation, topic, sender, public_url="", keyring=keyring)
