"""The read-only views for SQL by hand, the role that sees nothing else, and running a SELECT as that role.

Three walls stand around what somebody wrote: it runs as a role that may read these views and nothing else, within a
function that no statement can step out of (a role cannot be changed within a SECURITY DEFINER function, and several
statements cannot be opened as one cursor); in a transaction that is read-only; and for a bounded time.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import psycopg
from psycopg import sql
from sqlalchemy.exc import DBAPIError

from uvarovite.core.contacts import Field, FieldType
from uvarovite.core.expressions import chosen_table
from uvarovite.store.database import Transaction, change_sql, psycopg_connection, run_sql
from uvarovite.store.fields import load_fields

READER, SCHEMA = "uvarovite_reader", "people"
TIMEOUT_SECONDS = 20
# What the function writes before a SELECT; places in faults count from behind it.
_BEFORE = "SELECT CAST(chosen.contact_id AS bigint) FROM ("

_PREPARE = f"""DO $prepare$ BEGIN
    BEGIN
        IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '{READER}') THEN
            CREATE ROLE {READER} NOLOGIN;
        END IF;
        EXECUTE format('GRANT {READER} TO %I', session_user);
    EXCEPTION WHEN duplicate_object OR unique_violation THEN
        NULL; -- Another installation of the same server was quicker.
    END;
    CREATE SCHEMA IF NOT EXISTS {SCHEMA};
    GRANT USAGE, CREATE ON SCHEMA {SCHEMA} TO {READER};
    CREATE OR REPLACE FUNCTION {SCHEMA}.chosen(query text) RETURNS SETOF bigint
        LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = {SCHEMA}, pg_temp AS $body$
    DECLARE
        one bigint;
    BEGIN
        -- As a cursor, which several statements cannot be.
        FOR one IN EXECUTE '{_BEFORE}' || query || E'\\n) AS chosen' LOOP
            RETURN NEXT one;
        END LOOP;
    END $body$;
    ALTER FUNCTION {SCHEMA}.chosen(text) OWNER TO {READER};
    REVOKE CREATE ON SCHEMA {SCHEMA} FROM {READER};
EXCEPTION WHEN insufficient_privilege THEN
    RAISE WARNING 'SQL by hand is not available: %', SQLERRM;
END $prepare$"""


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewColumn:
    """A column of a view; `expression` is what it is made of."""

    name: str
    type: str
    expression: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PeopleView:
    """A view: what a row of it is, its columns, and what it is made from."""

    name: str
    about: str
    columns: Sequence[ViewColumn]
    source: str


def _column(name: str, type_: str, expression: str) -> ViewColumn:
    return ViewColumn(name=name, type=type_, expression=expression)


_TYPES = {
    FieldType.TEXT: "text",
    FieldType.CHOICE: "text",
    FieldType.NUMBER: "numeric",
    FieldType.DATE: "date",
    FieldType.DATE_TIME: "timestamptz",
    FieldType.YES_NO: "boolean",
}
_OF_CONTACT = (
    _column("contact_id", "bigint", "contact.id"),
    _column("contact_no", "text", "contact.contact_no"),
    _column("address", "text", "contact.address"),
    _column("first_name", "text", "contact.first_name"),
    _column("last_name", "text", "contact.last_name"),
    _column("language", "text", "contact.language"),
    _column("added_at", "timestamptz", "contact.created_at"),
    _column("changed_at", "timestamptz", "contact.updated_at"),
)
_ID = _column("contact_id", "bigint", "contact_id")
_RUNS = "JOIN run ON run.id = run_id JOIN campaign ON campaign.id = run.campaign_id"


def people_views(fields: Sequence[Field]) -> list[PeopleView]:
    """The views over an organisation's fields."""
    taken = {column.name for column in _OF_CONTACT}
    own: list[ViewColumn] = []
    for field in fields:
        if field.standard:
            continue
        raw = f"contact.\"values\"->>'{field.key}'"
        name = field.key if field.key not in taken else f"field_{field.key}"
        match field.type:
            case FieldType.MONEY:
                amount = f"CAST(contact.\"values\"->'{field.key}'->>'amount' AS numeric)"
                own.append(_column(name, "numeric", amount))
                own.append(_column(f"{name}_currency", "text", f"contact.\"values\"->'{field.key}'->>'currency'"))
            case FieldType.LIST:
                own.append(_column(name, "jsonb", f"contact.\"values\"->'{field.key}'"))
            case _:
                own.append(_column(name, _TYPES[field.type], f"CAST({raw} AS {_TYPES[field.type]})"))
    return [
        PeopleView(
            name="contacts",
            about="everybody who is not deleted",
            columns=(*_OF_CONTACT, *own),
            source="contact WHERE contact.deleted_at IS NULL",
        ),
        PeopleView(
            name="consents",
            about="where a person stands with a topic now",
            columns=(
                _ID,
                _column("topic", "text", "topic.name"),
                _column("state", "text", "consent.state"),
                _column("since", "timestamptz", "consent.since"),
                _column("paused_until", "timestamptz", "consent.paused_until"),
                _column("confirmed", "boolean", "consent.confirmed"),
            ),
            source="consent JOIN topic ON topic.id = consent.topic_id",
        ),
        PeopleView(
            name="consent_events",
            about="an entry of the ledger",
            columns=(
                _ID,
                _column("topic", "text", "topic.name"),
                _column("kind", "text", "consent_event.kind"),
                _column("at", "timestamptz", "consent_event.at"),
            ),
            source="consent_event JOIN topic ON topic.id = consent_event.topic_id",
        ),
        PeopleView(
            name="mail",
            about="a message that went to a person",
            columns=(
                _ID,
                _column("campaign", "text", "campaign.name"),
                _column("at", "timestamptz", "sent_mail.at"),
                _column("accepted", "boolean", "sent_mail.accepted"),
            ),
            source=f"sent_mail {_RUNS}",
        ),
        PeopleView(
            name="responses",
            about="an open, a click or a leaving",
            columns=(
                _ID,
                _column("campaign", "text", "campaign.name"),
                _column("kind", "text", "response_event.kind"),
                _column("at", "timestamptz", "response_event.at"),
                _column("by_machine", "boolean", "response_event.machine_rule IS NOT NULL"),
            ),
            source=f"response_event {_RUNS}",
        ),
        PeopleView(
            name="tags",
            about="a tag on a person",
            columns=(_ID, _column("tag", "text", "tag.name")),
            source="contact_tag JOIN tag ON tag.id = contact_tag.tag_id",
        ),
        PeopleView(
            name="files",
            about="the file that a person came with",
            columns=(_column("contact_id", "bigint", "contact.id"), _column("file", "text", "import_file.filename")),
            source="contact JOIN import_file ON import_file.id = contact.import_id WHERE contact.deleted_at IS NULL",
        ),
    ]


def prepare_role(url: str) -> None:
    """Make the role and the function, where the database's user may; who may not is told when somebody writes SQL."""
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute(_PREPARE)


def is_available(tx: Transaction) -> bool:
    """Can SQL by hand be run?"""
    return bool(run_sql(tx, f"SELECT to_regprocedure('{SCHEMA}.chosen(text)') IS NOT NULL AS there")[0].there)


def rebuild_views(tx: Transaction) -> None:
    """Make the views anew from the fields as they are now."""
    if not is_available(tx):
        return
    connection = psycopg_connection(tx)
    for view in people_views(list(load_fields(tx).values())):
        columns = sql.SQL(", ").join(
            sql.SQL("{} AS {}").format(sql.SQL(column.expression), sql.Identifier(column.name))
            for column in view.columns
        )
        name = sql.Identifier(SCHEMA, view.name)
        connection.execute(sql.SQL("DROP VIEW IF EXISTS {}").format(name))
        connection.execute(
            # A barrier: no function of the one who asks sees a row that the view leaves out.
            sql.SQL("CREATE VIEW {} WITH (security_barrier) AS SELECT {} FROM {}").format(
                name, columns, sql.SQL(view.source)
            )
        )
        connection.execute(sql.SQL("GRANT SELECT ON {} TO {}").format(name, sql.Identifier(READER)))


def choose(tx: Transaction, query: str) -> str | None:
    """Keep whom a SELECT gives in `chosen_table`; what is wrong with it, in words, or None. Once for a transaction."""
    table = chosen_table(query)
    if run_sql(tx, "SELECT to_regclass(:name) IS NOT NULL AS there", {"name": table})[0].there:
        return None
    if not is_available(tx):
        return "SQL by hand is not set up on this database: docs/operations.md says how."
    timeout = run_sql(tx, "SELECT current_setting('statement_timeout') AS told")[0].told
    try:
        with tx.begin_nested():
            change_sql(tx, f"CREATE TEMP TABLE {table.removeprefix('pg_temp.')} (contact_id bigint) ON COMMIT DROP")
            change_sql(tx, f"SET LOCAL statement_timeout = '{TIMEOUT_SECONDS}s'")
            with tx.begin_nested():
                # A temporary table may be written to even then, and nothing else.
                change_sql(tx, "SET TRANSACTION READ ONLY")
                change_sql(
                    tx,
                    f"INSERT INTO {table} SELECT DISTINCT id FROM {SCHEMA}.chosen(:query) AS id WHERE id IS NOT NULL",
                    {"query": query},
                )
            change_sql(tx, f"ANALYZE {table}")
    except DBAPIError as fault:
        return _words(fault, query)
    finally:
        change_sql(tx, "SELECT set_config('statement_timeout', :told, TRUE)", {"told": timeout})
    return None


def _words(fault: DBAPIError, query: str) -> str:
    """A fault of the database in words, with its place in what was written."""
    origin = fault.orig
    if isinstance(origin, psycopg.errors.QueryCanceled):
        return f"The SELECT took longer than {TIMEOUT_SECONDS} seconds and was stopped."
    if isinstance(origin, psycopg.errors.InvalidCursorDefinition):
        return "One SELECT, please: several statements are not run."
    if not isinstance(origin, psycopg.Error):
        return str(fault)
    told = origin.diag.message_primary or str(origin)
    if "chosen.contact_id does not exist" in told:
        return "The SELECT has to give a column called contact_id."
    place = origin.diag.internal_position
    # Where it broke within the SELECT itself; what we put around it has no place of its own.
    within = int(place) - 1 - len(_BEFORE) if place else -1
    line = f" in line {query.count(chr(10), 0, within) + 1}" if 0 <= within <= len(query) and "\n" in query else ""
    hint = f" {origin.diag.message_hint}" if origin.diag.message_hint else ""
    return f"The database says{line}: {told}.{hint}"
