"""SQL by hand: it chooses people like any condition, reads the documented views, and cannot do anything else."""

import re
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest

from tests.support.databases import drop_database, make_database
from tests.support.museum import NOW, Museum, explained, make_museum
from tests.support.processes import until
from tests.support.sending import send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.expressions import ChosenBySql, print_criteria
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.audiences.clearance import clearance, people_behind
from uvarovite.services.contacts.fields import FieldDraft, make_field, remove_field
from uvarovite.services.errors import BadInput
from uvarovite.services.expressions.completion import views_for_sql
from uvarovite.services.expressions.criteria import read_criteria
from uvarovite.store.asking import Shares, asking
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, run_sql
from uvarovite.store.expressions.by_hand import choose
from uvarovite.store.roles import READER_CONNECTIONS, READER_SECONDS
from uvarovite.store.schema import upgrade


def by_sql(sql: str, rest: str = "") -> str:
    return print_criteria(ChosenBySql(sql=sql)) + rest


def chosen(museum: Museum, sql: str, rest: str = "") -> str:
    """The numbers of those whom criteria with a SELECT choose, as `01 02`."""
    read = read_criteria(museum.database, SYSTEM, text=by_sql(sql, rest), now=NOW)
    assert read.problem is None, read.problem
    with museum.database.transaction() as tx:
        assert choose(tx, sql) is None
    asked: dict[str, Any] = {"text": by_sql(sql, rest), "topic_id": museum.topic_id, "now": NOW}
    taken = clearance(museum.database, SYSTEM, **asked)
    assert taken.matched == read.matched
    ids = [
        person.id
        for gate in (*(gate.key for gate in taken.gates), None)
        for person in people_behind(museum.database, SYSTEM, gate=gate, after_id=0, **asked)
    ]
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT contact_no FROM contact WHERE id = ANY(:ids) ORDER BY 1", {"ids": ids})
    return " ".join(row.contact_no[2:] for row in rows)


CASES = {
    "SELECT contact_id FROM contacts WHERE town = 'Breccia'": "04",
    "SELECT contact_id\nFROM contacts -- the whole of it\nWHERE pledge > 100 AND pledge_currency = 'EUR'": "01 03",
    "WITH many AS (SELECT * FROM contacts WHERE visits_last_year >= 3) SELECT contact_id FROM many": "01 03",
    "SELECT contact_id FROM contacts WHERE renews_on < DATE '2026-12-15' AND volunteer": "01",
    "SELECT contact_id FROM consents WHERE topic = 'Field walks' AND state = 'left'": "08",
    "SELECT contact_id FROM consent_events WHERE kind = 'withdrawn'": "08",
    "SELECT contact_id FROM mail WHERE campaign = 'Walks' UNION ALL SELECT contact_id FROM mail": "01 02 03 04 05",
    "SELECT contact_id FROM files WHERE file = 'people.csv'": "01 02 03 04 05 06 07 08 09 10",
    "SELECT contact_id FROM tags UNION SELECT contact_id FROM responses": "",
    "SELECT NULL AS contact_id UNION SELECT 4711": "",
}


@pytest.fixture
def sent(museum: Museum) -> Museum:
    """The museum after its first run."""
    send_all(museum, museum.release(), NOW)
    return museum


def test_every_view_answers(sent: Museum) -> None:
    assert {sql: chosen(sent, sql) for sql in CASES} == CASES


def test_it_stands_beside_other_conditions_and_in_other_audiences(museum: Museum) -> None:
    skarn = "SELECT contact_id FROM contacts WHERE town = 'Skarn'"
    assert chosen(museum, skarn, " and volunteer") == "01 05"
    assert chosen(museum, skarn, ' or town is "Breccia"').split()[:4] == ["01", "03", "04", "05"]
    save_audience(museum.database, SYSTEM, audience_id=None, name="Skarn", text=by_sql(skarn), revision=None, now=NOW)
    read = read_criteria(museum.database, SYSTEM, text='in audience "Skarn" and volunteer', now=NOW)
    assert (read.problem, read.matched) == (None, 2)
    told = explained(museum.database, text=by_sql(skarn), address="dai@slatepost.example", topic_id=None, now=NOW)[0]
    assert (told.matched, "Wren does not match: chosen by sql" in told.words) == (False, True)


def test_a_campaign_goes_to_whom_it_chooses(museum: Museum) -> None:
    save_audience(
        museum.database,
        SYSTEM,
        audience_id=museum.audience_id,
        name="Everyone",
        text=by_sql("SELECT contact_id FROM contacts WHERE first_name LIKE 'Ed%' OR language = 'fr'"),
        revision=1,
        now=NOW,
    )
    assert sorted(museum.states(museum.release())) == ["M-02", "M-05"]


DENIED = "permission denied"
NOT_ALLOWED = {
    "SELECT id AS contact_id FROM public.contact": DENIED,
    "SELECT id AS contact_id FROM user_account": "does not exist",
    "SELECT 1 AS contact_id FROM public.user_session": DENIED,
    # Settings, for this session or beyond it.
    "SELECT set_config('role', 'keeper', FALSE)::bigint AS contact_id": DENIED,
    "SELECT length(set_config('statement_timeout', '0', FALSE)) AS contact_id": DENIED,
    "SELECT 1 AS contact_id FROM pg_settings WHERE set_config('work_mem', '1GB', FALSE) <> ''": DENIED,
    # Text that is run as SQL.
    "SELECT 1 AS contact_id FROM (SELECT query_to_xml('DELETE FROM public.contact', TRUE, TRUE, '')) AS x": DENIED,
    "SELECT length(ts_stat.word) AS contact_id FROM ts_stat('SELECT to_tsvector(email) FROM public.user_account')": DENIED,
    # What would stay, or hold others up.
    "SELECT pg_advisory_lock(1)::text::bigint AS contact_id": DENIED,
    "SELECT 1 AS contact_id WHERE pg_try_advisory_xact_lock(hashtext('release'))": DENIED,
    "SELECT lo_creat(-1) AS contact_id": DENIED,
    "SELECT lo_from_bytea(0, 'x')::bigint AS contact_id": DENIED,
    "SELECT nextval('public.contact_id_seq') AS contact_id": DENIED,
    "SELECT pg_notify('uvarovite_work', '')::text::bigint AS contact_id": DENIED,
    "SELECT 1 AS contact_id WHERE pg_terminate_backend(1)": DENIED,
    "SELECT 1 AS contact_id WHERE pg_cancel_backend(1)": DENIED,
    "SELECT pg_logical_emit_message(FALSE, 'x', 'x') - '0/0' AS contact_id": DENIED,
    "SELECT 1 AS contact_id FROM pg_sleep(60)": DENIED,
    # Files, other servers, what others do.
    "SELECT pg_read_file('/etc/passwd')::bigint AS contact_id": DENIED,
    "SELECT length(pg_ls_dir) AS contact_id FROM pg_ls_dir('/')": DENIED,
    "SELECT lo_import('/etc/passwd')::bigint AS contact_id": DENIED,
    "SELECT 1 AS contact_id FROM pg_authid": DENIED,
    "SELECT 1 AS contact_id FROM dblink('host=127.0.0.1', 'SELECT 1') AS x(a int)": "does not exist",
    # More than one SELECT.
    "WITH gone AS (DELETE FROM contacts RETURNING contact_id) SELECT contact_id FROM gone": "data-modifying|read-only",
    "SELECT 1 AS contact_id) AS chosen; SELECT 2 FROM (SELECT 2 AS contact_id": "several statements",
    "SELECT 1 AS contact_id) AS chosen; SET statement_timeout = 0; SELECT 2 FROM (SELECT 2 AS contact_id": (
        "several statements"
    ),
    "SELECT contact_id FROM contacts; SELECT 1": "several statements|syntax error",
    "DELETE FROM contacts": "syntax error",
    "SELECT 1 AS one": "column called contact_id",
    "SELECT contact_id\nFROM contacts\nWHERE twon = 'Skarn'": "in line 3: column .twon. does not exist",
    "SELECT contact_id FROM contacts WHERE 1 / 0 = 1": "division by zero",
    "SELECT 'Ada' AS contact_id": "invalid input syntax",
}


@pytest.mark.parametrize(("sql", "words"), NOT_ALLOWED.items())
def test_nothing_else_can_be_done(museum: Museum, sql: str, words: str) -> None:
    read = read_criteria(museum.database, SYSTEM, text=by_sql(sql), now=NOW)
    assert read.problem is not None
    assert read.problem.code == "sql"
    with museum.database.transaction() as tx:
        told = choose(tx, sql)
        # The transaction around it goes on, can be written in, and lost nothing.
        run_sql(tx, "UPDATE contact SET updated_at = now()")
        assert run_sql(tx, "SELECT count(*) FROM contact")[0][0] == 10
    assert told == read.problem.message
    assert told is not None
    assert re.search(words, told), told
    with pytest.raises(BadInput):
        clearance(museum.database, SYSTEM, text=by_sql(sql), topic_id=None, now=NOW)


SLOW = "SELECT count(*) AS contact_id FROM generate_series(1, 100000000) AS a, generate_series(1, 1000) AS b"


@pytest.fixture
def impatient(cluster: Cluster) -> Iterator[None]:
    """A reader whose statements end after a second."""
    told = "ALTER ROLE uvarovite_reader SET statement_timeout = '{}s'"
    with psycopg.connect(cluster.keeper_url(), autocommit=True) as connection:
        connection.execute(told.format(1))
        yield
        connection.execute(told.format(READER_SECONDS))


def test_it_is_stopped_after_a_while(museum: Museum, impatient: None) -> None:
    read = read_criteria(museum.database, SYSTEM, text=by_sql(SLOW), now=NOW)
    assert read.problem is not None
    assert "was stopped" in read.problem.message


def test_only_a_few_are_run_at_once_and_nobody_waits_for_them(museum: Museum) -> None:
    url = museum.database.reader_url
    busy = [psycopg.connect(url) for _ in range(READER_CONNECTIONS)]
    read = read_criteria(museum.database, SYSTEM, text=by_sql("SELECT contact_id FROM contacts"), now=NOW)
    assert read.problem is not None
    assert "Try again in a moment" in read.problem.message
    for connection in busy:
        connection.close()
    until(
        lambda: (
            read_criteria(museum.database, SYSTEM, text=by_sql("SELECT contact_id FROM contacts"), now=NOW).matched
            == 10
        ),
        "room for one more",
    )


def test_one_user_never_takes_all_of_it(museum: Museum, monkeypatch: pytest.MonkeyPatch) -> None:
    shares = Shares(each=1, patience_seconds=0.2)
    monkeypatch.setattr("uvarovite.store.expressions.by_hand._shares", shares)

    def read_as(user: int | None) -> str | None:
        before = asking.set(user)
        try:
            told = read_criteria(
                museum.database, SYSTEM, text=by_sql("SELECT contact_id FROM contacts"), now=NOW
            ).problem
        finally:
            asking.reset(before)
        return told.message if told else None

    before = asking.set(7)
    with shares.one() as mine:
        assert mine
        asking.reset(before)
        assert "Your other SELECTs by hand are running" in (read_as(7) or "")
        assert (read_as(8), read_as(None)) == (None, None)
    assert read_as(7) is None


def test_nothing_of_it_stays_for_whoever_comes_next(museum: Museum) -> None:
    """The connections of the application are never the ones that SQL by hand had."""
    chosen(museum, "SELECT contact_id FROM contacts")
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT count(*) AS n FROM pg_stat_activity WHERE usename = 'uvarovite_reader'")
        mine = run_sql(tx, "SELECT current_user AS who, current_setting('statement_timeout') AS told")[0]
    assert (rows[0].n, mine.who, mine.told) == (0, "uvarovite", "0")


def test_a_percent_sign_and_a_comment_are_part_of_it(museum: Museum) -> None:
    asked = "SELECT contact_id FROM contacts WHERE first_name LIKE 'A%' -- whoever begins so"
    assert chosen(museum, asked) == "01"


def test_a_database_that_was_not_prepared_runs_nothing(museum: Museum, cluster: Cluster) -> None:
    name = museum.database.url.rsplit("/", 1)[1]
    with psycopg.connect(cluster.keeper_url(name), autocommit=True) as connection:
        connection.execute("GRANT EXECUTE ON FUNCTION pg_advisory_lock(bigint) TO PUBLIC")
    read = read_criteria(museum.database, SYSTEM, text=by_sql("SELECT contact_id FROM contacts"), now=NOW)
    assert read.problem is not None
    assert "locks would be within reach" in read.problem.message


def test_the_application_is_no_superuser_and_the_cluster_asks_for_a_password(museum: Museum, cluster: Cluster) -> None:
    with museum.database.transaction() as tx:
        told = run_sql(tx, "SELECT rolsuper, rolcreaterole, rolcreatedb FROM pg_roles WHERE rolname = current_user")[0]
    assert tuple(told) == (False, False, False)
    for url in (cluster.url(), cluster.reader_url(), cluster.keeper_url()):
        without = re.sub(r":[^:@/]+@", "@", url)
        with pytest.raises(psycopg.OperationalError, match="password"):
            psycopg.connect(without)


def test_the_views_follow_the_fields(museum: Museum) -> None:
    def columns() -> list[str]:
        return [column.name for column in views_for_sql(museum.database, SYSTEM)[0].columns]

    shoes = FieldDraft(key="shoe_size", label="Shoe size", type="number")
    make_field(museum.database, SYSTEM, shoes)
    make_field(museum.database, SYSTEM, FieldDraft(key="added_at", label="Added to the card file", type="date"))
    assert {"shoe_size", "field_added_at", "added_at"} <= set(columns())
    asked = "SELECT contact_id FROM contacts WHERE shoe_size IS NULL AND field_added_at IS NULL"
    assert len(chosen(museum, asked).split()) == 10
    remove_field(museum.database, SYSTEM, "shoe_size", now=NOW)
    assert "shoe_size" not in columns()
    read = read_criteria(museum.database, SYSTEM, text=by_sql(asked), now=NOW)
    assert read.problem is not None
    assert "shoe_size" in read.problem.message


def test_where_there_is_no_reader_everything_else_works(cluster: Cluster) -> None:
    make_database(cluster, "of_plain")
    upgrade(cluster.url("of_plain"))
    database = Database(cluster.url("of_plain"))
    museum = make_museum(database)
    make_field(database, SYSTEM, FieldDraft(key="shoe_size", label="Shoe size", type="number"))
    assert views_for_sql(database, SYSTEM) == []
    read = read_criteria(database, SYSTEM, text=by_sql("SELECT contact_id FROM contacts"), now=NOW)
    assert read.problem is not None
    assert "not set up on this database" in read.problem.message
    assert read_criteria(database, SYSTEM, text='town is "Skarn"', now=NOW).matched == 8
    assert len(museum.states(museum.release())) == 5
    database.close()
    drop_database(cluster, "of_plain")
