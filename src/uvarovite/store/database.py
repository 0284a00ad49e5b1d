"""The database and its transactions."""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from copy import copy
from datetime import datetime
from functools import lru_cache
from typing import Any

import psycopg
import psycopg.errors
from sqlalchemy import Engine, Row, TextClause, create_engine, make_url, text
from sqlalchemy.exc import IntegrityError, InternalError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlmodel import Session

from uvarovite.core.values import StoredForm
from uvarovite.store.forms import FormType
from uvarovite.store.once import claim, current

Transaction = Session

# What a call raises when the connection breaks or none can be had. Trying again may help.
DatabaseLost = OperationalError
# … and when all connections are in use for too long.
DatabaseBusy = PoolTimeout


# What a call raises that breaks a rule of the database.
RuleBroken = IntegrityError


def is_taken(fault: IntegrityError) -> bool:
    """Was it that something is there already: two made the same at once, and one of them was quicker?"""
    return isinstance(fault.orig, psycopg.errors.UniqueViolation)


class SchemaGone(Exception):
    """A schema of its own is not there any more. Whose doing: somebody threw it away."""


class DatabaseUnreachable(Exception):
    """PostgreSQL does not answer. Whose doing: the installation's. Trying again may help."""


_SETTINGS = (
    # Compiling a statement takes longer than running it, for all of ours but the very largest.
    "jit=off",
    # Whoever did *not* open is looked up in a hash of those who did. One that is believed to take more than this is not
    # made at all, and then each of a million people is looked for among millions of rows, one by one.
    "work_mem=64MB",
    "hash_mem_multiplier=4",
    # Rows go from one process of a statement to another quicker than PostgreSQL assumes: a clearance of a million is
    # worked out by all cores, a third quicker.
    "parallel_tuple_cost=0.01",
)


# A link that is cut is known as cut within half a minute, whether something is asked or waited for (RFC 5482, RFC 9293
# section 3.8.4); by itself a machine notices it after hours.
_WIRE = {"tcp_user_timeout": 20_000, "keepalives_idle": 10, "keepalives_interval": 5, "keepalives_count": 3}


class Database:
    """A pool of connections. One `transaction()` is one service call: it commits as a whole or not at all."""

    def __init__(
        self,
        url: str,
        *,
        connections: int = 16,
        reader_url: str = "",
        settings: Sequence[str] = (),
        patience_seconds: float = 30,
    ) -> None:
        """`reader_url` is where SQL by hand is run (none: it is not); a connection is waited for so long."""
        self.url = url
        self.reader_url = reader_url
        self._moves_into = ""
        self._engine: Engine = create_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1),
            pool_size=connections,
            max_overflow=0,
            pool_timeout=patience_seconds,
            pool_pre_ping=True,
            # What is bound are people's data: no error and no log tells them.
            hide_parameters=True,
            connect_args={"options": " ".join(f"-c {setting}" for setting in (*_SETTINGS, *settings)), **_WIRE},
        )

    def in_schema(self, schema: str, holds: str) -> "Database":
        """The same database and connections, working in a schema: what it has goes before what is public.

        Each transaction holds one of its tables first, so that the schema is there as a whole until it ends; while it is
        not there, it raises SchemaGone.
        """
        there = copy(self)
        there._moves_into = (
            f"SET LOCAL search_path TO {schema}, public; LOCK TABLE {schema}.{holds} IN ACCESS SHARE MODE"
        )
        return there

    @contextmanager
    def transaction(self) -> Iterator[Transaction]:
        """A transaction at READ COMMITTED; an exception rolls it back. Raises AlreadyDone (store.once)."""
        with (
            Session(self._engine, expire_on_commit=False, info={"reader_url": self.reader_url}) as session,
            session.begin(),
        ):
            if self._moves_into:
                _move(session, self._moves_into)
            mine = once if (once := current.get()) and not once.claimed else None
            try:
                if mine:
                    claim(session, mine)
                yield session
            except BaseException as fault:
                if mine:
                    mine.claimed = False
                if isinstance(fault, InternalError) and isinstance(
                    fault.orig, psycopg.errors.IdleInTransactionSessionTimeout
                ):
                    # PostgreSQL has hung up on us: what is lost is the connection.
                    raise DatabaseLost(None, None, fault.orig) from fault
                raise

    def close(self) -> None:
        """Give all connections back."""
        self._engine.dispose()

    def check(self) -> None:
        """Raises DatabaseUnreachable with the reason."""
        try:
            psycopg.connect(self.url, connect_timeout=5).close()
        except psycopg.OperationalError as fault:
            raise DatabaseUnreachable(
                f"PostgreSQL cannot be reached at {self.place()}: {str(fault).strip()}"
            ) from fault

    def place(self) -> str:
        """Where it is, for people: without the password."""
        return make_url(self.url).render_as_string(hide_password=True)


def _move(tx: Transaction, statements: str) -> None:
    try:
        psycopg_connection(tx).execute(statements.encode(), prepare=False)
    except (psycopg.errors.InvalidSchemaName, psycopg.errors.UndefinedTable) as fault:
        raise SchemaGone from fault


def instant(tx: Transaction, told: datetime | None = None) -> datetime:
    """The instant that decides: the database's own, at this very moment of the transaction, unless a clock told one.

    Asked behind the locks that put two transactions in order, what the record says is the order in which it happened.
    """
    moment: datetime = told or run_sql(tx, "SELECT clock_timestamp()")[0][0]
    return moment


@lru_cache(maxsize=1_024)
def _statement(sql: str) -> TextClause:
    """A statement with its parameters found, which takes longer than much of what it does; it is never changed."""
    return text(sql)


def run_sql(
    tx: Transaction,
    sql: str,
    parameters: Mapping[str, Any] | None = None,
    forms: Mapping[str, StoredForm[Any]] | None = None,
) -> Sequence[Row[Any]]:
    """Run one statement with bound parameters; its rows, if it gives any. Columns that `forms` names are read by them."""
    statement = _statement(sql)
    typed = statement.columns(**{name: FormType(form) for name, form in forms.items()}) if forms else statement
    result = tx.connection().execute(typed, dict(parameters or {}))
    return result.all() if result.returns_rows else []


def change_sql(tx: Transaction, sql: str, parameters: Mapping[str, Any] | None = None) -> int:
    """Run one changing statement; how many rows it hit."""
    return tx.connection().execute(_statement(sql), dict(parameters or {})).rowcount


def psycopg_connection(tx: Transaction) -> psycopg.Connection[Any]:
    """The driver's connection of a transaction, for COPY."""
    connection = tx.connection().connection.driver_connection
    assert isinstance(connection, psycopg.Connection)
    return connection
