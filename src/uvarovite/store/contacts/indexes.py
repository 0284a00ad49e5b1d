"""Indexes of the table of contacts that come when they are needed: for a column that is sorted by, and for words.

Each index costs every import, so that there are none but those that somebody uses, and a large import is done without
them. They are made and dropped CONCURRENTLY, outside any transaction, so that nobody waits for them.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta

import psycopg
from psycopg import sql

from uvarovite.core.contacts import Field
from uvarovite.store.contacts.fields import ROW_SORTS, load_fields, sort_key_sql
from uvarovite.store.database import Database, Transaction, change_sql, run_sql

# So many are sorted while one waits.
SORTED_AT_ONCE = 20_000
# So many new rows are written without these indexes, which are made anew in one go.
LARGE_IMPORT = 100_000
# Words are found by three letters of theirs.
WORDS = "contact_search_words"
# The order in which the table is shown.
BY_NAME = "contact_by_name"
# These have indexes of their own from the beginning.
ALWAYS_INDEXED = ("address", "contact_no")
# A column that nobody sorted by for so long needs no index.
UNUSED_AFTER = timedelta(days=60)


def index_name(key: str) -> str:
    """What a column's index is called."""
    return f"contact_field_{key}"[:63]


def note_sort(tx: Transaction, field: Field, now: datetime) -> bool:
    """Note that the table is sorted by a field. False where that takes long for now: its index is made soon."""
    if field.key in ALWAYS_INDEXED:
        return True
    # A page that is turned writes nothing: once a day is enough.
    if not run_sql(
        tx,
        "SELECT 1 FROM sorted_column WHERE key = :key AND used_at >= :before",
        {"key": field.key, "before": now - timedelta(days=1)},
    ):
        change_sql(
            tx,
            """INSERT INTO sorted_column (key, used_at) VALUES (:key, :now)
                ON CONFLICT (key) DO UPDATE SET used_at = :now""",
            {"key": field.key, "now": now},
        )
    return not _many(tx) or _indexes(tx).get(index_name(field.key), False)


def _many(tx: Transaction) -> bool:
    return int(run_sql(tx, "SELECT reltuples FROM pg_class WHERE oid = 'contact'::regclass")[0][0]) > SORTED_AT_ONCE


def _indexes(tx: Transaction) -> dict[str, bool]:
    """Those of these indexes that are there, and whether each is whole."""
    rows = run_sql(
        tx,
        """SELECT relname, indisvalid FROM pg_index JOIN pg_class ON pg_class.oid = indexrelid
            WHERE indrelid = 'contact'::regclass AND relname LIKE 'contact\\_field\\_%' OR relname = ANY(:always)""",
        {"always": [WORDS, BY_NAME]},
    )
    return {row.relname: row.indisvalid for row in rows}


def drop_sort_index(tx: Transaction, key: str) -> None:
    """Remove a field's index at once, since what it was made by does not hold any more."""
    change_sql(tx, f"DROP INDEX IF EXISTS {index_name(key)}")


def tend_indexes(database: Database, now: datetime) -> list[str]:
    """Make the indexes that are missing, drop those that nobody needs; what was done, by name.

    Does nothing while somebody else is at it.
    """
    with _alone(database) as connection:
        if connection is None:
            return []
        with database.transaction() as tx:
            wanted = _wanted(tx, now)
            there = _indexes(tx)
            many = _many(tx)
        done = []
        for name, whole in there.items():
            # What was broken off is made anew.
            if name not in wanted or not whole:
                _drop(connection, name)
                done.append(f"dropped {name}")
        for name, made in wanted.items():
            if (many or name == BY_NAME) and not there.get(name, False):
                connection.execute(
                    sql.SQL("CREATE INDEX CONCURRENTLY IF NOT EXISTS {} ON ").format(sql.Identifier(name))
                    + sql.SQL(made)
                )
                done.append(f"made {name}")
        return done


def drop_before_import(database: Database, rows: int) -> None:
    """Before a large import: drop what would be kept up row by row; it is made anew in one go afterwards."""
    if rows < LARGE_IMPORT:
        return
    with _alone(database) as connection:
        if connection is None:
            return
        with database.transaction() as tx:
            there = _indexes(tx)
            # The table's usual order goes as well where most of the table is new.
            few = rows >= int(run_sql(tx, "SELECT reltuples FROM pg_class WHERE oid = 'contact'::regclass")[0][0])
        for name in there:
            if name != BY_NAME or few:
                _drop(connection, name)


def _wanted(tx: Transaction, now: datetime) -> dict[str, str]:
    """What indexes there should be, each by its name, with what it is on."""
    fields = load_fields(tx)
    used = run_sql(tx, "SELECT key FROM sorted_column WHERE used_at >= :since", {"since": now - UNUSED_AFTER})
    wanted = {BY_NAME: f"contact (({ROW_SORTS['name']}), id) WHERE deleted_at IS NULL"}
    wanted |= {
        index_name(row.key): f"contact (({sort_key_sql(fields[row.key])}), id) WHERE deleted_at IS NULL"
        for row in used
        if row.key in fields
    }
    if _letters(tx):
        wanted[WORDS] = "contact_search USING gin (text gin_trgm_ops)"
    return wanted


def _letters(tx: Transaction) -> bool:
    """Is the extension there that finds words by three letters? Taken in where that is allowed.

    Without it a search looks at everybody.
    """
    if run_sql(tx, "SELECT 1 FROM pg_extension WHERE extname = 'pg_trgm'"):
        return True
    allowed = run_sql(
        tx,
        """SELECT 1 FROM pg_available_extension_versions
            WHERE name = 'pg_trgm' AND trusted AND has_database_privilege(current_database(), 'CREATE')""",
    )
    if allowed:
        change_sql(tx, "CREATE EXTENSION pg_trgm")
    return bool(allowed)


def _drop(connection: psycopg.Connection[tuple[bool]], name: str) -> None:
    connection.execute(sql.SQL("DROP INDEX CONCURRENTLY IF EXISTS {}").format(sql.Identifier(name)))


@contextmanager
def _alone(database: Database) -> Iterator[psycopg.Connection[tuple[bool]] | None]:
    """A connection outside any transaction, for one at a time; None while another one has it."""
    with psycopg.connect(database.url, autocommit=True) as connection:
        row = connection.execute("SELECT pg_try_advisory_lock(hashtext('sort indexes'))").fetchone()
        yield connection if row and row[0] else None
