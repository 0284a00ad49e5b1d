"""A live source that is hostile, or an account that writes hostile SELECTs: it takes nothing of ours along."""

import io
import os
import sqlite3
from dataclasses import replace
from pathlib import Path

import psycopg
import pytest

from tests.net.test_live_sources import in_postgresql
from tests.support.mariadb import mariadb
from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourceKind
from uvarovite.net import live_sources, source_process
from uvarovite.net.source_hosts import SourceRules, pinned
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database

ELSEWHERE = "postgresql://app@192.0.2.1:5432/app"


def rules(access: SourceAccess, own: str = ELSEWHERE) -> SourceRules:
    return SourceRules(allowed=(f"{access.host}:{access.port}",), own=own)


def refused(access: SourceAccess, asked: SourceRules) -> str:
    with pytest.raises(SourceFault) as fault:
        pinned(access, asked)
    return fault.value.code


def test_the_applications_own_database_is_no_source_whatever_it_is_called(database: Database) -> None:
    access = in_postgresql(database).access
    for host in ("127.0.0.1", "127.0.0.2", "localhost", "LOCALHOST", "::1", "0.0.0.0", "::ffff:127.0.0.1"):
        same = replace(access, host=host)
        assert refused(same, SourceRules(allowed=(host,), own=database.url)) == "own"
    # Another server on the same machine is another one.
    assert pinned(replace(access, port=1), rules(replace(access, port=1), database.url)).address == "127.0.0.1"


@pytest.mark.parametrize(
    "host", ["/var/run/postgresql", "@abstract", "db.example,127.0.0.1", "db.example 127.0.0.1", "", "a\nb", "..", "-x"]
)
def test_what_is_no_single_host_is_refused(host: str) -> None:
    access = SourceAccess(kind=SourceKind.POSTGRESQL, database="d", host=host, port=5432)
    assert refused(access, SourceRules(allowed=(host,), own=ELSEWHERE)) == "not_allowed"


def test_only_what_the_administrator_allowed_is_read() -> None:
    access = SourceAccess(kind=SourceKind.POSTGRESQL, database="d", host="localhost", port=5432)
    for allowed in ((), ("127.0.0.1",), ("localhost:5433",), ("localhost.example",)):
        assert refused(access, SourceRules(allowed=allowed, own=ELSEWHERE)) == "not_allowed"
    for allowed in (("localhost",), ("LocalHost:5432",), ("x", " localhost ")):
        assert pinned(access, SourceRules(allowed=allowed, own=ELSEWHERE)).address == "127.0.0.1"


def test_rows_come_through_the_process_as_they_do_without_it(database: Database) -> None:
    access = in_postgresql(database).access
    with_them = {"rules": rules(access)}
    assert source_process.tables_of(access, **with_them) == live_sources.tables_of(access)
    ask = SourceAsk(table="people")
    assert source_process.preview_source(access, ask, **with_them) == live_sources.preview_source(access, ask)
    out, plain, told = io.BytesIO(), io.BytesIO(), []
    import tempfile

    with tempfile.TemporaryFile() as file:
        rows = source_process.read_source(
            access, ask, file, lambda done, total: told.append((done, total)), **with_them
        )
        file.seek(0)
        out.write(file.read())
    assert live_sources.read_source(access, ask, plain, lambda done, total: None) == rows == 2
    assert (out.getvalue(), told) == (plain.getvalue(), [(0, 2), (2, 2)])
    with pytest.raises(SourceFault) as fault:
        source_process.preview_source(access, SourceAsk(table="nowhere"), **with_them)
    assert fault.value.code == "refused"


def test_a_time_limit_that_is_switched_off_from_inside_still_holds(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    access = in_postgresql(database).access
    monkeypatch.setattr(source_process, "LOOK_SECONDS", 1)
    monkeypatch.setattr(source_process, "_GRACE_SECONDS", 1)
    without = "SELECT set_config('statement_timeout', '0', FALSE) AS told, pg_sleep(600) AS slept"
    with pytest.raises(SourceFault) as fault:
        source_process.preview_source(access, SourceAsk(select=without), rules=rules(access))
    assert fault.value.code == "slow"


HUNGRY = [
    "SELECT hex(zeroblob(1000000000)) AS a",
    "WITH RECURSIVE t(n, s) AS (SELECT 1, 'x' UNION ALL SELECT n + 1, s || s FROM t WHERE n < 60) SELECT s FROM t",
    "WITH RECURSIVE t(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM t WHERE n < 400) "
    "SELECT group_concat(hex(randomblob(1000000))) AS a FROM t",
]


@pytest.mark.parametrize("select", HUNGRY)
def test_a_file_that_is_asked_for_gigabytes_gives_none(tmp_path: Path, select: str) -> None:
    path = tmp_path / "shop.sqlite"
    sqlite3.connect(path).execute("CREATE TABLE till (n INTEGER)")
    access = SourceAccess(kind=SourceKind.SQLITE, database=str(path))
    with pytest.raises(SourceFault) as fault:
        source_process.preview_source(access, SourceAsk(select=select), rules=rules(access))
    assert fault.value.code == "refused"


@pytest.mark.parametrize(
    "select",
    ["SELECT load_extension('x') AS a", "SELECT readfile('/etc/passwd') AS a", "SELECT * FROM pragma_database_list"],
)
def test_a_file_gives_nothing_but_its_own_rows(tmp_path: Path, select: str) -> None:
    path = tmp_path / "shop.sqlite"
    sqlite3.connect(path).execute("CREATE TABLE till (n INTEGER)")
    with pytest.raises(SourceFault):
        live_sources.preview_source(SourceAccess(kind=SourceKind.SQLITE, database=str(path)), SourceAsk(select=select))


def test_no_variable_and_no_password_file_of_this_process_is_used(
    database: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    access = in_postgresql(database).access
    passwords = tmp_path / ".pgpass"
    passwords.write_text(f"*:*:*:*:{access.password}\n")
    os.chmod(passwords, 0o600)
    for name, value in (("PGPASSFILE", passwords), ("HOME", tmp_path), ("PGPASSWORD", access.password)):
        monkeypatch.setenv(name, str(value))
    with pytest.raises(SourceFault) as fault:
        source_process.tables_of(replace(access, password=""), rules=rules(access))
    assert fault.value.code == "unreachable"


def test_an_account_that_may_reach_the_servers_files_is_not_used(database: Database, cluster: Cluster) -> None:
    access = in_postgresql(database).access
    keeper = psycopg.conninfo.conninfo_to_dict(cluster.keeper_url())
    mighty = replace(access, username=str(keeper["user"]), password=str(keeper["password"]))
    with pytest.raises(SourceFault) as fault:
        live_sources.preview_source(mighty, SourceAsk(select="SELECT pg_read_file('/etc/passwd') AS a"))
    assert fault.value.code == "powerful"
    with mariadb() as port:
        root = SourceAccess(kind=SourceKind.MYSQL, database="mysql", host="127.0.0.1", port=port, username="root")
        with pytest.raises(SourceFault) as fault:
            live_sources.preview_source(root, SourceAsk(select="SELECT load_file('/etc/passwd') AS a"))
        assert fault.value.code == "powerful"


def test_what_a_select_writes_in_spite_of_it_all_is_rolled_back(database: Database) -> None:
    access = in_postgresql(database).access
    # Large objects can be written in a read-only transaction, up to PostgreSQL 15.
    live_sources.preview_source(access, SourceAsk(select="SELECT lo_from_bytea(0, 'x') AS a"))
    with psycopg.connect(database.url) as aside:
        assert aside.execute("SELECT count(*) FROM pg_largeobject_metadata").fetchone() == (0,)
