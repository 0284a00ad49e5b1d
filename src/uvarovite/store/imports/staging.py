"""A file's bytes and its validated rows, from the first look until they are written or left.

The staged rows stay in a table of their own, so that a large file is read once. That table is not logged: after a crash
it is empty, and the file is looked at again.
"""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.contacts.faults import FAULTS_FORM
from uvarovite.core.contacts.import_states import UNDER_WAY
from uvarovite.core.contacts.validating import RefusedRow, TakenRow
from uvarovite.store.database import Transaction, change_sql, psycopg_connection, run_sql
from uvarovite.store.states import states_sql

# A file that was looked at and left is nobody's business after a day.
DRAFT_LASTS = timedelta(days=1)


def staged(import_id: int) -> str:
    """The name of an import's staging table."""
    return f"import_rows_{int(import_id)}"


def get_piece(tx: Transaction, import_id: int, number: int) -> bytes | None:
    """One piece of a file's bytes, counted from 0; None behind the last one."""
    rows = run_sql(
        tx,
        "SELECT content FROM import_piece WHERE import_id = :id AND number = :number",
        {"id": import_id, "number": number},
    )
    return bytes(rows[0].content) if rows else None


def put_pieces(tx: Transaction, import_id: int, content: Iterable[bytes]) -> int:
    """Keep a file's bytes; how many there were."""
    size = 0
    for number, piece in enumerate(content):
        size += len(piece)
        change_sql(
            tx,
            "INSERT INTO import_piece (import_id, number, content) VALUES (:id, :number, :content)",
            {"id": import_id, "number": number, "content": piece},
        )
    return size


def is_staged(tx: Transaction, import_id: int) -> bool:
    """Are the rows there still? After a crash of the database they are gone."""
    rows = run_sql(tx, "SELECT to_regclass(:name) IS NOT NULL AS there", {"name": staged(import_id)})
    return bool(rows[0].there)


def rows_staged(tx: Transaction, import_id: int) -> int:
    """How many rows there are."""
    return int(run_sql(tx, f"SELECT count(*) FROM {staged(import_id)}")[0][0])


def staged_domains(tx: Transaction, import_id: int) -> dict[str, int]:
    """How many staged rows have each domain."""
    rows = run_sql(
        tx,
        f"""SELECT split_part(address_folded, '@', 2) AS domain, count(*) AS n FROM {staged(import_id)}
            WHERE address_folded IS NOT NULL GROUP BY 1""",
    )
    return {row.domain: row.n for row in rows}


def drop_staged(tx: Transaction, import_id: int) -> None:
    """Let the staged rows and the file's bytes go."""
    change_sql(tx, f"DROP TABLE IF EXISTS {staged(import_id)}")
    change_sql(tx, "DELETE FROM import_piece WHERE import_id = :id", {"id": import_id})


def forget_old_drafts(tx: Transaction, now: datetime) -> int:
    """Remove files that were looked at and never written; how many."""
    old = run_sql(
        tx,
        f"""SELECT id FROM import_file WHERE written_at IS NULL AND created_at < :old
            AND state NOT IN ({states_sql(UNDER_WAY)}) FOR UPDATE SKIP LOCKED""",
        {"old": now - DRAFT_LASTS},
    )
    for row in old:
        drop_staged(tx, row.id)
        change_sql(tx, "DELETE FROM import_file WHERE id = :id", {"id": row.id})
    return len(old)


def dead_jobs(tx: Transaction) -> list[int]:
    """Imports that say they are under way while nobody is at work: whoever is holds the row's lock."""
    rows = run_sql(tx, f"SELECT id FROM import_file WHERE state IN ({states_sql(UNDER_WAY)}) FOR UPDATE SKIP LOCKED")
    return [row.id for row in rows]


_COLUMNS = "row, record, contact_no, address, address_folded, first_name, last_name, language, own, folded, search, tags, topics, audiences"


# Lists of texts of different lengths make no array of arrays; each comes as JSON.
_TEXTS = "ARRAY(SELECT jsonb_array_elements_text(CAST(told.cells AS jsonb)))"


def stage_rows(tx: Transaction, import_id: int, validated: Iterable[TakenRow | RefusedRow]) -> None:
    """Stream validated rows into the import's staging table, refused ones into `import_refusal`; earlier ones go."""
    table = staged(import_id)
    change_sql(tx, f"DROP TABLE IF EXISTS {table}")
    change_sql(tx, "DELETE FROM import_refusal WHERE import_id = :id", {"id": import_id})
    change_sql(
        tx,
        f"""CREATE UNLOGGED TABLE {table} (row integer, record integer, contact_no text COLLATE "C", address text,
            address_folded text COLLATE "C", first_name text, last_name text, language text, own text, folded text,
            search text, tags text[], topics text[], audiences bigint[])""",
    )
    cursor = psycopg_connection(tx).cursor()
    refused: list[RefusedRow] = []

    def flush() -> None:
        change_sql(
            tx,
            f"""INSERT INTO import_refusal (import_id, row, record, code, faults, cells)
                SELECT :id, row, record, code, CAST(faults AS jsonb), {_TEXTS} FROM unnest(CAST(:rows AS integer[]),
                    CAST(:records AS integer[]), CAST(:codes AS text[]), CAST(:faults AS text[]), CAST(:cells AS text[]))
                    AS told(row, record, code, faults, cells)""",
            {
                "id": import_id,
                "rows": [one.row for one in refused],
                "records": [one.record for one in refused],
                "codes": [one.code for one in refused],
                "faults": [orjson.dumps(FAULTS_FORM.write(one.faults)).decode() for one in refused],
                "cells": [orjson.dumps(one.cells).decode() for one in refused],
            },
        )
        refused.clear()

    rows = iter(validated)
    going = True
    while going:
        going = False
        with cursor.copy(f"COPY {table} ({_COLUMNS}) FROM STDIN") as copy:
            write = copy.write_row
            for row in rows:
                if isinstance(row, RefusedRow):
                    refused.append(row)
                    # Refused rows are kept with their cells; a file of nothing else must not fill the memory.
                    if len(refused) >= 5_000:
                        going = True
                        break
                    continue
                write(row)
        if refused:
            flush()
    change_sql(tx, f"ANALYZE {table}")


def refusals(tx: Transaction, import_id: int, *, after_row: int = 0, limit: int) -> list[Row[Any]]:
    """Refused rows behind a row, with their cells where they are known."""
    return list(
        run_sql(
            tx,
            """SELECT row, record, code, faults, cells FROM import_refusal WHERE import_id = :id AND row > :after
                ORDER BY row LIMIT :limit""",
            {"id": import_id, "after": after_row, "limit": limit},
            {"faults": FAULTS_FORM},
        )
    )


def rows_without_cells(tx: Transaction, import_id: int) -> set[int]:
    """Refused rows whose cells are not known yet."""
    sql = "SELECT row FROM import_refusal WHERE import_id = :id AND cells = '{}'"
    return {row.row for row in run_sql(tx, sql, {"id": import_id})}


def set_refused_cells(tx: Transaction, import_id: int, cells: Mapping[int, list[str]]) -> None:
    """Give refused rows their cells."""
    change_sql(
        tx,
        f"""UPDATE import_refusal SET cells = {_TEXTS}
            FROM unnest(CAST(:rows AS integer[]), CAST(:cells AS text[])) AS told(row, cells)
            WHERE import_id = :id AND import_refusal.row = told.row""",
        {"id": import_id, "rows": list(cells), "cells": [orjson.dumps(one).decode() for one in cells.values()]},
    )


def put_progress(tx: Transaction, import_id: int, *, phase: str, done: int, total: int, now: datetime) -> None:
    """Say how far an import has come."""
    change_sql(
        tx,
        """INSERT INTO import_progress (import_id, phase, done, total, at) VALUES (:id, :phase, :done, :total, :now)
            ON CONFLICT (import_id) DO UPDATE SET phase = :phase, done = :done, total = :total, at = :now""",
        {"id": import_id, "phase": phase, "done": done, "total": total, "now": now},
    )
