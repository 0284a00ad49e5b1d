"""The roles that work with a database: the application, which owns its tables and is no superuser, and the reader, who
runs the SELECTs that people write by hand and may do nothing else.

`prepare_database` is run once for a database, by its keeper (a superuser): the demo and the tests do it for their own
cluster, docs/operations.md says how for any other.
"""

import psycopg
from psycopg import sql

from uvarovite.store.database import DatabaseUnreachable

APPLICATION, READER = "uvarovite", "uvarovite_reader"
# More SELECTs by hand than these are not run at once: each holds a connection of the application's meanwhile.
READER_CONNECTIONS = 3
READER_SECONDS = 20

# Whatever is volatile does more than look: settings, locks, large objects, notifications, waiting, other sessions, text
# that is run as SQL. Few are harmless.
_HARMLESS = ("random", "clock_timestamp", "timeofday", "gen_random_uuid", "statement_timestamp")

_OUT_OF_REACH = f"""
DO $$ DECLARE one regprocedure; BEGIN
    FOR one IN SELECT oid::regprocedure FROM pg_proc
            WHERE pronamespace = 'pg_catalog'::regnamespace AND provolatile = 'v' AND prokind = 'f'
                AND proname NOT IN ({", ".join(f"'{name}'" for name in _HARMLESS)}) LOOP
        EXECUTE format('GRANT EXECUTE ON FUNCTION %s TO {APPLICATION}', one);
        EXECUTE format('REVOKE EXECUTE ON FUNCTION %s FROM PUBLIC', one);
    END LOOP;
END $$;
"""


def make_roles(connection: psycopg.Connection[object], *, application: str, reader: str) -> None:
    """Make both roles with their passwords, or give them these."""
    for name, password, options in (
        (APPLICATION, application, "LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE"),
        (READER, reader, f"LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOINHERIT CONNECTION LIMIT {READER_CONNECTIONS}"),
    ):
        there = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (name,)).fetchone()
        statement = sql.SQL("{} ROLE {} WITH {} PASSWORD {}")
        connection.execute(
            statement.format(
                sql.SQL("ALTER" if there else "CREATE"), sql.Identifier(name), sql.SQL(options), sql.Literal(password)
            )
        )
    for setting, value in (
        ("default_transaction_read_only", "on"),
        ("statement_timeout", f"{READER_SECONDS}s"),
        ("idle_in_transaction_session_timeout", f"{READER_SECONDS}s"),
        ("work_mem", "16MB"),
        ("temp_file_limit", "1GB"),
        ("search_path", "people"),
    ):
        connection.execute(
            sql.SQL("ALTER ROLE {} SET {} = {}").format(
                sql.Identifier(READER), sql.Identifier(setting), sql.Literal(value)
            )
        )


def prepare(*, keeper_url: str, application_url: str, reader_url: str) -> None:
    """Make both roles with the passwords that stand in their URLs, and prepare the keeper's database.

    Raises ValueError where a URL is missing or names another role, DatabaseUnreachable.
    """
    passwords = {}
    for role, url in ((APPLICATION, application_url), (READER, reader_url)):
        told = psycopg.conninfo.conninfo_to_dict(url) if url else {}
        if told.get("user") != role or not told.get("password"):
            raise ValueError(f"The URL of the role {role} has to name it and its password.")
        passwords[role] = str(told["password"])
    if not keeper_url:
        raise ValueError("Set UVAROVITE_KEEPER_URL to the database, as one of its superusers.")
    try:
        with psycopg.connect(keeper_url, autocommit=True) as connection:
            make_roles(connection, application=passwords[APPLICATION], reader=passwords[READER])
        prepare_database(keeper_url)
    except psycopg.OperationalError as fault:
        raise DatabaseUnreachable(str(fault).strip()) from fault


def prepare_database(keeper_url: str) -> None:
    """Let the application own a database, and put what could do harm out of the reader's reach in it."""
    with psycopg.connect(keeper_url, autocommit=True) as connection:
        name = sql.Identifier(connection.info.dbname)
        connection.execute(sql.SQL("REVOKE ALL ON DATABASE {} FROM PUBLIC").format(name))
        connection.execute(sql.SQL("GRANT CONNECT ON DATABASE {} TO {}").format(name, sql.Identifier(READER)))
        connection.execute(sql.SQL("ALTER DATABASE {} OWNER TO {}").format(name, sql.Identifier(APPLICATION)))
        connection.execute(f"ALTER SCHEMA public OWNER TO {APPLICATION}")
        connection.execute("REVOKE ALL ON SCHEMA public FROM PUBLIC")
        connection.execute(_OUT_OF_REACH)


# What must be out of reach before anything is run: one of each kind that `prepare_database` takes away.
PROBES = {
    "set_config(text, text, boolean)": "settings",
    "pg_advisory_lock(bigint)": "locks",
    "lo_from_bytea(oid, bytea)": "large objects",
    "pg_notify(text, text)": "notifications",
    "pg_terminate_backend(integer, bigint)": "other sessions",
    "query_to_xml(text, boolean, boolean, text)": "text that is run as SQL",
}
