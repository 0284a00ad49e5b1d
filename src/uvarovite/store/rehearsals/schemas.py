"""A schema for a rehearsal: what a run writes is a table of its own there, and everything else a view that refuses writes.

Whoever works in it (`seen_in`, `move_into`) runs the same statements as ever. So a rehearsal goes through the
whole engine, its results stand apart, and all of them are gone when the schema is dropped.
"""

import re

from uvarovite.store.database import Database, Transaction, change_sql, psycopg_connection, run_sql
from uvarovite.store.tables import metadata

# What a run writes, from its release to what comes back.
OWN = frozenset(
    {
        "attempt",
        "audit_entry",
        "batch",
        "campaign",
        "counted_response",
        "delivery",
        "delivery_link",
        "planned_release",
        "relay",
        "response_count",
        "response_event",
        "response_first",
        "run",
        "run_count",
        "run_link",
        "run_pause",
        "send_count",
        "send_limit",
        "send_open",
        "sent_mail",
        "slow_domain",
        "suppression",
    }
)
_NAME = re.compile(r"rehearsal_([1-9][0-9]*)")


def schema_of(rehearsal_id: int) -> str:
    """The name of a rehearsal's schema."""
    return f"rehearsal_{rehearsal_id}"


def make_schema(tx: Transaction, rehearsal_id: int) -> None:
    """Make a rehearsal's schema, its own tables empty.

    Foreign keys are left out, since most lead to views; checks, keys and triggers are those of the real tables.
    """
    schema = schema_of(rehearsal_id)
    made = [f"CREATE SCHEMA {schema}"]
    for table in sorted(metadata.tables):
        if table not in OWN:
            made.append(f"CREATE VIEW {schema}.{table} AS TABLE public.{table}")
            made.append(
                f"""CREATE TRIGGER {table}_stays INSTEAD OF INSERT OR UPDATE OR DELETE ON {schema}.{table}
                    FOR EACH ROW EXECUTE FUNCTION refuse_in_rehearsal()"""
            )
            continue
        told = run_sql(
            tx,
            """SELECT array_to_string(reloptions, ', ') AS options,
                    ARRAY(SELECT pg_get_triggerdef(pg_trigger.oid) FROM pg_trigger
                        WHERE tgrelid = pg_class.oid AND NOT tgisinternal ORDER BY tgname) AS triggers
                FROM pg_class WHERE oid = CAST(:table AS regclass)""",
            {"table": f"public.{table}"},
        )[0]
        options = f"WITH ({told.options})" if told.options else ""
        made.append(f"CREATE TABLE {schema}.{table} (LIKE public.{table} INCLUDING ALL) {options}")
        made += [one.replace(f" ON public.{table} ", f" ON {schema}.{table} ", 1) for one in told.triggers]
    psycopg_connection(tx).execute("; ".join(made).encode())


def move_into(tx: Transaction, rehearsal_id: int) -> None:
    """From here on the transaction works in a rehearsal's schema."""
    change_sql(tx, f"SET LOCAL search_path TO {schema_of(rehearsal_id)}, public")


def copy_rows(tx: Transaction, table: str, condition: str, parameters: dict[str, object] | None = None) -> None:
    """Copy real rows into the schema that the transaction works in."""
    change_sql(tx, f"INSERT INTO {table} SELECT * FROM public.{table} WHERE {condition}", parameters)


def seen_in(database: Database, rehearsal_id: int) -> Database:
    """The database as it is seen in a rehearsal's schema. Its transactions raise SchemaGone once that is dropped."""
    return database.in_schema(schema_of(rehearsal_id), holds="run")


def drop_schema(tx: Transaction, rehearsal_id: int) -> None:
    """Throw away what a rehearsal wrote. Whoever is at work in it holds its runs, and is waited for."""
    schema = schema_of(rehearsal_id)
    if run_sql(tx, "SELECT to_regclass(:runs) AS there", {"runs": f"{schema}.run"})[0].there:
        change_sql(tx, f"LOCK TABLE {schema}.run IN ACCESS EXCLUSIVE MODE")
        change_sql(tx, f"DROP SCHEMA {schema} CASCADE")


def schemas(tx: Transaction) -> list[int]:
    """The rehearsals that have a schema."""
    names = run_sql(tx, "SELECT nspname FROM pg_namespace WHERE nspname LIKE 'rehearsal\\_%'")
    return sorted(int(found[1]) for row in names if (found := _NAME.fullmatch(row.nspname)))
