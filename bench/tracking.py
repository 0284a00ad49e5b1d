"""Pixels and links asked for in a flood while a dispatch runs on the same machine: nothing lost, and how long each waits.

Debian's `wrk`, 40 connections, 60 s; seven of ten ask for a pixel, three follow a link, of 20,000 people, each from
elsewhere. 2,000 requests a second and a median of 20 ms are meant. Beside it the same server's plainest answer, to the
question whether it lives. `python -m bench.tracking DIRECTORY` puts the cluster there.
"""

import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from socket import socket

import httpx

from bench.clusters import own_database
from bench.delivery import SECRET, Museum
from bench.sinks import smtp_sink
from uvarovite.core.responses import Purpose, TokenWriter, derive_keyring
from uvarovite.store.database import Database, run_sql

SECONDS, CONNECTIONS = 60, 40
PORT = 8_051

_SCRIPT = """
local paths, at = {}, 0
for line in io.lines(os.getenv("PATHS")) do paths[#paths + 1] = line end
request = function()
  at = at % #paths + 1
  local n = math.random(0, 16777215)
  local from = string.format("10.%d.%d.%d", n / 65536, n / 256 % 256, n % 256)
  return wrk.format("GET", paths[at], {["X-Forwarded-For"] = from, ["User-Agent"] = "Mozilla/5.0 (X11) Firefox/140.0"})
end
"""


@contextmanager
def started(database: Database, *arguments: str, **settings: str) -> Iterator[None]:
    """A process of ours."""
    environment = {
        **os.environ,
        "UVAROVITE_DATABASE_URL": database.url,
        "UVAROVITE_SECRET_KEY": SECRET,
        "UVAROVITE_PUBLIC_URL": f"http://127.0.0.1:{settings['UVAROVITE_WEB_PORT']}",
        **settings,
    }
    command = [sys.executable, "-m", "uvarovite.cli.main", *arguments]
    with subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as process:
        try:
            yield
        finally:
            process.terminate()
            process.wait(60)


def free_port() -> int:
    """A port that nobody has."""
    with socket() as free:
        free.bind(("127.0.0.1", 0))
        port: int = free.getsockname()[1]
    return port


def wait_for(url: str) -> None:
    """Until a server answers."""
    for _ in range(300):
        try:
            httpx.get(url, timeout=2)
            return
        except httpx.TransportError:
            time.sleep(0.1)
    raise TimeoutError(url)


def paths_of(database: Database, run_id: int) -> list[str]:
    """Pixels and links of everybody in a run, in no order."""
    with database.transaction() as tx:
        deliveries = [row.id for row in run_sql(tx, "SELECT id FROM delivery WHERE run_id = :run", {"run": run_id})]
    tokens, chance = TokenWriter(derive_keyring(SECRET.encode())), random.Random(8_040)
    made = [
        f"/r/{tokens.text(Purpose.CLICK, one, 0)}"
        if chance.random() < 0.3
        else f"/o/{tokens.text(Purpose.OPEN, one)}.gif"
        for one in deliveries
    ]
    chance.shuffle(made)
    return made


def flood(url: str, directory: Path, *, seconds: int, paths: list[str] | None = None) -> tuple[int, float, str, int]:
    """(requests, a second, median, refused) of a flood."""
    wrk = shutil.which("wrk")
    if wrk is None:
        raise FileNotFoundError("wrk: install Debian's package wrk")
    command = [wrk, "-t1", f"-c{CONNECTIONS}", f"-d{seconds}s", "--latency"]
    if paths is not None:
        (directory / "paths").write_text("\n".join(paths))
        (directory / "flood.lua").write_text(_SCRIPT)
        command += ["-s", str(directory / "flood.lua")]
    told = subprocess.run(
        [*command, url],
        env={**os.environ, "PATHS": str(directory / "paths")},
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    refused = re.search(r"Non-2xx or 3xx responses: (\d+)", told)
    return (
        int(re.search(r"(\d+) requests in", told)[1]),  # type: ignore[index]
        float(re.search(r"Requests/sec: +([\d.]+)", told)[1]),  # type: ignore[index]
        re.search(r"50% +(\S+)", told)[1],  # type: ignore[index]
        int(refused[1]) if refused else 0,
    )


def main() -> None:
    """Measure and print."""
    place = Path(sys.argv[1]) if __name__ == "__main__" and sys.argv[1:] else None
    with own_database(PORT, place) as database, smtp_sink() as sink, tempfile.TemporaryDirectory() as scratch:
        museum = Museum(database)
        museum.point_to(sink, 8)
        first = museum.let_go()
        web = free_port()
        ports = {
            "UVAROVITE_WEB_PORT": str(web),
            "UVAROVITE_PROXIES": "127.0.0.1",
            "UVAROVITE_NAME_SERVER": "127.0.0.1:9",
        }
        with started(database, "worker", **ports):
            museum.seconds_for(first)
            runs = [museum.let_go() for _ in range(3)]
            with started(database, "serve", **ports):
                wait_for(f"http://127.0.0.1:{web}/health")
                _, bare, bare_median, _ = flood(f"http://127.0.0.1:{web}/health", Path(scratch), seconds=10)
                paths = paths_of(database, first)
                asked, rate, median, refused = flood(
                    f"http://127.0.0.1:{web}", Path(scratch), seconds=SECONDS, paths=paths
                )
        with database.transaction() as tx:
            kept = run_sql(tx, "SELECT count(*) AS n FROM response_event")[0].n
            sent = run_sql(
                tx,
                "SELECT count(*) AS n FROM delivery WHERE run_id = ANY(:runs) AND state = 'accepted'",
                {"runs": runs},
            )[0].n
        print(
            f"tracking: {rate:,.0f} a second of {asked:,} ({refused:,} refused), median {median}; 2,000 and 20 ms meant"
        )
        print(f"tracking: {kept:,} noted, so {asked - refused - kept:,} lost (below 0: asked for as the flood ended)")
        print(f"tracking: {bare:,.0f} a second of the plainest answer, median {bare_median}; {sent:,} sent meanwhile")


if __name__ == "__main__":
    main()
