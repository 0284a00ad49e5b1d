"""A durable PostgreSQL of a measurement's own."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database
from uvarovite.store.schema import upgrade


@contextmanager
def own_database(port: int, directory: Path | None = None) -> Iterator[Database]:
    """An empty database with our schema; its cluster stays in the directory, if one is named."""
    with tempfile.TemporaryDirectory() as made:
        place = directory or Path(made)
        place.mkdir(exist_ok=True)
        place.chmod(0o755)
        cluster = Cluster(place / "postgres", port)
        cluster.start()
        try:
            upgrade(cluster.url())
            yield Database(cluster.url())
        finally:
            cluster.stop()
