"""The application's own processes, for tests that kill them."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx

from tests.support.museum import SECRET
from tests.support.ports import free_port
from uvarovite.bootstrap import port_is_free

PATIENCE_SECONDS = 90


def until(condition: Callable[[], Any], what: str, seconds: float = PATIENCE_SECONDS) -> Any:
    """Wait for a condition; its first true value. Fails with `what` when it does not come."""
    end = time.monotonic() + seconds
    while True:
        if value := condition():
            return value
        if time.monotonic() > end:
            raise AssertionError(f"waited {seconds} s in vain for {what}")
        time.sleep(0.02)


class Installation:
    """Processes that share one database, on free ports."""

    def __init__(self, database_url: str, directory: Path) -> None:
        self.directory = directory
        self.ports = {name: free_port() for name in ("web", "smtp", "inbox", "names")}
        self.environment = {
            **os.environ,
            "UVAROVITE_DATABASE_URL": database_url,
            "UVAROVITE_SECRET_KEY": SECRET.decode(),
            "UVAROVITE_WEB_PORT": str(self.ports["web"]),
            "UVAROVITE_SMTP_PORT": str(self.ports["smtp"]),
            "UVAROVITE_INBOX_PORT": str(self.ports["inbox"]),
            "UVAROVITE_NAMES_PORT": str(self.ports["names"]),
            "UVAROVITE_NAME_SERVER": f"127.0.0.1:{self.ports['names']}",
            "UVAROVITE_SOURCES_DIR": str(directory / "sources"),
        }
        self.running: list[subprocess.Popen[bytes]] = []

    @property
    def web_url(self) -> str:
        return f"http://127.0.0.1:{self.ports['web']}"

    def start(self, *arguments: str) -> subprocess.Popen[bytes]:
        """Start `uvarovite …`; its output goes into a file."""
        log = self.directory / f"{arguments[0]}.log"
        with log.open("ab") as file:
            process = subprocess.Popen(
                [sys.executable, "-m", "uvarovite.cli.main", *arguments],
                env=self.environment,
                stdout=file,
                stderr=file,
                start_new_session=True,
            )
        self.running.append(process)
        return process

    def run(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """Run a command to its end."""
        return subprocess.run(
            [sys.executable, "-m", "uvarovite.cli.main", *arguments],
            env=self.environment,
            capture_output=True,
            text=True,
            timeout=PATIENCE_SECONDS,
            check=False,
        )

    def start_rehearsal(self, speed: float = 600.0) -> None:
        """Start the simulated world and wait until it listens."""
        self.start("rehearsal", "--directory", str(self.directory / "mailbox"), "--speed", str(speed))
        until(lambda: not port_is_free("127.0.0.1", self.ports["smtp"]), "the rehearsal's relay")
        until(lambda: not port_is_free("127.0.0.1", self.ports["inbox"]), "the rehearsal's inbox")

    def start_web(self) -> None:
        """Start the web server and wait until it answers."""
        self.start("serve")
        until(lambda: not port_is_free("127.0.0.1", self.ports["web"]), "the web server")

    def captured(self) -> list[str]:
        """The recipients of everything that the relay took, in order."""
        url = f"http://127.0.0.1:{self.ports['inbox']}/messages.json?limit=20000"
        return [one["recipient"] for one in httpx.get(url).json()][::-1]


@contextmanager
def installation(database_url: str, directory: Path) -> Iterator[Installation]:
    """An installation whose processes are gone afterwards."""
    made = Installation(database_url, directory)
    try:
        yield made
    finally:
        for process in made.running:
            if process.poll() is None:
                process.send_signal(signal.SIGKILL)
            process.wait()
