"""A cluster that can be killed: it is no other test's."""

import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.support.ports import free_port
from uvarovite.store.cluster import Cluster
from uvarovite.store.schema import upgrade


@pytest.fixture
def own_cluster() -> Iterator[Cluster]:
    """A cluster that writes through to its disk."""
    directory = Path(tempfile.mkdtemp(prefix="uvarovite-test-"))
    directory.chmod(0o755)
    made = Cluster(directory / "postgres", free_port())
    made.start()
    upgrade(made.url())
    yield made
    made.stop()
    shutil.rmtree(directory, ignore_errors=True)
