"""Leaving what a message is about by the link in it, at once and everywhere."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.consent import ConsentEventKind, ConsentEvidence
from uvarovite.core.messages.look import Look
from uvarovite.core.responses import Keyring, ResponseDetail, read_token
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.responses.reader import LEAVING, Reader, reader_of
from uvarovite.services.responses.visits import Visit, admit
from uvarovite.store import responses as store
from uvarovite.store.consent import closings
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import holding
from uvarovite.store.tables import Contact
from uvarovite.store.tables.responses import ResponseKind


@dataclass(frozen=True, slots=True, kw_only=True)
class LeavePage:
    """What the page about leaving names; `left` tells that it has happened, `may_choose` that there is a preference page.

    `topic` is the name of what the message was about; of several all names.
    """

    organisation: str
    look: Look
    may_choose: bool
    topic: str
    language: str | None
    left: bool


def leave_page(database: Database, token: str, visit: Visit, *, keyring: Keyring, now: datetime) -> LeavePage | None:
    """What a link to leave is about, or None when it is none of ours. Changes nothing. Raises TooManyVisits."""
    read = admit(database, token, LEAVING, visit, keyring, now)
    with database.transaction() as tx:
        reader = reader_of(tx, read)
        return _leave_page(tx, reader) if reader else None


def _leave_page(tx: Transaction, reader: Reader) -> LeavePage:
    contact = tx.get(Contact, reader.contact_id)
    names = {topic.id: topic.name for topic in consent_store.topics(tx)}
    return LeavePage(
        organisation=reader.organisation,
        look=require_organisation(tx).look or Look(),
        may_choose=contact is not None and (contact.merged_into is not None or contact.deleted_at is None),
        topic=", ".join(names[one] for one in reader.topics if one in names),
        language=reader.language,
        left=not _stays_in(tx, reader),
    )


def _stays_in(tx: Transaction, reader: Reader) -> list[int]:
    """Those of the topics that this person, or this mailbox, has not left."""
    states = {row.id: row.state for row in consent_store.consent_of_contact(tx, reader.contact_id)}
    return [
        topic
        for topic in reader.topics
        if states.get(topic) != "left" or not closings.is_closed(tx, reader.mailbox, topic)
    ]


def leave_topic(
    database: Database,
    token: str,
    visit: Visit,
    *,
    channel: str,
    keyring: Keyring,
    why: str = "",
    said: Callable[[LeavePage], str] | None = None,
    now: datetime | None = None,
) -> LeavePage | None:
    """Take a person out of the topic of a message, at once and everywhere; None when the token is none of ours.

    Works any number of times; the ledger gets one entry for each time that it changed something. It came through the
    mailbox that the message went to, so it closes the topic for everyone who shares it. Whatever waits for this person,
    or for this address, in a run of the topic is held in the same transaction, and the instant that is recorded lies
    behind everything that was marked as being sent before. Never limited: it is what must work. `why` are their words,
    `said` tells what the page said to them.
    """
    read = read_token(token, LEAVING, keyring)
    with database.transaction() as tx:
        reader = reader_of(tx, read, locked=True)
        if reader is None:
            return None
        before = _leave_page(tx, reader)
        if before.left:
            return before
        evidence = ConsentEvidence(
            delivery=reader.delivery.id if reader.delivery else None,
            agent=visit.agent[:300],
            origin=visit.origin,
            wording=said(before) if said else None,
            why=why or None,
        )
        detail = ResponseDetail(channel=channel, said=why or None)
        take_out(tx, reader, evidence=evidence, detail=detail, channel=channel, now=now)
        return _leave_page(tx, reader)


def take_out(
    tx: Transaction,
    reader: Reader,
    *,
    channel: str,
    evidence: ConsentEvidence,
    detail: ResponseDetail,
    now: datetime | None,
) -> None:
    """Take a person out of what a message was about, through its mailbox: what waits for them there is held first."""
    left = instant(tx, now)
    for topic_id in _stays_in(tx, reader):
        holding.hold_contact(tx, reader.contact_id, topic_id, gate="consent", reason="left", now=left)
        holding.hold_address(tx, reader.mailbox, topic_id, gate="consent", reason="left_address", now=left)
        # Whatever had been marked is marked for good by now: holding waited for it.
        left = instant(tx, now)
        consent_store.append_for_contact(
            tx,
            reader.contact_id,
            topic_id=topic_id,
            kind=ConsentEventKind.WITHDRAWN,
            at=left,
            channel=channel,
            evidence=evidence,
            recorded_by=None,
            mailbox=reader.mailbox,
        )
    if reader.delivery is not None:
        store.add_event(tx, reader.delivery, ResponseKind.LEFT, left, machine_rule=None, detail=detail)
