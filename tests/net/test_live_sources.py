"""Reading three real database systems: the same rows come out of each, and none of them can be changed."""

import csv
import io
import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import psycopg
import pymysql
import pytest

from tests.support.mariadb import mariadb
from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourceKind
from uvarovite.net import live_sources
from uvarovite.net.live_sources import preview_source, read_source, tables_of
from uvarovite.store.database import Database

TABLE = """CREATE TABLE people (
    email VARCHAR(80), name VARCHAR(80), since DATE, spent DECIMAL(10, 2), visits INTEGER, photo {blob})"""
ROWS = [
    ("ada@slatepost.example", "Ada: “:x” d'Arc; Ng", "2026-03-01", "12.50", 3),
    ("zoe@slatepost.example", "Ζωή", None, None, None),
]
CELLS = [
    ["ada@slatepost.example", "Ada: “:x” d'Arc; Ng", "2026-03-01", "12.50", "3", ""],
    ["zoe@slatepost.example", "Ζωή", "", "", "", ""],
]


@dataclass(frozen=True)
class Outside:
    """A database with the table `people` and the view `walkers`; `count` looks at it from the side."""

    access: SourceAccess
    slow: str
    count: Callable[[], int]


def fill(execute: Callable[..., Any], mark: str, blob: str) -> None:
    execute(TABLE.format(blob=blob))
    for row in ROWS:
        execute(f"INSERT INTO people (email, name, since, spent, visits) VALUES ({', '.join([mark] * 5)})", row)
    execute("CREATE VIEW walkers AS SELECT email FROM people WHERE visits > 1")


def in_sqlite(path: Path) -> Outside:
    with sqlite3.connect(path) as made:
        fill(made.execute, "?", "BLOB")
        # SQLite has no decimals; the text keeps its digits.
        made.execute("UPDATE people SET spent = NULL, photo = x'ff00'")
        made.execute("CREATE TABLE till (spent TEXT)")
    slow = "WITH RECURSIVE t(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM t) SELECT count(*) AS n FROM t"

    def count() -> int:
        with sqlite3.connect(path) as aside:
            return int(aside.execute("SELECT count(*) FROM people").fetchone()[0])

    return Outside(access=SourceAccess(kind=SourceKind.SQLITE, database=str(path)), slow=slow, count=count)


def in_postgresql(database: Database) -> Outside:
    told = psycopg.conninfo.conninfo_to_dict(database.url)
    with psycopg.connect(database.url, autocommit=True) as made:
        made.execute("CREATE SCHEMA till")
        made.execute("CREATE TABLE till.sale (id integer)")
        fill(made.execute, "%s", "BYTEA")
    access = SourceAccess(
        kind=SourceKind.POSTGRESQL,
        database=str(told["dbname"]),
        host=str(told["host"]),
        port=int(told["port"] or 0),
        username=str(told["user"]),
        password=str(told["password"]),
    )

    def count() -> int:
        with psycopg.connect(database.url) as aside:
            row = aside.execute("SELECT count(*) FROM people").fetchone()
            assert row is not None
            return int(row[0])

    return Outside(access=access, slow="SELECT pg_sleep(60)", count=count)


def in_mariadb(port: int) -> Outside:
    with pymysql.connect(host="127.0.0.1", port=port, user="root", charset="utf8mb4", autocommit=True) as made:
        cursor = made.cursor()
        cursor.execute("CREATE DATABASE shop CHARACTER SET utf8mb4")
        cursor.execute("USE shop")
        fill(cursor.execute, "%s", "BLOB")
        cursor.execute("CREATE USER reader IDENTIFIED BY 'only looks'")
        cursor.execute("GRANT SELECT ON shop.* TO reader")
    access = SourceAccess(
        kind=SourceKind.MYSQL, database="shop", host="127.0.0.1", port=port, username="reader", password="only looks"
    )

    def count() -> int:
        with pymysql.connect(host="127.0.0.1", port=port, user="root", database="shop") as aside:
            cursor = aside.cursor()
            cursor.execute("SELECT count(*) FROM people")
            row = cursor.fetchone()
            assert row is not None
            return int(row[0])

    return Outside(access=access, slow="SELECT sleep(60) AS n", count=count)


@pytest.fixture(params=["sqlite", "postgresql", "mariadb"])
def outside(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Outside]:
    if request.param == "sqlite":
        yield in_sqlite(tmp_path / "a shop.sqlite")
    elif request.param == "postgresql":
        yield in_postgresql(request.getfixturevalue("database"))
    else:
        with mariadb() as port:
            yield in_mariadb(port)


def read(access: SourceAccess, ask: SourceAsk) -> list[list[str]]:
    out = io.BytesIO()
    told: list[tuple[int, int]] = []
    rows = read_source(access, ask, out, lambda done, total: told.append((done, total)))
    assert told[-1] == (rows, rows)
    return list(csv.reader(io.StringIO(out.getvalue().decode())))


def test_a_database_is_read_and_stays_as_it_is(outside: Outside, monkeypatch: pytest.MonkeyPatch) -> None:
    access = outside.access
    assert {"people", "walkers"} <= set(tables_of(access))

    header, *rows = read(access, SourceAsk(table="people"))
    assert header == ["email", "name", "since", "spent", "visits", "photo"]
    expected = CELLS
    if access.kind is SourceKind.SQLITE:
        expected = [[*CELLS[0][:3], "", "3", ""], CELLS[1]]
    assert sorted(rows) == sorted(expected)
    assert read(access, SourceAsk(table="walkers"))[1:] == [["ada@slatepost.example"]]
    own = SourceAsk(select="SELECT email, 'a:b \\ :c' AS words FROM people WHERE visits >= 3 ;")
    assert preview_source(access, own).rows == 1
    # A backslash begins an escape in MariaDB's own texts; the colons are what SQLAlchemy must leave alone.
    assert preview_source(access, own).samples[0][1].startswith("a:b ")

    for wrong in (
        "DELETE FROM people",
        "SELECT 1; DELETE FROM people",
        "SELECT 1) AS asked; COMMIT; DELETE FROM people",
        "WITH gone AS (DELETE FROM people RETURNING *) SELECT * FROM gone",
        "SELECT * FROM nowhere",
        "SELECT email, FROM",
        "",
    ):
        with pytest.raises(SourceFault) as refused:
            preview_source(access, SourceAsk(select=wrong))
        assert refused.value.code == "refused", wrong
    with pytest.raises(SourceFault):
        preview_source(access, SourceAsk(table='people"; DROP TABLE people; --'))
    assert outside.count() == 2

    monkeypatch.setattr(live_sources, "LOOK_SECONDS", 1)
    with pytest.raises(SourceFault) as slow:
        preview_source(access, SourceAsk(select=outside.slow))
    assert slow.value.code == "slow"

    monkeypatch.setattr(live_sources, "MOST_ROWS", 1)
    with pytest.raises(SourceFault) as many:
        read(access, SourceAsk(table="people"))
    assert many.value.code == "rows"


def test_a_database_that_is_not_there_says_so(outside: Outside) -> None:
    access = outside.access
    if access.kind is SourceKind.SQLITE:
        gone = replace(access, database=access.database + ".gone")
    else:
        gone = replace(access, port=1)
    with pytest.raises(SourceFault) as fault:
        tables_of(gone)
    assert fault.value.code == "unreachable"


def test_tables_of_other_schemas_stand_under_their_schema(database: Database) -> None:
    access = in_postgresql(database).access
    assert "till.sale" in tables_of(access)
    assert preview_source(access, SourceAsk(table="till.sale")).headers == ("id",)
