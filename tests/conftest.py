"""A real PostgreSQL for the tests: one cluster for a test process, one migrated template, a database for each test."""

import itertools
import os
import shutil
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import hypothesis
import psycopg
import pytest
import structlog
from argon2 import PasswordHasher

from tests.support.databases import drop_database, make_database
from tests.support.museum import Museum, make_museum
from tests.support.ports import free_port
from uvarovite.services.accounts import passwords
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database
from uvarovite.store.schema import upgrade

# The same cases every time; a longer search on demand: pytest --hypothesis-profile=long
hypothesis.settings.register_profile("ci", derandomize=True, deadline=None, max_examples=100, print_blob=True)
hypothesis.settings.register_profile("long", deadline=None, max_examples=5_000)
hypothesis.settings.load_profile("ci")

# A traceback with the values of every local takes seconds to draw.
structlog.configure(
    processors=[
        *structlog.get_config()["processors"][:-1],
        structlog.dev.ConsoleRenderer(exception_formatter=structlog.dev.plain_traceback),
    ]
)

_numbers = itertools.count(1)
# Several times what the databases of one test process ever take.
_ROOM = 2 << 30

# What tests have, and what makes it once, in a database called template_ and its name.
COPIED = {"museum": "museum_there", "demo_museum": "demo_there", "people_museum": "people_there"}


@pytest.fixture(scope="session", autouse=True)
def quick_passwords() -> Iterator[None]:
    """Passwords that cost as little as argon2 can; processes of their own keep what people get."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(passwords, "_hasher", PasswordHasher(time_cost=1, memory_cost=8, parallelism=1))
        patch.setattr(passwords, "_NOBODY", passwords._hasher.hash("nobody's"))
        yield


def _quick_place() -> Path | None:
    """Where a database is copied in a tenth of the time that a disk takes: in memory, where the machine has room there."""
    memory = Path("/dev/shm")
    there = memory.is_dir() and os.access(memory, os.W_OK)
    return memory if there and shutil.disk_usage(memory).free > _ROOM else None


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A cluster of its own, with a migrated template database."""
    directory = Path(tempfile.mkdtemp(prefix="uvarovite-test-", dir=_quick_place()))
    directory.chmod(0o755)
    made = Cluster(directory / "postgres", free_port(), durable=False)
    made.start()
    upgrade(made.url())
    with psycopg.connect(made.keeper_url(), autocommit=True) as connection:
        connection.execute("ALTER DATABASE uvarovite RENAME TO template_uvarovite")
    yield made
    made.stop()
    shutil.rmtree(directory, ignore_errors=True)


@pytest.fixture(scope="session")
def museum_there(cluster: Cluster) -> Museum:
    """The small museum, made once in a database that the tests' own are copies of. Nobody is connected to it."""
    make_database(cluster, "template_museum", "template_uvarovite")
    database = Database(cluster.url("template_museum"), connections=4)
    made = make_museum(database)
    database.close()
    return made


@pytest.fixture
def database(cluster: Cluster, request: pytest.FixtureRequest) -> Iterator[Database]:
    """An empty database with the schema; a copy of what a test has besides, where that is made once for all."""
    template = "template_uvarovite"
    for wanted, there in COPIED.items():
        if wanted in request.fixturenames:
            request.getfixturevalue(there)
            template = f"template_{wanted}"
    name = f"test_{next(_numbers)}"
    make_database(cluster, name, template)
    made = Database(cluster.url(name), connections=16, reader_url=cluster.reader_url(name))
    yield made
    made.close()
    drop_database(cluster, name)


@pytest.fixture
def museum(database: Database, museum_there: Museum) -> Museum:
    """A small museum: ten people with every kind of trouble, an audience, a message and a campaign."""
    return replace(museum_there, database=database)
