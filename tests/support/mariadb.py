"""A private MariaDB on loopback, for sources that are read."""

import getpass
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pymysql

from tests.support.ports import free_port
from tests.support.processes import until


@contextmanager
def mariadb() -> Iterator[int]:
    """Its port; the account `root` has no password."""
    home = Path(tempfile.mkdtemp(prefix="uvarovite-mariadb-"))
    own = ["--no-defaults", f"--datadir={home / 'data'}", f"--user={getpass.getuser()}"]
    made = ["mariadb-install-db", *own, "--auth-root-authentication-method=normal", "--skip-test-db"]
    subprocess.run(made, check=True, capture_output=True)
    port = free_port()
    server = subprocess.Popen(
        [
            shutil.which("mariadbd") or "/usr/sbin/mariadbd",
            *own,
            f"--port={port}",
            "--bind-address=127.0.0.1",
            f"--socket={home / 'socket'}",
            f"--pid-file={home / 'pid'}",
            "--innodb-flush-log-at-trx-commit=0",
        ],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )

    def answers() -> bool:
        try:
            pymysql.connect(host="127.0.0.1", port=port, user="root").close()
        except pymysql.err.OperationalError:
            return False
        return True

    try:
        until(answers, "MariaDB")
        yield port
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(home, ignore_errors=True)
