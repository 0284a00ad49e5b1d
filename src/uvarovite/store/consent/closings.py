"""What was closed for an address: marks beside the ledger, moved on with each event (core.consent.closing).

The marks of those who are gone from an address are written by a trigger on `contact` (migration 0010), so that no way of
deleting, merging, correcting or importing can leave them out.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.consent import closed_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.naming import name_sql

# Joins what was closed at the address of `contact` to `consent` of any topic.
AT_ADDRESS = """LEFT JOIN address_closing ON address_closing.address_folded = contact.address_folded
    AND address_closing.topic_id = consent.topic_id"""
# How a contact stands with the topic `:topic`, by person and by address, and whom a statement by somebody else can
# subscribe: never those who have left, nor whoever came to an address that was closed.
STANDING_JOINS = """LEFT JOIN consent ON consent.contact_id = contact.id AND consent.topic_id = :topic
    LEFT JOIN address_closing ON address_closing.address_folded = contact.address_folded
        AND address_closing.topic_id = :topic"""
CLOSED = f"(coalesce(consent.state = 'left', FALSE) OR {closed_sql('left', 'address_closing', 'consent.since')})"
# What a topic is called for somebody for whom it is closed, by whomever.
STATE = f"CASE WHEN {closed_sql('left', 'address_closing', 'consent.since')} THEN 'left' ELSE consent.state END"
OPEN_TO_OTHERS = f"(coalesce(consent.state, 'never') IN ('never', 'asked') AND NOT {CLOSED})"


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What was said about a topic; `until` is set for a pause. See store.consent.append_events for the last two."""

    topic_id: int
    at: datetime
    until: datetime | None
    mailbox: str | None
    for_address: bool | None


def close(tx: Transaction, people: str, parameters: Mapping[str, Any], told: Told) -> int:
    """Close the topic for the addresses of those who left or pause, where it is theirs to close; how many addresses."""
    whole = "TRUE" if told.mailbox is not None or told.for_address else "FALSE"
    if told.mailbox is None and told.for_address is None:
        whole = """NOT EXISTS (SELECT FROM contact AS other WHERE other.address_folded = contact.address_folded
                AND other.id <> contact.id AND other.deleted_at IS NULL)"""
    if told.until is None:
        columns, values = "left_at, left_by, left_event", "CAST(:c_at AS timestamptz), contact.id, consent.event_id"
        moved = """left_at = excluded.left_at, left_spares = NULL, left_by = excluded.left_by,
                left_event = excluded.left_event"""
    else:
        columns, values = "paused_until, paused_by", "CAST(:c_until AS timestamptz), contact.id"
        moved = """paused_until = greatest(old.paused_until, excluded.paused_until), paused_spares = NULL,
                paused_by = excluded.paused_by"""
    return change_sql(
        tx,
        f"""INSERT INTO address_closing AS old (address_folded, topic_id, {columns})
            SELECT DISTINCT ON (1) coalesce(:c_mailbox, contact.address_folded), CAST(:c_topic AS bigint), {values}
            FROM ({people}) AS told(contact_id) JOIN contact ON contact.id = told.contact_id AND contact.erased_at IS NULL
            JOIN consent ON consent.contact_id = contact.id AND consent.topic_id = :c_topic
            WHERE coalesce(:c_mailbox, contact.address_folded) IS NOT NULL AND {whole}
            ON CONFLICT (address_folded, topic_id) DO UPDATE SET {moved}""",
        {
            **parameters,
            "c_topic": told.topic_id,
            "c_at": told.at,
            "c_until": told.until,
            "c_mailbox": told.mailbox,
        },
    )


def open_again(tx: Transaction, people: str, parameters: Mapping[str, Any], told: Told, *, from_mailbox: bool) -> int:
    """Take away what those who opted in again have closed for their address; from the mailbox itself, whoever closed it.

    How many addresses. What a person who is there and still has the address closed, stays: another's word is not theirs.
    """
    theirs = "TRUE"
    if not from_mailbox and told.mailbox is None:
        theirs = """NOT EXISTS (SELECT FROM contact AS other WHERE other.id = ANY(ARRAY[old.left_by, old.paused_by])
                AND other.id <> contact.id AND other.deleted_at IS NULL AND other.address_folded = old.address_folded)"""
    return change_sql(
        tx,
        f"""DELETE FROM address_closing AS old USING ({people}) AS told(contact_id)
            JOIN contact ON contact.id = told.contact_id
            WHERE old.topic_id = :c_topic AND old.address_folded = coalesce(:c_mailbox, contact.address_folded)
                AND {theirs}""",
        {**parameters, "c_topic": told.topic_id, "c_mailbox": told.mailbox},
    )


def is_closed(tx: Transaction, address_folded: str, topic_id: int) -> bool:
    """Is a topic closed for everyone who has an address?"""
    rows = run_sql(
        tx,
        """SELECT FROM address_closing WHERE address_folded = :address AND topic_id = :topic
            AND left_at IS NOT NULL AND left_spares IS NULL""",
        {"address": address_folded, "topic": topic_id},
    )
    return bool(rows)


def closing_at(tx: Transaction, address_folded: str, topic_id: int) -> Row[Any] | None:
    """What is closed at an address: (left_at, left_name, channel, paused_until, paused_name); names are NULL once erased."""
    rows = run_sql(
        tx,
        f"""SELECT left_at, CASE WHEN leaver.erased_at IS NULL THEN {name_sql("leaver")} END AS left_name,
                consent_event.channel, paused_until, CASE WHEN pausing.erased_at IS NULL THEN {name_sql("pausing")} END AS paused_name
            FROM address_closing
            LEFT JOIN contact AS leaver ON leaver.id = left_by LEFT JOIN contact AS pausing ON pausing.id = paused_by
            LEFT JOIN consent_event ON consent_event.id = left_event
            WHERE address_closing.address_folded = :address AND address_closing.topic_id = :topic""",
        {"address": address_folded, "topic": topic_id},
    )
    return rows[0] if rows else None


def forget(tx: Transaction) -> list[str]:
    """Take the marks of those in `chosen`, who are being erased, apart from them; the addresses that nobody else has.

    Somebody who has such an address keeps the mark, without a word about whose it was.
    """
    marked = """(old.left_by IN (SELECT contact_id FROM chosen) OR old.paused_by IN (SELECT contact_id FROM chosen))"""
    gone = run_sql(
        tx,
        f"""DELETE FROM address_closing AS old WHERE {marked} AND NOT EXISTS (SELECT FROM contact
                WHERE contact.address_folded = old.address_folded AND contact.merged_into IS NULL
                    AND contact.id NOT IN (SELECT contact_id FROM chosen))
            RETURNING old.address_folded""",
    )
    change_sql(
        tx,
        f"""UPDATE address_closing AS old SET left_by = CASE WHEN left_by IN (SELECT contact_id FROM chosen) THEN NULL
                    ELSE left_by END,
                paused_by = CASE WHEN paused_by IN (SELECT contact_id FROM chosen) THEN NULL ELSE paused_by END
            WHERE {marked}""",
    )
    return sorted({row.address_folded for row in gone})
