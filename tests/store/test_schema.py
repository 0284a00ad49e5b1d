"""The schema: the migrations make exactly the tables of the code, and the database keeps its own rules."""

import psycopg
import pytest
import sqlalchemy.exc
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Connection, create_engine, text

from tests.support.museum import Museum
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, run_sql
from uvarovite.store.schema import upgrade
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
    with psycopg.connect(cluster.url("postgres"), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}")
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
    with psycopg.connect(cluster.url("postgres"), autocommit=True) as connection:
        connection.execute(f"DROP DATABASE {name} WITH (FORCE)")


def test_upgrading_again_changes_nothing(museum: Museum) -> None:
    before = museum.view().clearance
    upgrade(museum.database.url)
    assert museum.view().clearance == before


FORBIDDEN = [
    ("UPDATE consent_event SET kind = 'granted'", "append-only"),
    ("DELETE FROM consent_event", "append-only"),
    ("INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence) "
     "VALUES (999999, 1, 'granted', now(), 'by_hand', '{}')", "refers to no contact"),
    ("INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence) "
     "SELECT id, 999999, 'granted', now(), 'by_hand', '{}' FROM contact", "refers to no contact"),
    ("INSERT INTO consent_event (contact_id, topic_id, kind, at, way, evidence) "
     "SELECT id, 1, 'paused', now(), 'by_hand', '{}' FROM contact", "consent_event_until"),
    ("DELETE FROM contact", "the ledger knows this contact"),
    ("DELETE FROM topic", "the ledger knows this topic"),
    ("INSERT INTO suppression (address_folded, domain, reason, evidence, at) "
     "VALUES ('a@b.example', 'b.example', 'by_hand', '{}', now())", "suppression_of_one"),
    ("UPDATE message_version SET content = '{}'", "append-only"),
    ("UPDATE consent SET state = 'maybe'", "consent_state"),
    ("INSERT INTO organisation (id, name, postal_address, locale, time_zone, list_domain) "
     "VALUES (2, '', '', '', '', '')", "organisation_is_one"),
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
    with psycopg.connect(cluster.url("postgres")) as connection:
        assert connection.execute("SHOW listen_addresses").fetchone() == ("127.0.0.1",)
