"""The ledger of consent and the table of current states, kept in step by one statement; the suppression list."""

from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.consent import (
    EVIDENCE_FORM,
    ConsentEvent,
    ConsentEventKind,
    ConsentEvidence,
    closed_sql,
    next_confirmed_sql,
    next_pause_sql,
    next_state_sql,
)
from uvarovite.core.values import fold
from uvarovite.store.consent import closings
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.naming import name_sql
from uvarovite.store.tables import Topic


def topics(tx: Transaction) -> list[Topic]:
    """All topics in their order."""
    return list(tx.exec(select(Topic).order_by(col(Topic.position), col(Topic.id))).all())


def topic_by_key(tx: Transaction, key: str) -> Topic | None:
    """A topic by its key."""
    return tx.exec(select(Topic).where(Topic.key == key)).first()


def topics_by_name(tx: Transaction) -> dict[str, int]:
    """Every topic's id by what a cell may call it, folded: its key or its name."""
    return {fold(name): topic.id or 0 for topic in topics(tx) for name in (topic.key, topic.name)}


def append_events(
    tx: Transaction,
    people: str,
    parameters: dict[str, Any],
    *,
    topic_id: int,
    kind: ConsentEventKind,
    at: datetime,
    channel: str,
    evidence: ConsentEvidence,
    recorded_by: int | None,
    until: datetime | None = None,
    own_evidence: bool = False,
    never_asked: bool = False,
    mailbox: str | None = None,
    for_address: bool | None = None,
) -> int:
    """Append one event for each contact that `people` selects, and move the current states on; how many there were.

    `people` is SQL text of ours that gives the contact's id, each at most once, and with `own_evidence` a JSON object
    that is evidence for this contact besides; `parameters` are its own. With `never_asked` nobody of them has a state
    with this topic yet, which a million are written quicker by. `mailbox` is the folded address through which
    they said it themselves, and `for_address` whether what somebody else recorded for them is meant for their address
    (None: it is, where nobody shares it): what is closed for addresses is moved on as well.
    """
    own, more = (", own", " || own") if own_evidence else ("", "")
    moved = next_state_sql("consent.state", "excluded.last_kind")
    first = next_state_sql("'never'", "kind")
    paused = next_pause_sql(
        "consent.state", "consent.paused_until", "excluded.last_kind", "CAST(:e_until AS timestamptz)"
    )
    known = f"""ON CONFLICT (contact_id, topic_id) DO UPDATE SET
            state = {moved}, paused_until = {paused},
            since = CASE WHEN {moved} = consent.state THEN consent.since ELSE excluded.since END,
            last_kind = excluded.last_kind, event_id = excluded.event_id,
            confirmed = {next_confirmed_sql(moved, "consent.confirmed", "excluded.last_kind")},
            confirmed_address = coalesce(excluded.confirmed_address, consent.confirmed_address)"""
    # What was confirmed, was confirmed from the address that they had then.
    address = "NULL"
    if kind is ConsentEventKind.CONFIRMED:
        address = "(SELECT address_folded FROM contact WHERE contact.id = contact_id)"
    appended = change_sql(
        tx,
        f"""
        WITH people(contact_id{own}) AS ({people}),
        appended AS (
            INSERT INTO consent_event (contact_id, topic_id, kind, at, until, channel, evidence, recorded_by)
            SELECT contact_id, :e_topic, :e_kind, :e_at, :e_until, :e_channel, CAST(:e_evidence AS jsonb){more}, :e_by FROM people
            RETURNING id, contact_id, topic_id, kind, at)
        INSERT INTO consent (contact_id, topic_id, state, since, last_kind, event_id, confirmed, confirmed_address)
        SELECT contact_id, topic_id, {first}, at, kind, id, {next_confirmed_sql(first, "FALSE", "kind")}, {address}
        FROM appended {"" if never_asked else known}""",
        {
            **parameters,
            "e_topic": topic_id,
            "e_kind": kind.value,
            "e_at": at,
            "e_until": until,
            "e_channel": channel,
            "e_evidence": orjson.dumps(EVIDENCE_FORM.write(evidence)).decode(),
            "e_by": recorded_by,
        },
    )
    told = closings.Told(topic_id=topic_id, at=at, until=until, mailbox=mailbox, for_address=for_address)
    if kind in (ConsentEventKind.WITHDRAWN, ConsentEventKind.PAUSED):
        closings.close(tx, people, parameters, told)
    elif kind in (ConsentEventKind.GRANTED, ConsentEventKind.CONFIRMED):
        closings.open_again(tx, people, parameters, told, from_mailbox=kind is ConsentEventKind.CONFIRMED)
    return appended


def append_for_contact(
    tx: Transaction,
    contact_id: int,
    *,
    topic_id: int,
    kind: ConsentEventKind,
    at: datetime,
    channel: str,
    evidence: ConsentEvidence,
    recorded_by: int | None = None,
    until: datetime | None = None,
    mailbox: str | None = None,
    for_address: bool | None = None,
) -> None:
    """Append one event for one contact."""
    append_events(
        tx,
        "SELECT CAST(:contact AS bigint)",
        {"contact": contact_id},
        topic_id=topic_id,
        kind=kind,
        at=at,
        channel=channel,
        evidence=evidence,
        recorded_by=recorded_by,
        until=until,
        mailbox=mailbox,
        for_address=for_address,
    )


def consent_of_contact(tx: Transaction, contact_id: int) -> list[Row[Any]]:
    """Every topic with the contact's state in it: (id, key, name, state, since, paused_until, confirmed, left_address,
    left_at, left_by, left_name).

    NULL where never asked. `left_address` tells that the topic is closed for the address, by whose leaving and when.
    """
    return list(
        run_sql(
            tx,
            f"""SELECT topic.id, topic.key, topic.name, consent.state, consent.since,
                    consent.paused_until, consent.confirmed AND consent.confirmed_address = contact.address_folded AS confirmed,
                    {closed_sql("left", "address_closing", "consent.since")} AS left_address, address_closing.left_at,
                    address_closing.left_by, {name_sql("leaver")} AS left_name
                FROM topic JOIN contact ON contact.id = :contact
                LEFT JOIN consent ON consent.topic_id = topic.id AND consent.contact_id = contact.id
                LEFT JOIN address_closing ON address_closing.topic_id = topic.id
                    AND address_closing.address_folded = contact.address_folded
                LEFT JOIN contact AS leaver ON leaver.id = address_closing.left_by
                ORDER BY topic.position""",
            {"contact": contact_id},
        )
    )


def ledger_of_contact(tx: Transaction, contact_id: int) -> list[Row[Any]]:
    """The contact's events, latest first: (id, at, topic_key, topic, kind, until, channel, evidence, recorded_by)."""
    return list(
        run_sql(
            tx,
            """SELECT consent_event.id, consent_event.at, topic.key AS topic_key, topic.name AS topic, kind, until, channel, evidence, user_account.name AS recorded_by
                FROM consent_event JOIN topic ON topic.id = topic_id
                LEFT JOIN user_account ON user_account.id = recorded_by
                WHERE contact_id = :contact ORDER BY consent_event.id DESC""",
            {"contact": contact_id},
            {"evidence": EVIDENCE_FORM},
        )
    )


def events_of(tx: Transaction, contact_id: int, topic_id: int) -> list[ConsentEvent]:
    """A contact's events in a topic, in the order in which they were recorded."""
    rows = run_sql(
        tx,
        "SELECT kind, at, until FROM consent_event WHERE contact_id = :contact AND topic_id = :topic ORDER BY id",
        {"contact": contact_id, "topic": topic_id},
    )
    return [ConsentEvent(kind=ConsentEventKind(row.kind), at=row.at, until=row.until) for row in rows]


def topic_is_used(tx: Transaction, topic_id: int) -> bool:
    """Does the ledger, a campaign or an import know this topic?"""
    rows = run_sql(
        tx,
        """SELECT EXISTS (SELECT FROM consent_event WHERE topic_id = :topic)
            OR EXISTS (SELECT FROM campaign WHERE topic_id = :topic)
            OR EXISTS (SELECT FROM import_file WHERE topic_id = :topic)
            OR EXISTS (SELECT FROM suppression WHERE topic_id = :topic) AS used""",
        {"topic": topic_id},
    )
    return bool(rows[0].used)
