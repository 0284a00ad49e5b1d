"""Contacts that may be one person: the same address, or the same name and another field."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, change_sql, run_sql

# Of how many pairs in a group it was said that they are different people.
_PARTED = """(SELECT count(*) FROM different_people
    WHERE one_id = ANY(array_agg(contact.id)) AND other_id = ANY(array_agg(contact.id)))"""
_GROUP = f"""array_agg(contact.id ORDER BY contact.id) AS ids,
    count(DISTINCT folded->>'first_name') AS first_names, {_PARTED} AS parted"""
# Not where everybody in a group was said to be somebody else than everybody else in it.
_PERHAPS_ONE = f"count(*) > 1 AND {_PARTED} < count(*) * (count(*) - 1) / 2"


def say_different(tx: Transaction, ids: Sequence[int], *, user_id: int | None, now: datetime) -> int:
    """Remember that these contacts are different people; of how many pairs that is new."""
    return change_sql(
        tx,
        """INSERT INTO different_people (one_id, other_id, said_by, at)
            SELECT one.id, other.id, :user, :now FROM contact AS one JOIN contact AS other ON one.id < other.id
            WHERE one.id = ANY(:ids) AND other.id = ANY(:ids) ON CONFLICT DO NOTHING""",
        {"ids": list(ids), "user": user_id, "now": now},
    )


def take_back_different(tx: Transaction, ids: Sequence[int]) -> int:
    """Forget that it was said of these contacts."""
    return change_sql(
        tx, "DELETE FROM different_people WHERE one_id = ANY(:ids) AND other_id = ANY(:ids)", {"ids": list(ids)}
    )


def same_address(tx: Transaction, limit: int) -> list[Row[Any]]:
    """(what, ids, first_names, parted): groups of contacts that share an address, by address."""
    return list(
        run_sql(
            tx,
            f"""SELECT address_folded AS what, {_GROUP} FROM contact
                WHERE deleted_at IS NULL AND address_folded IS NOT NULL
                GROUP BY 1 HAVING {_PERHAPS_ONE} ORDER BY 1 LIMIT :limit""",
            {"limit": limit},
        )
    )


def same_name_and(tx: Transaction, key: str, limit: int) -> list[Row[Any]]:
    """(what, ids, first_names, parted): groups that share both names and the text of a field, none of them blank."""
    return list(
        run_sql(
            tx,
            f"""SELECT min(concat_ws(' ', first_name, last_name)) || ', ' || min(folded->>CAST(:key AS text)) AS what,
                    {_GROUP} FROM contact
                WHERE deleted_at IS NULL AND folded->>'first_name' IS NOT NULL AND folded->>'last_name' IS NOT NULL
                    AND folded->>CAST(:key AS text) IS NOT NULL
                GROUP BY folded->>'first_name', folded->>'last_name', folded->>CAST(:key AS text)
                HAVING {_PERHAPS_ONE} ORDER BY 1 LIMIT :limit""",
            {"key": key, "limit": limit},
        )
    )


def move_to(tx: Transaction, *, kept_id: int, gone_id: int, now: datetime) -> None:
    """Hand a duplicate's tags, notes and deliveries over to the contact that stays, and mark the duplicate as deleted."""
    both = {"kept": kept_id, "gone": gone_id}
    change_sql(
        tx,
        """INSERT INTO contact_tag (contact_id, tag_id) SELECT :kept, tag_id FROM contact_tag WHERE contact_id = :gone
            ON CONFLICT DO NOTHING""",
        both,
    )
    # Left out is the narrower of the two.
    change_sql(
        tx,
        """INSERT INTO audience_member AS old (audience_id, contact_id, kind, change_set_id, added_by, at)
            SELECT audience_id, :kept, kind, NULL, added_by, at FROM audience_member WHERE contact_id = :gone
            ON CONFLICT (audience_id, contact_id) DO UPDATE SET kind = 'left_out' WHERE excluded.kind = 'left_out'""",
        both,
    )
    change_sql(
        tx,
        """INSERT INTO audience_snapshot (audience_id, contact_id)
            SELECT audience_id, :kept FROM audience_snapshot WHERE contact_id = :gone ON CONFLICT DO NOTHING""",
        both,
    )
    # Whoever wanted no post wants none.
    change_sql(
        tx,
        """INSERT INTO post_refusal (contact_id, at, wording, recorded_by)
            SELECT :kept, at, wording, recorded_by FROM post_refusal WHERE contact_id = :gone ON CONFLICT DO NOTHING""",
        both,
    )
    # Of two own limits, or wishes, the narrower one holds.
    change_sql(
        tx,
        """INSERT INTO own_limit AS old (contact_id, at_most, since)
            SELECT :kept, at_most, since FROM own_limit WHERE contact_id = :gone
            ON CONFLICT (contact_id) DO UPDATE SET at_most = 'month' WHERE excluded.at_most = 'month'""",
        both,
    )
    change_sql(
        tx,
        """INSERT INTO tracking_wish AS old (contact_id, wish, since)
            SELECT :kept, wish, since FROM tracking_wish WHERE contact_id = :gone
            ON CONFLICT (contact_id) DO UPDATE SET wish = 'off' WHERE excluded.wish = 'off'""",
        both,
    )
    change_sql(
        tx,
        """UPDATE printed_letter SET contact_id = :kept WHERE contact_id = :gone AND NOT EXISTS (
            SELECT FROM printed_letter AS other
            WHERE other.printing_id = printed_letter.printing_id AND other.contact_id = :kept)""",
        both,
    )
    change_sql(tx, "UPDATE contact_note SET contact_id = :kept WHERE contact_id = :gone", both)
    change_sql(
        tx,
        """UPDATE response_event SET contact_id = :kept FROM delivery
            WHERE delivery.id = delivery_id AND delivery.contact_id = :gone""",
        both,
    )
    change_sql(
        tx,
        # What both got in one run stays with the duplicate: a run counts once, and its address has the message as well.
        # The deliveries name the runs, which the key of this table begins with.
        """UPDATE sent_mail SET contact_id = :kept
            WHERE contact_id = :gone AND run_id IN (SELECT run_id FROM delivery WHERE contact_id = :gone)
                AND NOT EXISTS (SELECT FROM sent_mail AS other
                    WHERE other.run_id = sent_mail.run_id AND other.contact_id = :kept)""",
        both,
    )
    change_sql(tx, "UPDATE delivery SET contact_id = :kept WHERE contact_id = :gone", both)
    change_sql(
        tx,
        "UPDATE contact SET deleted_at = :now, updated_at = :now, merged_into = :kept WHERE id = :gone",
        {**both, "now": now},
    )


def carry_suppression(tx: Transaction, *, kept_id: int, addresses: Sequence[str], now: datetime) -> int:
    """Suppress the address that stays for whatever any of the merged addresses is suppressed for; how many entries."""
    return change_sql(
        tx,
        """INSERT INTO suppression (address_folded, topic_id, reason, evidence, at, recorded_by)
            SELECT DISTINCT ON (topic_id) contact.address_folded, topic_id, reason,
                evidence || jsonb_build_object('merged', suppression.id), CAST(:now AS timestamptz), recorded_by
            FROM suppression, contact
            WHERE contact.id = :kept AND contact.address_folded IS NOT NULL AND lifted_at IS NULL
                AND suppression.address_folded = ANY(:addresses)
                AND suppression.address_folded <> contact.address_folded
            ORDER BY topic_id, suppression.id
            ON CONFLICT DO NOTHING""",
        {"kept": kept_id, "addresses": list(addresses), "now": now},
    )


def people(tx: Transaction, ids: Sequence[int]) -> list[Row[Any]]:
    """What is compared of contacts: (id, own, the standard columns, address_folded, created_at, updated_at)."""
    return list(
        run_sql(
            tx,
            """SELECT id, contact_no, address, address_folded, first_name, last_name, language, own,
                    created_at, updated_at
                FROM contact WHERE id = ANY(:ids) AND deleted_at IS NULL ORDER BY id""",
            {"ids": list(ids)},
        )
    )


def suppressed_for(tx: Transaction, ids: Sequence[int]) -> list[Row[Any]]:
    """(id, address, reason, topic): what the addresses of contacts are suppressed for, everything (None) or a topic."""
    return list(
        run_sql(
            tx,
            """SELECT contact.id, contact.address, suppression.reason, topic.name AS topic
                FROM contact JOIN suppression ON suppression.address_folded = contact.address_folded AND lifted_at IS NULL
                LEFT JOIN topic ON topic.id = suppression.topic_id
                WHERE contact.id = ANY(:ids) ORDER BY 2, 4 NULLS FIRST""",
            {"ids": list(ids)},
        )
    )
