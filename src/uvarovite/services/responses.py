"""What comes back through links: opens, clicks, and people who leave."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.consent import ConsentEventKind
from uvarovite.core.responses import Fetch, Keyring, Purpose, machine_reason, read_token
from uvarovite.services.merging import Composer
from uvarovite.store import closings, holding
from uvarovite.store import consent as consent_store
from uvarovite.store import responses as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Delivery, MessageVersion, Run, Topic
from uvarovite.store.tables.responses import ResponseKind


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """A request as the public pages saw it."""

    method: str
    agent: str
    origin: str


def _delivery(tx: Transaction, token: str, purpose: Purpose, keyring: Keyring) -> tuple[Delivery, int] | None:
    read = read_token(token, purpose, keyring)
    delivery = tx.get(Delivery, read.delivery_id) if read else None
    return (delivery, read.number) if read and delivery else None


def _record(
    tx: Transaction, delivery: Delivery, kind: ResponseKind, visit: Visit, now: datetime, link: int | None
) -> None:
    accepted_at = delivery.settled_at if delivery.state == "accepted" else None
    rule = machine_reason(Fetch(method=visit.method, agent=visit.agent, at=now, accepted_at=accepted_at))
    detail = {"agent": visit.agent[:300]} | ({"link": link} if link is not None else {})
    store.add_event(tx, delivery, kind, now, machine_rule=rule, detail=detail)


def record_open(database: Database, token: str, visit: Visit, *, keyring: Keyring, now: datetime) -> bool:
    """Record that the pixel was fetched; False when the token is none of ours."""
    with database.transaction() as tx:
        found = _delivery(tx, token, Purpose.OPEN, keyring)
        if found:
            _record(tx, found[0], ResponseKind.OPENED, visit, now, None)
        return found is not None


def click_target(database: Database, token: str, *, keyring: Keyring) -> str | None:
    """Where a tracked link leads for its person, or None when the token is none of ours. Writes nothing.

    The address is merged from the message and the record as they were sent: a token can lead nowhere else.
    """
    with database.transaction() as tx:
        found = _delivery(tx, token, Purpose.CLICK, keyring)
        run = tx.get(Run, found[0].run_id) if found else None
        version = tx.get(MessageVersion, run.message_version_id) if run else None
        if found is None or run is None or version is None or found[0].marked_at is None:
            return None
        composer = Composer(snapshot=run.snapshot, content=version.content, run_id=found[0].run_id, keyring=keyring)
        return composer.link_address(found[0].record, found[1], found[0].marked_at)


def record_click(database: Database, token: str, visit: Visit, *, keyring: Keyring, now: datetime) -> None:
    """Record a click; a token that is none of ours is passed over."""
    with database.transaction() as tx:
        found = _delivery(tx, token, Purpose.CLICK, keyring)
        if found is None:
            return
        delivery, number = found
        _record(tx, delivery, ResponseKind.CLICKED, visit, now, number)


@dataclass(frozen=True, slots=True, kw_only=True)
class LeavePage:
    """What the page about leaving names; `left` tells that it has happened."""

    organisation: str
    topic: str
    language: str | None
    left: bool


def leave_page(database: Database, token: str, *, keyring: Keyring) -> LeavePage | None:
    """What a link to leave is about, or None when it is none of ours. Changes nothing."""
    with database.transaction() as tx:
        found = _delivery(tx, token, Purpose.UNSUBSCRIBE, keyring)
        if found is None:
            return None
        return _leave_page(tx, found[0])


def _leave_page(tx: Transaction, delivery: Delivery) -> LeavePage:
    run = tx.get(Run, delivery.run_id)
    topic = tx.get(Topic, run.topic_id) if run else None
    assert run is not None
    assert topic is not None
    own = next(
        (row.state for row in consent_store.consent_of_contact(tx, delivery.contact_id) if row.id == topic.id), None
    )
    return LeavePage(
        organisation=run.snapshot["setting"]["organisation"],
        topic=topic.name,
        language=delivery.record.get("language"),
        left=own == "left" and closings.is_closed(tx, delivery.address_folded, run.topic_id),
    )


def leave_topic(
    database: Database, token: str, visit: Visit, *, way: str, keyring: Keyring, now: datetime
) -> LeavePage | None:
    """Take a person out of the topic of a message, at once and everywhere; None when the token is none of ours.

    Works any number of times; the ledger gets one entry for each time that it changed something. It came through the
    mailbox that the message went to, so it closes the topic for everyone who shares it. Whatever waits for this person,
    or for this address, in a run of the topic is held in the same transaction.
    """
    with database.transaction() as tx:
        found = _delivery(tx, token, Purpose.UNSUBSCRIBE, keyring)
        if found is None:
            return None
        delivery = found[0]
        before = _leave_page(tx, delivery)
        if before.left:
            return before
        run = tx.get(Run, delivery.run_id)
        assert run is not None
        consent_store.append_for_contact(
            tx,
            delivery.contact_id,
            topic_id=run.topic_id,
            kind=ConsentEventKind.WITHDRAWN,
            at=now,
            way=way,
            evidence={"delivery": delivery.id, "agent": visit.agent[:300], "origin": visit.origin},
            recorded_by=None,
            mailbox=delivery.address_folded,
        )
        store.add_event(tx, delivery, ResponseKind.LEFT, now, machine_rule=None, detail={"way": way})
        holding.hold_contact(tx, delivery.contact_id, run.topic_id, gate="consent", reason="left", now=now)
        holding.hold_address(tx, delivery.address_folded, run.topic_id, gate="consent", reason="left_address", now=now)
        return _leave_page(tx, delivery)
