"""Leaving a topic by the link in a message, at once and everywhere."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.consent import ConsentEventKind, ConsentEvidence
from uvarovite.core.messages.look import Look
from uvarovite.core.responses import Keyring, Purpose, ResponseDetail, Token, read_token
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store import responses as store
from uvarovite.store import tallies
from uvarovite.store.consent import closings
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import holding
from uvarovite.store.tables import Contact, Delivery, Run, Topic
from uvarovite.store.tables.responses import ResponseKind

# A mailbox that shows a message again and again, and a mail program that asks twice, stay far below; a provider that
# fetches pictures for many of its people comes from few addresses, so that opens are counted by token alone.
VISITS_PER_TOKEN = 30
VISITS_PER_ORIGIN = 1_200
VISITS_WINDOW = timedelta(minutes=1)


class TooManyVisits(ServiceRefusal):
    """So many requests came for one token, or from one place, that this one was not looked at."""

    def __init__(self) -> None:
        super().__init__("too_many", "Too many requests. Wait a minute, then try again.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """A request as the public pages saw it; `origin` is where it came from, as limits count it."""

    method: str
    agent: str
    origin: str


def admit(
    database: Database, token: str, purpose: Purpose, visit: Visit, keyring: Keyring, now: datetime
) -> Token | None:
    """The token if it is one of ours, once the request is counted. Raises TooManyVisits.

    The count is a transaction of its own: those who come from one place do not wait for each other's work.
    """
    read = read_token(token, purpose, keyring)
    if read is not None:
        count_visit(database, read, visit, now)
    return read


def count_visit(database: Database, token: Token, visit: Visit, now: datetime) -> None:
    """Count a request with a token of ours; one for everybody only by its origin. Raises TooManyVisits."""
    of_token, of_origin = f"visit {token.purpose} {token.delivery_id}", f"visit from {visit.origin}"
    asked = [of_origin] if token.purpose is Purpose.PUBLIC_COPY else [of_token, of_origin]
    with database.transaction() as tx:
        counted = tallies.count_up(tx, asked, now, VISITS_WINDOW)
    if counted.get(of_token, 0) > VISITS_PER_TOKEN or counted[of_origin] > VISITS_PER_ORIGIN:
        raise TooManyVisits


@dataclass(frozen=True, slots=True, kw_only=True)
class LeavePage:
    """What the page about leaving names; `left` tells that it has happened, `may_choose` that there is a preference page."""

    organisation: str
    look: Look
    may_choose: bool
    topic: str
    language: str | None
    left: bool


def leave_page(database: Database, token: str, visit: Visit, *, keyring: Keyring, now: datetime) -> LeavePage | None:
    """What a link to leave is about, or None when it is none of ours. Changes nothing. Raises TooManyVisits."""
    read = admit(database, token, Purpose.UNSUBSCRIBE, visit, keyring, now)
    with database.transaction() as tx:
        delivery = tx.get(Delivery, read.delivery_id) if read else None
        return _leave_page(tx, delivery) if delivery else None


def _leave_page(tx: Transaction, delivery: Delivery) -> LeavePage:
    run = tx.get(Run, delivery.run_id)
    topic = tx.get(Topic, run.topic_id) if run else None
    assert run is not None
    assert topic is not None
    contact = tx.get(Contact, delivery.contact_id)
    own = next(
        (row.state for row in consent_store.consent_of_contact(tx, delivery.contact_id) if row.id == topic.id), None
    )
    return LeavePage(
        organisation=run.snapshot.letterhead.organisation,
        look=require_organisation(tx).look or Look(),
        may_choose=contact is not None and (contact.merged_into is not None or contact.deleted_at is None),
        topic=topic.name,
        language=contact.language if contact and not contact.erased_at else delivery.record.get("language"),
        left=own == "left" and closings.is_closed(tx, delivery.address_folded, run.topic_id),
    )


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
    read = read_token(token, Purpose.UNSUBSCRIBE, keyring)
    with database.transaction() as tx:
        # Pressed twice, it is one after the other.
        delivery = tx.get(Delivery, read.delivery_id, with_for_update=True) if read else None
        if delivery is None:
            return None
        before = _leave_page(tx, delivery)
        if before.left:
            return before
        run = tx.get(Run, delivery.run_id)
        assert run is not None
        evidence = ConsentEvidence(
            delivery=delivery.id,
            agent=visit.agent[:300],
            origin=visit.origin,
            wording=said(before) if said else None,
            why=why or None,
        )
        take_out(
            tx,
            delivery,
            run.topic_id,
            evidence=evidence,
            detail=ResponseDetail(channel=channel, said=why or None),
            channel=channel,
            now=now,
        )
        return _leave_page(tx, delivery)


def take_out(
    tx: Transaction,
    delivery: Delivery,
    topic_id: int,
    *,
    channel: str,
    evidence: ConsentEvidence,
    detail: ResponseDetail,
    now: datetime | None,
) -> None:
    """Take a person out of a topic, through the mailbox of a delivery: what waits for them there is held first."""
    began = instant(tx, now)
    holding.hold_contact(tx, delivery.contact_id, topic_id, gate="consent", reason="left", now=began)
    holding.hold_address(tx, delivery.address_folded, topic_id, gate="consent", reason="left_address", now=began)
    # Whatever had been marked is marked for good by now: holding waited for it.
    left = instant(tx, now)
    consent_store.append_for_contact(
        tx,
        delivery.contact_id,
        topic_id=topic_id,
        kind=ConsentEventKind.WITHDRAWN,
        at=left,
        channel=channel,
        evidence=evidence,
        recorded_by=None,
        mailbox=delivery.address_folded,
    )
    store.add_event(tx, delivery, ResponseKind.LEFT, left, machine_rule=None, detail=detail)
