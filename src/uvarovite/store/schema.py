"""Bringing a database's schema up to date by its migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory

from uvarovite.store.database import Database, run_sql
from uvarovite.store.expressions.by_hand import rebuild_views
from uvarovite.store.rehearsals.schemas import drop_schema, schemas


def alembic_config(url: str) -> Config:
    """Alembic's settings for a database, without a file."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url.replace("postgresql://", "postgresql+psycopg://", 1)
    return config


def _head() -> str | None:
    return ScriptDirectory.from_config(alembic_config("")).get_current_head()


def is_current(database: Database) -> bool:
    """Has the database seen every migration of this version, and no later one?"""
    with database.transaction() as tx:
        return [row.version_num for row in run_sql(tx, "SELECT version_num FROM alembic_version")] == [_head()]


def upgrade(url: str, revision: str = "head") -> None:
    """Run every migration that the database has not seen, and make the views for SQL by hand anew; data stays.

    Rehearsals go before the first of them: their tables are of the old form, and their views would hold on to it.
    """
    database = Database(url, connections=1)
    with database.transaction() as tx:
        if kept := schemas(tx):
            known = run_sql(tx, "SELECT version_num FROM alembic_version")
            if [row.version_num for row in known] != [_head()]:
                for rehearsal in kept:
                    drop_schema(tx, rehearsal)
                run_sql(tx, "DELETE FROM rehearsal")
    database.close()
    command.upgrade(alembic_config(url), revision)
    if revision == "head":
        database = Database(url, connections=1)
        with database.transaction() as tx:
            rebuild_views(tx)
        database.close()
