"""Doing one thing to many contacts: who they are stands in the temporary table `chosen`, each step is one statement."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.contacts import Folded
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.consent.closings import CLOSED, OPEN_TO_OTHERS, STANDING_JOINS
from uvarovite.store.contacts.records import STANDARD, with_key_sql, write_search
from uvarovite.store.database import Transaction, change_sql, run_sql

# How long deleted contacts can be brought back.
DELETED_LASTS = timedelta(days=30)


def choose(tx: Transaction, *, ids: Sequence[int] | None, matching: SqlFragment | None) -> int:
    """Put contacts that are there into `chosen`, which lives as long as the transaction; how many they are."""
    change_sql(tx, "CREATE TEMP TABLE chosen (contact_id bigint PRIMARY KEY) ON COMMIT DROP")
    if ids is not None:
        return change_sql(
            tx,
            "INSERT INTO chosen SELECT id FROM contact WHERE id = ANY(:ids) AND deleted_at IS NULL",
            {"ids": list(ids)},
        )
    assert matching is not None
    return change_sql(tx, f"INSERT INTO chosen {matching.text}", matching.parameters)


def set_field(
    tx: Transaction, change_set_id: int, *, key: str, stored: Any, folded: Folded | None, now: datetime
) -> int:
    """Give a field the same value (None: blank) for all who are chosen; how many had another one before."""
    parameters = {
        "set": change_set_id,
        "key": key,
        "stored": stored if key in STANDARD else orjson.dumps(stored).decode(),
        "folded": orjson.dumps(folded).decode(),
        "now": now,
    }
    if key in STANDARD:
        before, after = f"to_jsonb(contact.{key})", "to_jsonb(CAST(:stored AS text))"
        assigned = f"{key} = :stored"
    else:
        before, after = "own->CAST(:key AS text)", "nullif(CAST(:stored AS jsonb), 'null')"
        assigned = "own = " + with_key_sql("own", ":key", ":stored")
    change_sql(
        tx,
        f"""INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, contact.id, jsonb_build_object(CAST(:key AS text),
                jsonb_build_object('before', {before}, 'after', {after}))
            FROM chosen JOIN contact ON contact.id = chosen.contact_id WHERE ({before}) IS DISTINCT FROM ({after})""",
        parameters,
    )
    changed = change_sql(
        tx,
        f"""UPDATE contact SET {assigned}, updated_at = :now, folded = {with_key_sql("folded", ":key", ":folded")}
            FROM contact_change WHERE contact.id = contact_change.contact_id AND change_set_id = :set""",
        parameters,
    )
    write_search(tx, "SELECT contact_id FROM contact_change WHERE change_set_id = :set", {"set": change_set_id})
    return changed


def note_tags(tx: Transaction, change_set_id: int, contact_ids: Sequence[int], name: str, *, put: bool) -> None:
    """Note a tag that was put on, or taken off, as a change of each contact."""
    change_sql(
        tx,
        """INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, unnest(CAST(:ids AS bigint[])), CAST(:changes AS jsonb)""",
        {
            "set": change_set_id,
            "ids": list(contact_ids),
            "changes": orjson.dumps(
                {"tags": {"before": None if put else [name], "after": [name] if put else None}}
            ).decode(),
        },
    )


def delete_chosen(tx: Transaction, change_set_id: int, now: datetime) -> int:
    """Mark all who are chosen as deleted; how many."""
    hit = change_sql(
        tx,
        """UPDATE contact SET deleted_at = :now FROM chosen
            WHERE contact.id = chosen.contact_id AND contact.deleted_at IS NULL""",
        {"now": now},
    )
    _note(tx, change_set_id, "deleted")
    write_search(tx, "SELECT contact_id FROM chosen", {})
    return hit


def _note(tx: Transaction, change_set_id: int, key: str) -> None:
    change_sql(
        tx,
        """INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, contact_id, jsonb_build_object(CAST(:key AS text), jsonb_build_object('before', false, 'after',
                true)) FROM chosen""",
        {"set": change_set_id, "key": key},
    )


def bring_back(tx: Transaction, change_set_id: int, deleted_at: datetime) -> tuple[int, int]:
    """(brought back, not): undo a deletion; whose contact number was given to somebody else stays deleted."""
    back = change_sql(
        tx,
        """UPDATE contact SET deleted_at = NULL FROM contact_change
            WHERE change_set_id = :set AND contact.id = contact_change.contact_id AND deleted_at = :at
                AND erased_at IS NULL AND NOT EXISTS (SELECT FROM contact AS other
                    WHERE other.contact_no = contact.contact_no AND other.deleted_at IS NULL)""",
        {"set": change_set_id, "at": deleted_at},
    )
    write_search(tx, "SELECT contact_id FROM contact_change WHERE change_set_id = :set", {"set": change_set_id})
    left = run_sql(
        tx,
        """SELECT count(*) FROM contact_change JOIN contact ON contact.id = contact_change.contact_id
            WHERE change_set_id = :set AND deleted_at IS NOT NULL""",
        {"set": change_set_id},
    )
    return back, int(left[0][0])


def suppress_chosen(tx: Transaction, change_set_id: int, *, why: str, at: datetime, recorded_by: int | None) -> int:
    """Put the addresses of all who are chosen on the suppression list; how many were not there yet."""
    hit = change_sql(
        tx,
        """INSERT INTO suppression (address_folded, reason, evidence, at, recorded_by)
            SELECT DISTINCT address_folded, 'by_hand', jsonb_build_object('why', CAST(:why AS text), 'change_set',
                CAST(:set AS bigint)), CAST(:at AS timestamptz), CAST(:by AS bigint)
            FROM chosen JOIN contact ON contact.id = chosen.contact_id WHERE address_folded IS NOT NULL
            ON CONFLICT DO NOTHING""",
        {"why": why, "set": change_set_id, "at": at, "by": recorded_by},
    )
    _note(tx, change_set_id, "left_out")
    return hit


def lift_of_change_set(tx: Transaction, change_set_id: int, *, at: datetime, user_id: int | None) -> int:
    """Take off the list what a change set put there; how many entries."""
    return change_sql(
        tx,
        """UPDATE suppression SET lifted_at = :at, lifted_by = :by, lifted_why = 'undone'
            WHERE lifted_at IS NULL AND evidence @> jsonb_build_object('change_set', CAST(:set AS bigint))""",
        {"at": at, "by": user_id, "set": change_set_id},
    )


def may_be_subscribed(tx: Transaction, topic_id: int) -> dict[str, int]:
    """Of those who are chosen: how many would be subscribed, are already, and have left and stay out."""
    row = run_sql(
        tx,
        f"""SELECT count(*) FILTER (WHERE {OPEN_TO_OTHERS}) AS subscribed,
                count(*) FILTER (WHERE consent.state = 'subscribed' AND NOT {CLOSED}) AS already,
                count(*) FILTER (WHERE {CLOSED}) AS left
            FROM chosen JOIN contact ON contact.id = chosen.contact_id {STANDING_JOINS}""",
        {"topic": topic_id},
    )[0]
    return dict(row._mapping)


# Whom a statement by somebody else can subscribe, of those who are chosen.
MAY_BE_SUBSCRIBED = f"""SELECT chosen.contact_id FROM chosen JOIN contact ON contact.id = chosen.contact_id
    {STANDING_JOINS} WHERE {OPEN_TO_OTHERS}"""


def subscribed_by(tx: Transaction, change_set_id: int) -> list[Row[Any]]:
    """(topic_id) of the topics in which a change set stated consent."""
    return list(
        run_sql(
            tx,
            """SELECT DISTINCT topic_id FROM consent_event
                WHERE evidence @> jsonb_build_object('change_set', CAST(:set AS bigint))""",
            {"set": change_set_id},
        )
    )


STILL_ITS_OWN = """SELECT consent.contact_id FROM consent JOIN consent_event ON consent_event.id = consent.event_id
    WHERE consent.topic_id = :topic AND evidence @> jsonb_build_object('change_set', CAST(:set AS bigint))"""


def latest_change_sets(tx: Transaction, limit: int) -> list[Row[Any]]:
    """Change sets of many contacts, latest first: (id, at, by, channel, act, facts, contacts, undone_at)."""
    return list(
        run_sql(
            tx,
            """SELECT change_set.id, at, user_account.name AS by, channel, act, facts, contacts, undone_at
                FROM change_set
                LEFT JOIN user_account ON user_account.id = user_id
                WHERE channel IN ('bulk', 'import', 'merge') ORDER BY change_set.id DESC LIMIT :limit""",
            {"limit": limit},
        )
    )
