"""Databases of a test cluster, made and dropped by its keeper."""

import psycopg

from uvarovite.store.cluster import Cluster
from uvarovite.store.roles import APPLICATION, READER


def make_database(cluster: Cluster, name: str, template: str = "") -> None:
    """Make a database that the application owns, perhaps as a copy of another one."""
    copied = f" TEMPLATE {template} STRATEGY file_copy" if template else ""
    with psycopg.connect(cluster.keeper_url(), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} OWNER {APPLICATION}{copied}")
        connection.execute(f"GRANT CONNECT ON DATABASE {name} TO {READER}")
    if not template:
        with psycopg.connect(cluster.keeper_url(name), autocommit=True) as connection:
            connection.execute(f"ALTER SCHEMA public OWNER TO {APPLICATION}")


def drop_database(cluster: Cluster, name: str) -> None:
    """Drop a database, if it is there, whoever is connected."""
    with psycopg.connect(cluster.keeper_url(), autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
