"""Reading another SQL database, and nothing but reading it.

Four walls keep a source as it was: what is asked for is one SELECT without a semicolon, wrapped as a subquery; the
transaction is read-only by the server's own rule (for SQLite, the file is opened read-only and an authorizer allows
reading alone) and is rolled back whatever happened in it; an account that may read or write the server's files is not
used; and all of it runs in a process of its own (net.source_process). A time-out bounds each statement, so that a slow
question does not hold the other database up.
"""

import csv
import io
import re
import socket
import sqlite3
import ssl
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any
from urllib.parse import quote

import pymysql
from sqlalchemy import Connection, Engine, create_engine, event, inspect, make_url, text
from sqlalchemy.engine import URL
from sqlalchemy.exc import DBAPIError, SQLAlchemyError
from sqlalchemy.pool import NullPool

from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.contacts.live_sources import (
    SourceAccess,
    SourceAsk,
    SourceKind,
    SourcePreview,
    ask_problem,
    cells_of,
)
from uvarovite.core.contacts.sheets import MOST_ROWS

CONNECT_SECONDS = 10
# While somebody waits at the screen.
LOOK_SECONDS = 20
# Two million rows of a view with joins; beyond it the view wants an index, or a table of its own.
PULL_SECONDS = 900
SAMPLES = 20
MOST_TABLES = 500
_ROWS_AT_ONCE = 2_000


def tables_of(access: SourceAccess) -> list[str]:
    """The tables and views that the account sees, by name; those outside the usual schema with it before them.

    Raises SourceFault.
    """
    with _reading(access, LOOK_SECONDS) as connection:
        inspector = inspect(connection)
        usual = inspector.default_schema_name
        hidden = {"information_schema", "pg_catalog", "performance_schema", "mysql", "sys"}
        schemas: list[str | None] = [None]
        if access.kind is SourceKind.POSTGRESQL:
            others = [name for name in inspector.get_schema_names() if name not in hidden | {usual}]
            schemas += [name for name in others if not name.startswith("pg_")]
        found = []
        for schema in schemas:
            names = [*inspector.get_table_names(schema), *inspector.get_view_names(schema)]
            found += [f"{schema}.{name}" if schema else name for name in sorted(names)]
        return found[:MOST_TABLES]


def preview_source(access: SourceAccess, ask: SourceAsk) -> SourcePreview:
    """How many rows there are, and the first of them. Raises SourceFault."""
    with _reading(access, LOOK_SECONDS) as connection:
        asked = _asked(connection, ask)
        rows = _count(connection, asked)
        result = connection.execute(text(f"SELECT * FROM {asked} LIMIT {SAMPLES}"))
        samples = tuple(tuple(cells_of(row)) for row in result)
        return SourcePreview(rows=rows, headers=tuple(map(str, result.keys())), samples=samples)


def read_source(access: SourceAccess, ask: SourceAsk, into: IO[bytes], tell: Callable[[int, int], None]) -> int:
    """Read everything as CSV in UTF-8 with a line of column names; how many rows. Raises SourceFault.

    The rows are counted first, in the same transaction, and stream through; `tell` hears (done, in all).
    """
    with _reading(access, PULL_SECONDS) as connection:
        asked = _asked(connection, ask)
        total = _count(connection, asked)
        tell(0, total)
        result = connection.execution_options(yield_per=_ROWS_AT_ONCE).execute(text(f"SELECT * FROM {asked}"))
        out = io.TextIOWrapper(into, encoding="utf-8", newline="", write_through=True)
        writer = csv.writer(out)
        writer.writerow(map(str, result.keys()))
        done = 0
        for rows in result.partitions():
            writer.writerows(cells_of(row) for row in rows)
            done += len(rows)
            tell(done, total)
        out.detach()
        return done


def _count(connection: Connection, asked: str) -> int:
    rows = int(connection.execute(text(f"SELECT count(*) FROM {asked}")).scalar_one())
    if rows > MOST_ROWS:
        raise SourceFault("rows", rows=rows, most=MOST_ROWS)
    return rows


def _asked(connection: Connection, ask: SourceAsk) -> str:
    """What stands behind FROM."""
    if problem := ask_problem(ask):
        raise problem
    if select := ask.select.strip().removesuffix(";").strip():
        # A colon would be taken for a parameter's name.
        escaped = select.replace("\\", "\\\\").replace(":", "\\:")
        return f"(\n{escaped}\n) AS asked"
    quoted = connection.dialect.identifier_preparer.quote_identifier
    schema, dot, table = ask.table.strip().rpartition(".")
    # A table's own name may hold a dot as well; the inspector knows.
    if dot and connection.dialect.name == "postgresql":
        return f"{quoted(schema)}.{quoted(table)}".replace(":", "\\:")
    return quoted(ask.table.strip()).replace(":", "\\:")


# ---------------------------------------------------------------- connections that can only read


@contextmanager
def _reading(access: SourceAccess, seconds: int) -> Iterator[Connection]:
    """A connection whose one transaction is read-only, and whose statements end after so many seconds."""
    engine = _OPEN[access.kind](access, seconds)
    connection = None
    try:
        connection = engine.connect()
        if may_too_much := _TOO_MUCH.get(access.kind):
            may_too_much(connection)
        yield connection
    except SourceFault:
        raise
    except DBAPIError as fault:
        raise _fault(fault, reached=connection is not None, seconds=seconds) from fault
    except (SQLAlchemyError, OSError, UnicodeError) as fault:
        raise SourceFault("refused", how="unread", said=_first_line(fault)) from fault
    finally:
        if connection is not None:
            connection.rollback()
            connection.close()
        engine.dispose()


def _postgresql_may(connection: Connection) -> None:
    """Raises SourceFault where the account may do more to the server than look."""
    asked = "SELECT rolsuper OR " + " OR ".join(
        f"pg_has_role(current_user, 'pg_{power}', 'member')"
        for power in ("read_server_files", "write_server_files", "execute_server_program")
    )
    if connection.execute(text(f"{asked} FROM pg_roles WHERE rolname = current_user")).scalar():
        raise SourceFault("powerful", how="superuser")


def _mysql_may(connection: Connection) -> None:
    granted = " ".join(str(row[0]).upper() for row in connection.execute(text("SHOW GRANTS")))
    if re.search(r"(ALL PRIVILEGES|\bFILE\b|\bSUPER\b)[^.]* ON \*\.\*", granted):
        raise SourceFault("powerful", how="administrator")


_TOO_MUCH: dict[SourceKind, Callable[[Connection], None]] = {
    SourceKind.POSTGRESQL: _postgresql_may,
    SourceKind.MYSQL: _mysql_may,
}


def _postgresql(access: SourceAccess, seconds: int) -> Engine:
    url = URL.create(
        "postgresql+psycopg",
        username=access.username or None,
        password=access.password or None,
        host=access.host,
        port=access.port,
        database=access.database,
    )
    told: dict[str, Any] = {"connect_timeout": CONNECT_SECONDS, "application_name": "uvarovite"}
    # Only what was judged is connected to, and only with what was given for it.
    told |= {"hostaddr": access.address or access.host, "passfile": "/dev/null"}
    if access.tls:
        told |= {"sslmode": "verify-full", "sslrootcert": "system"}
    engine = create_engine(
        url,
        poolclass=NullPool,
        connect_args=told,
        # The count and the rows are of the same moment.
        execution_options={"postgresql_readonly": True, "isolation_level": "REPEATABLE READ"},
    )
    _at_connecting(engine, lambda cursor: cursor.execute(f"SET statement_timeout = '{seconds}s'"))
    return engine


def _mysql(access: SourceAccess, seconds: int) -> Engine:
    told: dict[str, Any] = {"connect_timeout": CONNECT_SECONDS, "read_timeout": seconds + 5, "charset": "utf8mb4"}
    if access.tls:
        told["ssl"] = ssl.create_default_context()

    def connect() -> Any:
        # The socket leads to the address that was judged; the name is what the certificate is held against.
        made = pymysql.connect(
            host=access.host,
            port=access.port,
            user=access.username or None,
            password=access.password,
            database=access.database,
            local_infile=False,
            defer_connect=True,
            **told,
        )
        try:
            made.connect(socket.create_connection((access.address or access.host, access.port), CONNECT_SECONDS))
        except OSError as fault:
            raise SourceFault("unreachable", said=_first_line(fault)) from fault
        return made

    engine = create_engine(make_url("mysql+pymysql://"), creator=connect, poolclass=NullPool)

    def begin(cursor: Any) -> None:
        cursor.execute("SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        # The two call the same thing by other names and units, and each refuses the other's.
        cursor.execute("SELECT version()")
        if "mariadb" in str(cursor.fetchone()[0]).lower():
            cursor.execute(f"SET SESSION max_statement_time = {seconds}")
        else:
            cursor.execute(f"SET SESSION max_execution_time = {seconds * 1000}")

    _at_connecting(engine, begin)
    return engine


def _at_connecting(engine: Engine, begin: Callable[[Any], Any]) -> None:
    @event.listens_for(engine, "connect")
    def prepare(connection: Any, record: object) -> None:
        cursor = connection.cursor()
        begin(cursor)
        cursor.close()
        # What follows is a transaction of its own, with the settings that were just made.
        connection.commit()


_SQLITE_ALLOWED = {
    sqlite3.SQLITE_SELECT,
    sqlite3.SQLITE_READ,
    sqlite3.SQLITE_FUNCTION,
    sqlite3.SQLITE_RECURSIVE,
    sqlite3.SQLITE_TRANSACTION,
}


def _sqlite_allows(action: int, first: str | None, second: str | None, *_: object) -> int:
    # SQLAlchemy asks how it would be isolated, which a pragma without a value tells.
    asks = action == sqlite3.SQLITE_PRAGMA and first == "read_uncommitted" and second is None
    return sqlite3.SQLITE_OK if asks or action in _SQLITE_ALLOWED else sqlite3.SQLITE_DENY


def _sqlite(access: SourceAccess, seconds: int) -> Engine:
    def connect() -> sqlite3.Connection:
        path = Path(access.database)
        if not path.is_file():
            raise SourceFault("unreachable", how="no_file", file=path.name)
        connection = sqlite3.connect(f"file:{quote(str(path))}?mode=ro", uri=True, timeout=CONNECT_SECONDS)
        deadline = time.monotonic() + seconds
        connection.set_progress_handler(lambda: int(time.monotonic() > deadline), 10_000)
        connection.set_authorizer(_sqlite_allows)
        # A text or a row that is longer is no person's; what is sorted may take a part of the process's memory.
        connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, 4_000_000)
        return connection

    return create_engine(make_url("sqlite://"), creator=connect, poolclass=NullPool)


_OPEN: dict[SourceKind, Callable[[SourceAccess, int], Engine]] = {
    SourceKind.POSTGRESQL: _postgresql,
    SourceKind.MYSQL: _mysql,
    SourceKind.SQLITE: _sqlite,
}

# How the three say that a statement took too long.
_SLOW = ("statement timeout", "max_statement_time", "maximum statement execution time", "interrupted", "timed out")


def _first_line(fault: BaseException) -> str:
    lines = str(fault).strip().splitlines()
    return lines[0][:300] if lines else type(fault).__name__


def _fault(fault: DBAPIError, *, reached: bool, seconds: int) -> SourceFault:
    original = fault.orig if fault.orig is not None else fault
    # PyMySQL's first argument is a number, its second the words.
    said = str(original.args[1]) if len(original.args) > 1 else _first_line(original)
    if any(word in said.lower() for word in _SLOW) and reached:
        return SourceFault("slow", seconds=seconds)
    if not reached:
        return SourceFault("unreachable", said=said[:300])
    return SourceFault("refused", said=said[:300])
