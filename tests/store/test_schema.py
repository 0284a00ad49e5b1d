"""The schema: the migrations make exactly the tables of the code, and the database keeps its own rules."""

import re
from datetime import UTC, date, datetime
from typing import Any

import psycopg
import pytest
import sqlalchemy.exc
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Connection, create_engine, text

from tests.support.databases import drop_database, make_database
from tests.support.museum import Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts.import_states import IMPORT
from uvarovite.core.delivery import BATCH, DELIVERY, RUN
from uvarovite.core.expressions import Clock, SqlFragment, parse_criteria
from uvarovite.core.values.state_table import StateTable
from uvarovite.services.imports.standing import get_import, import_list
from uvarovite.store.cluster import Cluster
from uvarovite.store.consent.ledger import events_of
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, RuleBroken, change_sql, run_sql
from uvarovite.store.delivery import permits
from uvarovite.store.expressions.conditions import condition_sql
from uvarovite.store.schema import upgrade
from uvarovite.store.selection.table import Asked, contact_page, order_by
from uvarovite.store.tables import metadata


def definitions(connection: Connection) -> set[str]:
    """Every index and check as PostgreSQL itself writes it down."""
    indexes = connection.execute(text("SELECT indexdef FROM pg_indexes WHERE schemaname = 'public'"))
    checks = connection.execute(
        text("SELECT conrelid::regclass || ' ' || pg_get_constraintdef(oid) FROM pg_constraint WHERE contype = 'c'")
    )
    return {row[0] for row in (*indexes, *checks) if "alembic" not in row[0]}


def test_the_migrations_make_the_tables_of_the_code(database: Database, cluster: Cluster) -> None:
    name = "made_by_the_code"
    make_database(cluster, name)
    engines = [
        create_engine(url.replace("postgresql://", "postgresql+psycopg://"))
        for url in (database.url, cluster.url(name))
    ]
    metadata.create_all(engines[1])
    with engines[0].connect() as migrated, engines[1].connect() as made:
        # Expressions in indexes are compared below: alembic compares their texts, which PostgreSQL writes anew.
        found = compare_metadata(MigrationContext.configure(migrated), metadata)
        assert [one for one in found if one[0] not in ("add_index", "remove_index")] == []
        assert definitions(migrated) == definitions(made)
    for engine in engines:
        engine.dispose()
    drop_database(cluster, name)


def test_upgrading_again_changes_nothing(museum: Museum) -> None:
    before = museum.view().clearance
    upgrade(museum.database.url)
    assert museum.view().clearance == before


BEFORE = """
INSERT INTO topic (key, name, description, position) VALUES ('walks', 'Walks', '', 0);
INSERT INTO contact_field (key, label, type, choices, position) VALUES
    ('town', 'Town', 'text', '[]', 0), ('visits', 'Visits', 'number', '[]', 1);
INSERT INTO import_file (filename, encoding, delimiter, headers, columns, created_at, written_at)
    VALUES ('old.csv', 'utf-8', ';', '["E-mail", "Shoe size"]', '["address", null]', now(), now()),
        ('left.csv', 'utf-8', ',', '[]', '[]', now(), NULL);
INSERT INTO import_refusal (import_id, row, code, message, cells) VALUES (1, 3, 'no_address', 'None.', '["", "41"]');
INSERT INTO contact (contact_no, address, address_folded, first_name, last_name, "values", folded, search, import_id,
        created_at, updated_at)
    SELECT 'M-' || n, 'p' || n || '@b.example', 'p' || n || '@b.example', 'Ada', 'Wren ' || n,
        jsonb_build_object('town', 'Skarn', 'visits', n::text), jsonb_build_object('first_name', 'ada', 'town', 'skarn'),
        'ada wren skarn ' || n, 1, now(), now() FROM generate_series(1, 3) AS n;
WITH told AS (
    INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence)
    SELECT id, 1, 'imported', now(), 'import', '{"ground": "a list"}' FROM contact RETURNING *)
INSERT INTO consent (contact_id, topic_id, state, since, last_kind, event_id)
    SELECT contact_id, 1, 'subscribed', at, kind, id FROM told;
INSERT INTO suppression (address_folded, reason, evidence, at) VALUES ('p2@b.example', 'complaint', '{}', now());
"""


# What could be kept once lists were there, folded as it was then: one text for the whole list.
WITH_A_LIST = """
INSERT INTO contact_field (key, label, type, choices, parts, help, position) VALUES ('stones', 'Stones', 'list', '[]',
    '[{"key": "name", "label": "Name", "type": "text"}, {"key": "found", "label": "Found", "type": "date"}]', '', 2);
UPDATE contact SET "values" = "values" || '{"stones": [{"name": "GROẞULAR", "found": "2026-05-31"}, {"found": "2026-06-01"}]}',
    folded = folded || '{"stones": "grossular"}' WHERE contact_no = 'M-2';
"""


WITH_MAIL = """
INSERT INTO sender (name, host, port, security, connections, timeout_seconds, retry_delays_seconds)
    VALUES ('Relay', 'r.example', 25, 'none', 4, 120, '[]');
INSERT INTO message (name, created_at) VALUES ('Walks', now());
INSERT INTO message_version (message_id, number, content, created_at) VALUES (1, 1, '{}', now());
INSERT INTO audience (name, criteria, edition, updated_at) VALUES ('All', '{"version": 2, "tree": {}}', 1, now());
INSERT INTO campaign (name, audience_id, pace, edition, updated_at) VALUES ('Walks', 1, '{}', 1, now());
INSERT INTO run (campaign_id, number, state, topic_id, message_version_id, sender_id, pace, criteria, snapshot, clearance,
        planned, released_at, next_batch_at)
    VALUES (1, 1, 'ended', 1, 1, 1, '{}', '', '{}', '{}', 3, now(), now());
INSERT INTO batch (run_id, number, size, state, due_at) VALUES (1, 1, 3, 'done', now());
INSERT INTO delivery (run_id, batch_number, first_batch, contact_id, address, address_folded, record, state, attempts,
        settled_at)
    SELECT 1, 1, 1, id, address, address_folded, '{}', (ARRAY['accepted', 'refused', 'unknown'])[id], 1, now() FROM contact;
INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence)
    VALUES (1, 1, 'confirmed', now(), 'form', '{}'), (2, 1, 'confirmed', now(), 'form', '{}'),
        (2, 1, 'withdrawn', now(), 'form', '{}'), (2, 1, 'granted', now(), 'form', '{}');
"""


# A limit of a relay and of a run on its way, with what counts against both, and an answer that names no relay.
WITH_LIMITS = """
UPDATE relay SET hourly_limit = 100;
ALTER TABLE run DISABLE TRIGGER USER;
UPDATE run SET state = 'going', pace = '{"hourly_limit": 20}' WHERE id = (SELECT min(id) FROM run);
ALTER TABLE run ENABLE TRIGGER USER;
INSERT INTO send_permit (relay_id, run_id, lease_token, count, taken_at, closed_at)
    SELECT relay_id, id, told.token, told.n, now(), told.closed FROM run,
        (VALUES ('at work', 5, NULL), ('done', 7, now()), ('long done', 11, now() - interval '3 hours'))
            AS told(token, n, closed)
    WHERE id = (SELECT min(id) FROM run);
INSERT INTO attempt (delivery_id, run_id, number, at, code, text, kind, meaning)
    SELECT min(id), min(run_id), 1, now(), 250, 'Ok', 'accepted', 'accepted' FROM delivery;
"""


# A report as it was told before rows were counted as spreadsheets count, and people who had left: by the link of a
# message, by hand and alone at their address, and by hand before their record was deleted.
WITH_PEOPLE_WHO_LEFT = """
UPDATE import_file SET report = '{"id": 1, "filename": "old.csv", "state": "written", "form": {"kind": "delimited"},
    "columns": [{"header": "E-mail", "use": "field", "field": "address", "type": "text", "samples": [], "confidence": 1,
        "why": "name", "date_order": null, "decimal_comma": null, "doubt": null, "policy": "overwrite", "proposal": null}],
    "key": "contact_no", "rows": 1, "new": 0, "changed": 0, "same": 0, "refused": 1, "refusals": [], "changed_rows": [],
    "changed_fields": {}, "new_rows": [], "outlook": null, "topics_named": {}, "odd_domains": [], "topic": null,
    "ground": null, "tags": [], "written_at": "2026-06-01T00:00:00Z", "progress": null, "undone": null,
    "fault": null}' WHERE id = 1;
INSERT INTO contact (contact_no, address, address_folded, "values", folded, created_at, updated_at, deleted_at)
    VALUES ('L-1', 'moved@b.example', 'moved@b.example', '{}', '{}', now(), now(), NULL),
        ('L-2', 'alone@b.example', 'alone@b.example', '{}', '{}', now(), now(), NULL),
        ('L-3', 'gone@b.example', 'gone@b.example', '{}', '{}', now(), now(), now());
INSERT INTO delivery (run_id, batch_number, first_batch, contact_id, address, address_folded, record, state, attempts)
    SELECT 1, 1, 1, id, 'old@b.example', 'old@b.example', '{}', 'accepted', 1 FROM contact WHERE contact_no = 'L-1';
WITH told AS (
    INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence)
    SELECT id, 1, 'withdrawn', now(), CASE WHEN contact_no = 'L-1' THEN 'link' ELSE 'by_hand' END,
        jsonb_build_object('delivery', (SELECT max(id) FROM delivery)) FROM contact WHERE contact_no LIKE 'L-%'
    RETURNING *)
INSERT INTO consent (contact_id, topic_id, state, since, last_kind, event_id, confirmed)
    SELECT contact_id, 1, 'left', at, kind, id, FALSE FROM told;
"""


def test_upgrading_from_the_first_schema_keeps_the_data(cluster: Cluster) -> None:
    name = "old_schema"
    make_database(cluster, name)
    url = cluster.url(name)
    upgrade(url, "0001")
    with psycopg.connect(url) as connection:
        connection.execute(BEFORE)
    upgrade(url, "0002")
    with psycopg.connect(url) as connection:
        connection.execute(WITH_A_LIST)
    upgrade(url, "0006")
    with psycopg.connect(url) as connection:
        connection.execute(WITH_MAIL)
    upgrade(url, "0008")
    with psycopg.connect(url) as connection:
        connection.execute(WITH_PEOPLE_WHO_LEFT)
    upgrade(url, "0038")
    with psycopg.connect(url) as connection:
        connection.execute(WITH_LIMITS)
    upgrade(url)
    database = Database(url)
    with database.transaction() as tx:
        order = order_by("-visits", load_fields(tx))
        assert order is not None
        asked = Asked(criteria=SqlFragment(text="TRUE", parameters={}), search="skarn wren")
        found = contact_page(tx, asked, order, after=None, limit=10)
        assert [row.contact_no for row in found] == ["M-3", "M-2", "M-1"]
        assert [row.suppressed for row in found] == [None, "complaint", None]
        assert found[0].topics == [["walks", "subscribed", None]]
        assert [one.kind for one in events_of(tx, found[0].id, 1)] == ["imported"]
        # Limits hold as before, and what counted against them goes on to count; all of it in a day.
        now, run = datetime.now(UTC), run_sql(tx, "SELECT min(id) AS id, min(pool_id) AS relay FROM run")[0]
        relay_scope, run_scope = permits.relay_scope(run.relay), permits.run_scope(run.id)
        assert permits.limits_of(tx, [relay_scope, run_scope]) == {relay_scope: {3_600: 100}, run_scope: {3_600: 20}}
        for scope in (relay_scope, run_scope):
            assert permits.used_in(tx, scope, 3_600, now) == 5 + 7
            assert permits.used_in(tx, scope, 86_400, now) == 5 + 7 + 11
        assert {row.relay_id for row in run_sql(tx, "SELECT relay_id FROM attempt")} == {run.relay}
        # What was refused went to nobody; whoever left had to confirm again.
        sent = run_sql(tx, "SELECT contact_id, accepted FROM sent_mail ORDER BY 1")
        assert [tuple(row) for row in sent] == [(1, True), (3, False)]
        assert [row.contact_id for row in run_sql(tx, "SELECT contact_id FROM consent WHERE confirmed")] == [1]
        assert run_sql(tx, "SELECT audience_id FROM run")[0].audience_id == 1
        fields = load_fields(tx)
        clock = Clock(now=datetime(2026, 11, 23, tzinfo=UTC), today=date(2026, 11, 23))
        sql = condition_sql(parse_criteria('any stones (name is "grossular" and found before today)'), fields, clock)
        rows = run_sql(tx, f"SELECT contact_no, folded FROM contact WHERE {sql.text}", sql.parameters)
        assert [(row.contact_no, row.folded["stones"]) for row in rows] == [("M-2", [{"name": "grossular"}, {}])]
        told = run_sql(tx, "SELECT filename, state, form, columns FROM import_file")
        assert [(row.filename, row.state, row.form["delimiter"]) for row in told] == [("old.csv", "written", ";")]
        assert [(one["use"], one["field"]) for one in told[0]._mapping["columns"]["columns"]] == [
            ("field", "address"),
            ("leave_out", None),
        ]
        closed = run_sql(tx, "SELECT address_folded, left_spares IS NULL AS whole FROM address_closing ORDER BY 1")
        assert [tuple(row) for row in closed] == [
            ("alone@b.example", True), ("gone@b.example", False), ("moved@b.example", True), ("old@b.example", True),
        ]  # fmt: skip
    assert import_list(database, SYSTEM)[0].filename == "old.csv"
    told_of = get_import(database, SYSTEM, 1)
    assert (told_of.refusals[0].cells, told_of.refusals[0].row, told_of.refusals[0].record) == (["", "41"], 4, 3)
    assert told_of.refusals[0].message == "None."
    assert (told_of.columns[0].basis, told_of.columns[0].doubts) == ("name", [])
    database.close()
    drop_database(cluster, name)


FORBIDDEN = [
    ("UPDATE consent_event SET kind = 'granted'", "append-only"),
    ("DELETE FROM consent_event", "append-only"),
    ("INSERT INTO consent_event (contact_id, topic_id, kind, at, channel, evidence) "
     "VALUES (999999, 1, 'granted', now(), 'by_hand', '{}')", "refers to no contact"),
    ("INSERT INTO consent_event (contact_id, topic_id, kind, at, channel, evidence) "
     "SELECT id, 999999, 'granted', now(), 'by_hand', '{}' FROM contact", "refers to no contact"),
    ("INSERT INTO consent_event (contact_id, topic_id, kind, at, channel, evidence) "
     "SELECT id, 1, 'paused', now(), 'by_hand', '{}' FROM contact", "consent_event_until"),
    ("UPDATE audit_entry SET facts = '{}'", "audit log is not changed"),
    ("UPDATE audit_entry SET actor_name = 'Somebody else'", "audit log is not changed"),
    ("UPDATE audit_entry SET facts = facts || '{\"to\": \"somebody else\"}'", "audit log is not changed"),
    ("UPDATE audit_entry SET user_id = 1", "audit log is not changed"),
    ("DELETE FROM audit_entry", "audit log is not changed"),
    ("DELETE FROM contact", "the ledger knows this contact"),
    ("DELETE FROM topic", "the ledger knows this topic"),
    ("INSERT INTO suppression (address_folded, domain, reason, evidence, at) "
     "VALUES ('a@b.example', 'b.example', 'by_hand', '{}', now())", "suppression_of_one"),
    ("UPDATE message_version SET content = '{}'", "append-only"),
    ("UPDATE consent SET state = 'maybe'", "consent_state"),
    ("INSERT INTO organisation (id, name, postal_address, locale, time_zone, list_domain, kept_record, track_opens, "
     "track_clicks, page_fields, inner_topics, revision, look_revision) "
     "VALUES (2, '', '', '', '', '', 'fullest', 'off', 'off', '{}', '{}', 1, 1)", "organisation_is_one"),
    ("INSERT INTO suppression (address_folded, reason, evidence, at) "
     "SELECT address_folded, reason, evidence, at FROM suppression LIMIT 1", "suppression_in_force"),
]  # fmt: skip


@pytest.mark.parametrize(("statement", "rule"), FORBIDDEN)
def test_the_database_itself_refuses(museum: Museum, statement: str, rule: str) -> None:
    with (
        pytest.raises((sqlalchemy.exc.DBAPIError, psycopg.Error), match=rule),
        museum.database.transaction() as tx,
    ):
        run_sql(tx, statement)


def test_an_address_has_one_delivery_in_a_run(museum: Museum) -> None:
    run_id = museum.release()
    copied = """INSERT INTO delivery (run_id, batch_number, first_batch, contact_id, address, address_folded, record,
            state, attempts)
        SELECT run_id, batch_number, first_batch, contact_id, address, address_folded, record, 'waiting', 0
        FROM delivery WHERE run_id = :run LIMIT 1"""
    with (
        pytest.raises(sqlalchemy.exc.IntegrityError, match="delivery_one_per_address"),
        museum.database.transaction() as tx,
    ):
        run_sql(tx, copied, {"run": run_id})


def test_a_private_cluster_starts_stops_and_keeps_its_data(cluster: Cluster) -> None:
    assert cluster.running()
    with psycopg.connect(cluster.keeper_url()) as connection:
        assert connection.execute("SHOW listen_addresses").fetchone() == ("127.0.0.1",)


@pytest.mark.parametrize(
    ("table", "states"), [("delivery", DELIVERY), ("batch", BATCH), ("run", RUN), ("import_file", IMPORT)]
)
def test_the_database_knows_the_steps_of_each_table_of_states(
    database: Database, table: str, states: StateTable[Any, Any]
) -> None:
    with database.transaction() as tx:
        told = run_sql(
            tx, "SELECT pg_get_triggerdef(oid) AS text FROM pg_trigger WHERE tgname = :name", {"name": f"{table}_step"}
        )
    assert set(re.findall(r"'(\w+) (\w+)'", told[0].text)) == states.steps


def test_the_database_refuses_a_step_that_there_is_not(museum: Museum) -> None:
    run_id = museum.release()
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE run SET state = 'stopped' WHERE id = :id", {"id": run_id})
    with pytest.raises(RuleBroken, match="stopped does not become going"), museum.database.transaction() as tx:
        change_sql(tx, "UPDATE run SET state = 'going' WHERE id = :id", {"id": run_id})
