"""The ledger of consent and the table of current states, kept in step by one statement; the suppression list."""

from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.consent import ConsentEventKind, SuppressionReason, next_state_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Topic


def topics(tx: Transaction) -> list[Topic]:
    """All topics in their order."""
    return list(tx.exec(select(Topic).order_by(col(Topic.position), col(Topic.id))).all())


def topic_by_key(tx: Transaction, key: str) -> Topic | None:
    """A topic by its key."""
    return tx.exec(select(Topic).where(Topic.key == key)).first()


def append_events(
    tx: Transaction,
    people: str,
    parameters: dict[str, Any],
    *,
    topic_id: int,
    kind: ConsentEventKind,
    at: datetime,
    way: str,
    evidence: dict[str, Any],
    recorded_by: int | None,
) -> int:
    """Append one event for each contact that `people` selects, and move the current states on; how many there were.

    `people` is SQL text of ours that gives one column, the contact's id, each at most once; `parameters` are its own.
    """
    moved = next_state_sql("consent.state", "excluded.last_kind")
    return change_sql(
        tx,
        f"""
        WITH people(contact_id) AS ({people}),
        appended AS (
            INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence, recorded_by)
            SELECT contact_id, :e_topic, :e_kind, :e_at, :e_way, CAST(:e_evidence AS jsonb), :e_by FROM people
            RETURNING id, contact_id, topic_id, kind, at)
        INSERT INTO consent (contact_id, topic_id, state, since, last_kind, event_id)
        SELECT contact_id, topic_id, {next_state_sql("'never'", "kind")}, at, kind, id FROM appended
        ON CONFLICT (contact_id, topic_id) DO UPDATE SET
            state = {moved},
            since = CASE WHEN {moved} = consent.state THEN consent.since ELSE excluded.since END,
            last_kind = excluded.last_kind, event_id = excluded.event_id""",
        {
            **parameters,
            "e_topic": topic_id,
            "e_kind": kind.value,
            "e_at": at,
            "e_way": way,
            "e_evidence": orjson.dumps(evidence).decode(),
            "e_by": recorded_by,
        },
    )


def append_for_import(
    tx: Transaction, *, topic_id: int, at: datetime, evidence: dict[str, Any], recorded_by: int | None
) -> int:
    """Record the stated consent of the staged people, where the ledger lets an import speak for them."""
    return append_events(
        tx,
        """SELECT incoming.contact_id FROM incoming
           LEFT JOIN consent ON consent.contact_id = incoming.contact_id AND consent.topic_id = :topic
           WHERE consent.state IS NULL OR consent.state IN ('never', 'asked')""",
        {"topic": topic_id},
        topic_id=topic_id,
        kind=ConsentEventKind.IMPORTED,
        at=at,
        way="import",
        evidence=evidence,
        recorded_by=recorded_by,
    )


def append_for_contact(
    tx: Transaction,
    contact_id: int,
    *,
    topic_id: int,
    kind: ConsentEventKind,
    at: datetime,
    way: str,
    evidence: dict[str, Any],
    recorded_by: int | None = None,
) -> None:
    """Append one event for one contact."""
    append_events(
        tx,
        "SELECT CAST(:contact AS bigint)",
        {"contact": contact_id},
        topic_id=topic_id,
        kind=kind,
        at=at,
        way=way,
        evidence=evidence,
        recorded_by=recorded_by,
    )


def consent_of_contact(tx: Transaction, contact_id: int) -> list[Row[Any]]:
    """Every topic with the contact's state in it: (key, name, state, since), NULL where never asked."""
    return list(
        run_sql(
            tx,
            """SELECT topic.key, topic.name, consent.state, consent.since FROM topic
                LEFT JOIN consent ON consent.topic_id = topic.id AND consent.contact_id = :contact
                ORDER BY topic.position""",
            {"contact": contact_id},
        )
    )


def ledger_of_contact(tx: Transaction, contact_id: int) -> list[Row[Any]]:
    """The contact's events, latest first: (at, topic, kind, way, evidence, recorded_by)."""
    return list(
        run_sql(
            tx,
            """SELECT consent_event.at, topic.name AS topic, kind, way, evidence, user_account.name AS recorded_by
                FROM consent_event JOIN topic ON topic.id = topic_id
                LEFT JOIN user_account ON user_account.id = recorded_by
                WHERE contact_id = :contact ORDER BY consent_event.id DESC""",
            {"contact": contact_id},
        )
    )


def suppress(
    tx: Transaction, address_folded: str, reason: SuppressionReason, evidence: dict[str, Any], at: datetime
) -> None:
    """Put an address on the list; one that is on it stays as it is."""
    change_sql(
        tx,
        """INSERT INTO suppression (address_folded, reason, evidence, at)
            VALUES (:address, :reason, CAST(:evidence AS jsonb), :at)
            ON CONFLICT (address_folded) WHERE lifted_at IS NULL DO NOTHING""",
        {
            "address": address_folded,
            "reason": reason.value,
            "evidence": orjson.dumps(evidence).decode(),
            "at": at,
        },
    )


def suppression_of(tx: Transaction, address_folded: str | None) -> Row[Any] | None:
    """The entry in force for an address."""
    rows = run_sql(
        tx,
        "SELECT reason, at, evidence FROM suppression WHERE address_folded = :address AND lifted_at IS NULL",
        {"address": address_folded},
    )
    return rows[0] if rows else None
