"""The read-only views for SQL by hand, and running a SELECT as the role that sees nothing else.

What somebody wrote runs over a connection of its own, which is used for nothing else and closed afterwards, as a role
that may read these views and no more (store.roles): settings, locks and whatever else a session could leave behind are
gone with it. The connection is read-only, takes one statement, and every statement ends after a bounded time. Only the
numbers of the contacts come back.
"""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import psycopg
from psycopg import sql

from uvarovite.core.contacts import Field, FieldType
from uvarovite.store.asking import Shares
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Transaction, change_sql, psycopg_connection, run_sql
from uvarovite.store.expressions.about import chosen_table
from uvarovite.store.roles import PROBES, READER, READER_CONNECTIONS, READER_SECONDS

SCHEMA = "people"
TIMEOUT_SECONDS = READER_SECONDS
# Nobody has all of the reader's connections. Whoever types on waits a moment for the SELECT before, no longer: the
# connection of the application that asks is held meanwhile.
_shares = Shares(each=READER_CONNECTIONS - 1, patience_seconds=1)
# What stands before a SELECT; places in faults count from behind it.
_DECLARE = 'DECLARE "by_hand" CURSOR FOR '
_BEFORE = "SELECT DISTINCT CAST(chosen.contact_id AS bigint) FROM ("
_AFTER = "\n) AS chosen WHERE chosen.contact_id IS NOT NULL"
_ROWS_AT_ONCE = 10_000


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
        raw = f"contact.own->>'{field.key}'"
        name = field.key if field.key not in taken else f"field_{field.key}"
        match field.type:
            case FieldType.MONEY:
                amount = f"CAST(contact.own->'{field.key}'->>'amount' AS numeric)"
                own.append(_column(name, "numeric", amount))
                own.append(_column(f"{name}_currency", "text", f"contact.own->'{field.key}'->>'currency'"))
            case FieldType.LIST:
                own.append(_column(name, "jsonb", f"contact.own->'{field.key}'"))
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


def is_available(tx: Transaction) -> bool:
    """Can SQL by hand be run?"""
    return bool(tx.info.get("reader_url"))


def rebuild_views(tx: Transaction) -> None:
    """Make the views anew from the fields as they are now, for the reader where there is one."""
    connection = psycopg_connection(tx)
    connection.execute(sql.SQL("CREATE SCHEMA IF NOT EXISTS {}").format(sql.Identifier(SCHEMA)))
    reader = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (READER,)).fetchone()
    if reader:
        connection.execute(
            sql.SQL("GRANT USAGE ON SCHEMA {} TO {}").format(sql.Identifier(SCHEMA), sql.Identifier(READER))
        )
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
        if reader:
            connection.execute(sql.SQL("GRANT SELECT ON {} TO {}").format(name, sql.Identifier(READER)))


class _Refused(Exception):
    """SQL by hand cannot be run, in words."""


@contextmanager
def _reading(url: str, *, mine: bool) -> Iterator[psycopg.Connection[Any]]:
    """A connection as the reader, in one read-only transaction that is rolled back. Raises _Refused.

    `mine`: there is one left for the user who asks.
    """
    if not mine:
        raise _Refused("Your other SELECTs by hand are running still. Wait for them, then try again.")
    try:
        connection = psycopg.connect(url, connect_timeout=10)
    except psycopg.OperationalError as fault:
        if "too many connections" in str(fault):
            raise _Refused("Other SELECTs by hand are running. Try again in a moment.") from fault
        raise _Refused(
            "SQL by hand cannot be run: the database refuses its reader. docs/operations.md says how."
        ) from fault
    try:
        connection.read_only = True
        # Asked each time: a database that was moved or restored has lost what was taken away.
        asked = "SELECT rolsuper, {} FROM pg_roles WHERE rolname = current_user".format(
            ", ".join(f"has_function_privilege('{function}', 'EXECUTE')" for function in PROBES)
        )
        superuser, *reached = connection.execute(asked).fetchone() or (True,)
        if superuser or any(reached):
            within = [words for words, open_ in zip(PROBES.values(), reached, strict=False) if open_]
            raise _Refused(
                f"SQL by hand is not run: {', '.join(within) or 'everything'} would be within reach. "
                "docs/operations.md says how to prepare the database."
            )
        yield connection
    finally:
        connection.close()


def choose(tx: Transaction, query: str) -> str | None:
    """Keep whom a SELECT gives in `chosen_table`; what is wrong with it, in words, or None. Once for a transaction."""
    table = chosen_table(query)
    if run_sql(tx, "SELECT to_regclass(:name) IS NOT NULL AS there", {"name": table})[0].there:
        return None
    if not is_available(tx):
        return "SQL by hand is not set up on this database: docs/operations.md says how."
    try:
        # Whatever breaks on the way takes the table along, and nothing else of the transaction.
        with _shares.one() as mine, _reading(tx.info["reader_url"], mine=mine) as connection, tx.begin_nested():
            change_sql(tx, f"CREATE TEMP TABLE {table.removeprefix('pg_temp.')} (contact_id bigint) ON COMMIT DROP")
            _run(tx, connection, query, table)
    except (psycopg.Error, _Refused) as fault:
        return _words(fault, query)
    change_sql(tx, f"ANALYZE {table}")
    return None


def _run(tx: Transaction, connection: psycopg.Connection[Any], query: str, table: str) -> None:
    # A name of its own makes the server give the rows in portions.
    with connection.cursor(name="by_hand") as rows:
        rows.itersize = _ROWS_AT_ONCE
        # With parameters, though there are none, a statement is one statement: several are refused by the protocol.
        rows.execute((_BEFORE + query + _AFTER).replace("%", "%%").encode(), ())
        with psycopg_connection(tx).cursor().copy(f"COPY {table} (contact_id) FROM STDIN") as copy:
            for row in rows:
                copy.write_row(row)


def _words(fault: Exception, query: str) -> str:
    """A fault in words, with its place in what was written."""
    if isinstance(fault, _Refused):
        return str(fault)
    if isinstance(fault, psycopg.errors.QueryCanceled):
        return f"The SELECT took longer than {TIMEOUT_SECONDS} seconds and was stopped."
    assert isinstance(fault, psycopg.Error)
    told = fault.diag.message_primary or str(fault)
    if "multiple commands" in told:
        return "One SELECT, please: several statements are not run."
    if "chosen.contact_id does not exist" in told:
        return "The SELECT has to give a column called contact_id."
    place = fault.diag.statement_position
    # Where it broke within the SELECT itself; what we put around it has no place of its own.
    within = int(place) - 1 - len(_DECLARE + _BEFORE) if place else -1
    line = f" in line {query.count(chr(10), 0, within) + 1}" if 0 <= within <= len(query) and "\n" in query else ""
    hint = f" {fault.diag.message_hint}" if fault.diag.message_hint else ""
    return f"The database says{line}: {told}.{hint}"
