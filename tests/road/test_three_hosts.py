"""Workers on other machines: one database, and links that are cut and slowed in mid-run."""

import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.support.hosts import HERE, Host, can_make_hosts, hosts
from tests.support.nights import FEW_IN_HAND, IN_HAND, IS_LONG, PATIENCE, PEOPLE, begun
from tests.support.processes import Installation, installation, until
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, change_sql

pytestmark = pytest.mark.skipif(not (IS_LONG and can_make_hosts()), reason="takes root and minutes: make endurance")


def listening_here(cluster: Cluster) -> None:
    """The cluster is reached by the other hosts, too; as far as its passwords go."""
    cluster.stop()
    data = cluster.directory / "data"
    with (data / "pg_hba.conf").open("a") as rules:
        rules.write(f"host all all {HERE}/24 scram-sha-256\n")
    [pg_ctl] = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_ctl"))[-1:]
    options = f"-p {cluster.port} -c listen_addresses=127.0.0.1,{HERE} -c unix_socket_directories=''"
    log = cluster.directory / "postgres.log"
    command = [
        "runuser",
        "-u",
        "postgres",
        "--",
        str(pg_ctl),
        "start",
        "-w",
        "-D",
        str(data),
        "-l",
        str(log),
        "-o",
        options,
    ]
    subprocess.run(command, check=True, cwd="/", stdout=subprocess.DEVNULL)


def worker_on(host: Host, world: Installation) -> subprocess.Popen[bytes]:
    """A worker on another host."""
    command = [*host.prefix, sys.executable, "-m", "uvarovite.cli.main", "worker"]
    with (world.directory / f"{host.name}.log").open("ab") as log:
        return subprocess.Popen(command, env=world.environment, stdout=log, stderr=log)


@pytest.fixture
def others() -> Iterator[list[Host]]:
    with hosts(2) as made:
        yield made


def test_a_link_is_cut_and_another_slowed_in_mid_run(others: list[Host], own_cluster: Cluster, tmp_path: Path) -> None:
    listening_here(own_cluster)
    database = Database(own_cluster.url(), connections=4)
    first, second = others
    url = own_cluster.url().replace("127.0.0.1", HERE)
    with installation(url, tmp_path, UVAROVITE_HOST=HERE, **FEW_IN_HAND) as world:
        world.host = HERE
        night = begun(database, world)
        with database.transaction() as tx:
            change_sql(tx, "UPDATE relay SET host = :host", {"host": HERE})
        workers = [worker_on(host, world) for host in others]
        try:
            until(lambda: night.settled() > PEOPLE // 10, "both to send", PATIENCE)
            first.cut()
            second.slow()
            # Nobody says that leases have run out: the other worker finds it out by the database's clock.
            until(
                lambda: night.view().states.get("unknown", 0) > 0 or night.view().state == "ended",
                "the lost batches",
                PATIENCE,
            )
            first.mend()
            until(lambda: night.view().state == "ended", "the end of the run", PATIENCE)
            assert all(worker.poll() is None for worker in workers)
        finally:
            for worker in workers:
                worker.terminate()
                worker.wait(60)
        night.hold_against_the_world(2 * IN_HAND)
    database.close()
