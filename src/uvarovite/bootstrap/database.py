"""The database: opened, prepared, or a private one."""

from pathlib import Path

from uvarovite.settings import Settings
from uvarovite.store import roles
from uvarovite.store.cluster import Cluster, ClusterFault, place_for_cluster
from uvarovite.store.database import Database, DatabaseUnreachable
from uvarovite.store.schema import upgrade

__all__ = [
    "Cluster",
    "ClusterFault",
    "Database",
    "DatabaseUnreachable",
    "open_database",
    "prepare_roles",
    "private_cluster",
]


def open_database(settings: Settings, *, migrate: bool = True) -> Database:
    """The database with its schema up to date. Raises DatabaseUnreachable."""
    database = Database(settings.database(), reader_url=settings.reader_url.get_secret_value())
    database.check()
    if migrate:
        upgrade(settings.database())
    return database


def prepare_roles(settings: Settings) -> None:
    """Make the roles with the passwords of their URLs, and put what could do harm out of the reader's reach.

    Raises ValueError where a URL is missing or names another role, DatabaseUnreachable.
    """
    roles.prepare(
        keeper_url=settings.keeper_url.get_secret_value(),
        application_url=settings.database(),
        reader_url=settings.reader_url.get_secret_value(),
    )


def private_cluster(directory: Path, port: int) -> Cluster:
    """A PostgreSQL cluster of our own, at `directory` or where its user gets to."""
    return Cluster(place_for_cluster(directory), port)
