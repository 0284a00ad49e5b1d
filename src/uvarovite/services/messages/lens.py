"""The lens: a message as one real person would get it, and who of the cleared people that is.

Who is looked at depends on everybody, and is asked when somebody steps on or the audience is another one. The letter depends
on one person, and is asked for at every keystroke.
"""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.audiences import Caps
from uvarovite.core.expressions import Clock
from uvarovite.core.messages import MessageContent, plain_links
from uvarovite.core.messages.checks import fields_with_fallback
from uvarovite.core.messages.lens import lens_mark
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.errors import BadInput
from uvarovite.services.messages.blanks import blank_conditions
from uvarovite.services.messages.composing import maker_now
from uvarovite.services.messages.messages import PartProblemView, letterhead_or_first, problem_views
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.tables import Campaign


@dataclass(frozen=True, slots=True, kw_only=True)
class LensPerson:
    """Who is looked at; `place` counts from 1 among `total`, and `contact_id` is None where there is nobody.

    `behind` and `before` are those next to them, by id, nearest first. They are the cleared ones. Where nobody is cleared now, it is whom neither their caps nor earlier runs kept back:
    `cleared` is False then.
    """

    contact_id: int | None
    cleared: bool
    place: int
    total: int
    behind: list[int]
    before: list[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class AttachedView:
    """What a person finds attached; `size` in bytes, None where it is known only when it is made."""

    name: str
    size: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LensView:
    """A message composed for one real person, or what stands in the way; without a contact only that."""

    problems: list[PartProblemView]
    contact_id: int | None
    name: str | None
    address: str | None
    subject: str
    preheader: str
    html: str
    text: str
    from_name: str
    language: str
    attached: list[AttachedView]


@needs(Permission.LOOK)
def lens_person(
    database: Database,
    actor: Actor,
    *,
    content: MessageContent,
    criteria: str,
    audience_id: int | None = None,
    campaign_id: int | None = None,
    topic_id: int | None,
    contact_id: int,
    step: int,
    fallbacks: bool = False,
    now: datetime,
) -> LensPerson:
    """The cleared person at, behind (`step` 1) or before (-1) `contact_id`, of those who can get the message. Raises BadInput.

    With `fallbacks` only those are looked at who have nothing in a field that has a fallback.
    """
    if step not in (-1, 0, 1):
        raise BadInput("step", "A step is one forward or one back.")
    with database.transaction() as tx:
        fields = load_fields(tx)
        sql = audience_sql(tx, criteria, audience_id, now)
        if fallbacks and not problem_views(content, fields):
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
        if found is None:
            return LensPerson(contact_id=None, cleared=False, place=0, total=0, behind=[], before=[])
        return LensPerson(
            contact_id=found.id,
            cleared=cleared,
            place=found.place,
            total=found.total,
            behind=found.behind,
            before=found.before,
        )


@needs(Permission.LOOK)
def look_through_lens(
    database: Database,
    actor: Actor,
    *,
    content: MessageContent,
    topic_id: int | None,
    sender_id: int | None,
    contact_id: int,
    keyring: Keyring,
    now: datetime,
) -> LensView:
    """The message for one person; what is wrong with it also for nobody, which is number 0."""
    with database.transaction() as tx:
        fields = load_fields(tx)
        problems = problem_views(content, fields)
        contact = contact_store.get_contact(tx, contact_id)
        letterhead = letterhead_or_first(tx, topic_id, sender_id, keyring)
        if contact is None or problems:
            return LensView(
                problems=problems,
                contact_id=contact_id if contact else None,
                name=_name(contact) if contact else None,
                address=contact.address if contact else None,
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
            (row.since for row in consent_store.consent_of_contact(tx, contact_id) if row.key == letterhead.topic_key),
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
            problems=[],
            contact_id=contact_id,
            name=_name(contact),
            address=contact.address,
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
