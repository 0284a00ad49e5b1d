"""Bringing people in: judged rows into a temporary table, compared with who is there, then written as one.

Looking and writing run the same statements in the same order; looking rolls back.
"""

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.contacts import record_to_json
from uvarovite.core.contacts.judging import RefusedRow, TakenRow
from uvarovite.core.contacts.records import folded_values
from uvarovite.store.database import Transaction, change_sql, psycopg_connection, run_sql

_STANDARD = ("contact_no", "address", "first_name", "last_name", "language")


# A file that was looked at and left is nobody's business after a day.
DRAFT_LASTS = timedelta(days=1)


def forget_old_drafts(tx: Transaction, now: datetime) -> int:
    """Remove files that were looked at and never written; how many."""
    return change_sql(
        tx, "DELETE FROM import_file WHERE written_at IS NULL AND created_at < :old", {"old": now - DRAFT_LASTS}
    )


def stage_rows(tx: Transaction, import_id: int, judged: Iterable[TakenRow | RefusedRow]) -> None:
    """Stream judged rows into the temporary tables `incoming` and `refused`, which live as long as the transaction."""
    change_sql(
        tx,
        """CREATE TEMP TABLE incoming (row integer PRIMARY KEY, contact_no text, address text, address_folded text,
            first_name text, last_name text, language text, "values" jsonb, folded jsonb, contact_id bigint,
            verdict text) ON COMMIT DROP""",
    )
    change_sql(
        tx,
        "CREATE TEMP TABLE refused (row integer PRIMARY KEY, code text, message text, cells jsonb) ON COMMIT DROP",
    )
    refused: list[RefusedRow] = []
    cursor = psycopg_connection(tx).cursor()
    columns = 'row, contact_no, address, address_folded, first_name, last_name, language, "values", folded'
    with cursor.copy(f"COPY incoming ({columns}) FROM STDIN") as copy:
        for row in judged:
            if isinstance(row, RefusedRow):
                refused.append(row)
                continue
            standard = [row.record.get(key) for key in _STANDARD]
            own = {key: value for key, value in row.record.items() if key not in _STANDARD}
            copy.write_row(
                (
                    row.row, standard[0], standard[1], row.address_folded, *standard[2:],
                    orjson.dumps(record_to_json(own)).decode(), orjson.dumps(folded_values(row.record)).decode(),
                )
            )  # fmt: skip
    with cursor.copy("COPY refused (row, code, message, cells) FROM STDIN") as copy:
        for fault in refused:
            copy.write_row((fault.row, fault.code, fault.message, orjson.dumps(fault.cells).decode()))


_RESOLVE = (
    # Who is meant: by contact number; else by address, where only one person has it.
    """UPDATE incoming SET contact_id = contact.id FROM contact
       WHERE contact.contact_no = incoming.contact_no AND contact.deleted_at IS NULL""",
    """WITH candidate AS (
           SELECT incoming.row, min(contact.id) AS id, count(*) AS people FROM incoming
           JOIN contact ON contact.address_folded = incoming.address_folded AND contact.deleted_at IS NULL
           WHERE incoming.contact_id IS NULL AND (incoming.contact_no IS NULL OR contact.contact_no IS NULL)
           GROUP BY incoming.row)
       UPDATE incoming SET contact_id = CASE WHEN people = 1 THEN candidate.id END,
           verdict = CASE WHEN people > 1 THEN 'ambiguous' END
       FROM candidate WHERE candidate.row = incoming.row""",
    """UPDATE incoming SET verdict = 'repeated' FROM (
           SELECT row, row_number() OVER (PARTITION BY contact_id ORDER BY row) AS place FROM incoming
           WHERE contact_id IS NOT NULL) AS placed
       WHERE placed.row = incoming.row AND placed.place > 1""",
    """INSERT INTO refused (row, code, message, cells)
       SELECT row, verdict, CASE verdict
           WHEN 'ambiguous' THEN 'Several people have this address; a contact number would say who is meant.'
           ELSE 'An earlier row stands for the same person already.' END, '[]'
       FROM incoming WHERE verdict IS NOT NULL""",
    "DELETE FROM incoming WHERE verdict IS NOT NULL",
    # A blank cell changes nothing; what is there in a cell replaces what was in the record.
    """UPDATE incoming SET verdict = CASE
           WHEN (coalesce(incoming.contact_no, contact.contact_no), coalesce(incoming.address, contact.address),
                 coalesce(incoming.first_name, contact.first_name), coalesce(incoming.last_name, contact.last_name),
                 coalesce(incoming.language, contact.language), contact."values" || incoming."values")
               IS NOT DISTINCT FROM (contact.contact_no, contact.address, contact.first_name, contact.last_name,
                 contact.language, contact."values")
           THEN 'same' ELSE 'changed' END
       FROM contact WHERE contact.id = incoming.contact_id""",
    "UPDATE incoming SET verdict = 'new' WHERE contact_id IS NULL",
    "ANALYZE incoming",
)


def resolve_rows(tx: Transaction) -> dict[str, int]:
    """Decide for each staged row whether it is new, changed or the same; the counts, the refused ones with them."""
    for statement in _RESOLVE:
        change_sql(tx, statement)
    counts = {"new": 0, "changed": 0, "same": 0}
    counts |= {row.verdict: row.n for row in run_sql(tx, "SELECT verdict, count(*) AS n FROM incoming GROUP BY 1")}
    counts["refused"] = int(run_sql(tx, "SELECT count(*) FROM refused")[0][0])
    return counts


def changed_samples(tx: Transaction, limit: int) -> list[Row[Any]]:
    """Changed rows beside what is there now: (row, name, before, after)."""
    return list(
        run_sql(
            tx,
            """SELECT incoming.row, concat_ws(' ', contact.first_name, contact.last_name) AS name,
                contact."values" || jsonb_strip_nulls(jsonb_build_object('contact_no', contact.contact_no, 'address',
                    contact.address, 'first_name', contact.first_name, 'last_name', contact.last_name, 'language',
                    contact.language)) AS before,
                incoming."values" || jsonb_strip_nulls(jsonb_build_object('contact_no', incoming.contact_no, 'address',
                    incoming.address, 'first_name', incoming.first_name, 'last_name', incoming.last_name, 'language',
                    incoming.language)) AS after
            FROM incoming JOIN contact ON contact.id = incoming.contact_id
            WHERE incoming.verdict = 'changed' ORDER BY incoming.row LIMIT :limit""",
            {"limit": limit},
        )
    )


def new_samples(tx: Transaction, limit: int) -> list[Row[Any]]:
    """New rows: (row, record)."""
    return list(
        run_sql(
            tx,
            """SELECT row, "values" || jsonb_strip_nulls(jsonb_build_object('contact_no', contact_no, 'address', address,
                'first_name', first_name, 'last_name', last_name, 'language', language)) AS record
            FROM incoming WHERE verdict = 'new' ORDER BY row LIMIT :limit""",
            {"limit": limit},
        )
    )


def refusals(tx: Transaction, limit: int) -> list[Row[Any]]:
    """Refused rows of the running transaction."""
    return list(
        run_sql(tx, "SELECT row, code, message, cells FROM refused ORDER BY row LIMIT :limit", {"limit": limit})
    )


def set_refused_cells(tx: Transaction, cells: dict[int, list[str]]) -> None:
    """Give refused rows their cells."""
    change_sql(
        tx,
        """UPDATE refused SET cells = CAST(told.cells AS jsonb)
            FROM unnest(CAST(:rows AS integer[]), CAST(:cells AS text[])) AS told(row, cells)
            WHERE refused.row = told.row""",
        {"rows": list(cells), "cells": [orjson.dumps(one).decode() for one in cells.values()]},
    )


def consent_outlook(tx: Transaction, topic_id: int) -> dict[str, int]:
    """How many of the staged people would be subscribed, are already, and have left and stay out."""
    row = run_sql(
        tx,
        """SELECT count(*) FILTER (WHERE consent.state IS NULL OR consent.state IN ('never', 'asked')) AS subscribed,
                count(*) FILTER (WHERE consent.state = 'subscribed') AS already,
                count(*) FILTER (WHERE consent.state = 'left') AS left_before
            FROM incoming LEFT JOIN consent ON consent.contact_id = incoming.contact_id AND consent.topic_id = :topic""",
        {"topic": topic_id},
    )[0]
    return {"subscribed": row.subscribed, "already": row.already, "left": row.left_before}


# The text that the search looks through: every text of a record, folded.
_SEARCH = "(SELECT coalesce(string_agg(value, ' ' ORDER BY key), '') FROM jsonb_each_text({folded}))"


def write_rows(tx: Transaction, import_id: int, now: datetime) -> None:
    """Write the resolved rows; `incoming.contact_id` is set for all of them afterwards."""
    change_sql(
        tx,
        f"""UPDATE contact SET contact_no = coalesce(incoming.contact_no, contact.contact_no),
                address = coalesce(incoming.address, contact.address),
                address_folded = coalesce(incoming.address_folded, contact.address_folded),
                first_name = coalesce(incoming.first_name, contact.first_name),
                last_name = coalesce(incoming.last_name, contact.last_name),
                language = coalesce(incoming.language, contact.language),
                "values" = contact."values" || incoming."values", folded = contact.folded || incoming.folded,
                search = {_SEARCH.format(folded="contact.folded || incoming.folded")}, updated_at = :now
            FROM incoming WHERE incoming.verdict = 'changed' AND contact.id = incoming.contact_id""",
        {"now": now},
    )
    change_sql(
        tx,
        "UPDATE incoming SET contact_id = nextval(pg_get_serial_sequence('contact', 'id')) WHERE verdict = 'new'",
    )
    change_sql(
        tx,
        f"""INSERT INTO contact (id, contact_no, address, address_folded, first_name, last_name, language, "values",
                folded, search, import_id, created_at, updated_at)
            OVERRIDING SYSTEM VALUE
            SELECT contact_id, contact_no, address, address_folded, first_name, last_name, language, "values", folded,
                {_SEARCH.format(folded="incoming.folded")}, :import_id, :now, :now
            FROM incoming WHERE verdict = 'new' ORDER BY row""",
        {"import_id": import_id, "now": now},
    )
    change_sql(
        tx,
        """INSERT INTO import_refusal (import_id, row, code, message, cells)
            SELECT :import_id, row, code, message, cells FROM refused""",
        {"import_id": import_id},
    )
