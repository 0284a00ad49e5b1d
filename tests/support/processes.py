"""The application's own processes, for tests that kill them."""

import multiprocessing
import os
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import httpx

from tests.support.museum import SECRET
from tests.support.ports import free_port
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.cli.app import COMMANDS, app

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


# Each process begins as a fork of one that has imported everything: reading the program took longer than most tests.
_FORKS = multiprocessing.get_context("forkserver")
_FORKS.set_forkserver_preload([f"uvarovite.cli.{module}" for module in sorted(set(COMMANDS.values()))])


def _run(act: Callable[..., None], arguments: tuple[Any, ...], environment: dict[str, str], out: str, err: str) -> None:
    os.setsid()
    for stream, path in ((1, out), (2, err)):
        os.dup2(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND), stream)
    os.environ.clear()
    os.environ.update(environment)
    act(*arguments)


def _run_command(*arguments: str) -> None:
    app(list(arguments))


class Started:
    """Something that runs in a process of its own, in a session of its own; what it says goes into two files."""

    def __init__(
        self, act: Callable[..., None], arguments: tuple[Any, ...], environment: dict[str, str], out: Path, err: Path
    ) -> None:
        self._process = _FORKS.Process(target=_run, args=(act, arguments, environment, str(out), str(err)))
        self._process.start()

    @property
    def pid(self) -> int:
        """Its number."""
        assert self._process.pid is not None
        return self._process.pid

    def poll(self) -> int | None:
        """How it ended: its exit code, or the negative number of the signal; None while it runs."""
        return self._process.exitcode

    def send_signal(self, number: int) -> None:
        """Send a signal to it."""
        os.kill(self.pid, number)

    def wait(self, timeout: float | None = None) -> int | None:
        """Wait for its end."""
        self._process.join(timeout)
        return self.poll()


class Installation:
    """Processes that share one database, on free ports."""

    def __init__(self, database_url: str, directory: Path) -> None:
        self.directory = directory
        # Where the simulated world listens.
        self.host = "127.0.0.1"
        self.ports = {name: free_port() for name in ("web", "smtp", "inbox", "inbound", "names")}
        self.environment = {
            **os.environ,
            "UVAROVITE_DATABASE_URL": database_url,
            "UVAROVITE_SECRET_KEY": SECRET.decode(),
            "UVAROVITE_WEB_PORT": str(self.ports["web"]),
            "UVAROVITE_SMTP_PORT": str(self.ports["smtp"]),
            "UVAROVITE_INBOX_PORT": str(self.ports["inbox"]),
            "UVAROVITE_INBOUND_PORT": str(self.ports["inbound"]),
            "UVAROVITE_NAMES_PORT": str(self.ports["names"]),
            "UVAROVITE_NAME_SERVER": f"127.0.0.1:{self.ports['names']}",
            "UVAROVITE_SOURCES_DIR": str(directory / "sources"),
        }
        self.running: list[Started] = []

    @property
    def web_url(self) -> str:
        return f"http://127.0.0.1:{self.ports['web']}"

    @property
    def inbox_url(self) -> str:
        return f"http://{self.host}:{self.ports['inbox']}"

    def start(self, *arguments: str) -> Started:
        """Start `uvarovite …`; its output goes into a file."""
        return self.start_call(arguments[0], _run_command, *arguments)

    def start_call(self, name: str, act: Callable[..., None], *arguments: Any) -> Started:
        """Start something of ours with the installation's environment; its output goes into a file of that name."""
        log = self.directory / f"{name}.log"
        process = Started(act, arguments, self.environment, log, log)
        self.running.append(process)
        return process

    def run(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """Run a command to its end."""
        with TemporaryDirectory() as directory:
            out, err = Path(directory, "out"), Path(directory, "err")
            code = Started(_run_command, arguments, self.environment, out, err).wait(PATIENCE_SECONDS)
            assert code is not None, f"{arguments} did not end"
            return subprocess.CompletedProcess(arguments, code, out.read_text(), err.read_text())

    def start_rehearsal(self, speed: float = 600.0, scenario: str = "ordinary") -> None:
        """Start the simulated world and wait until it listens."""
        mailbox = str(self.directory / "mailbox")
        self.start("rehearsal", "--directory", mailbox, "--speed", str(speed), "--scenario", scenario)
        until(lambda: not port_is_free(self.host, self.ports["smtp"]), "the rehearsal's relay")
        until(lambda: not port_is_free(self.host, self.ports["inbox"]), "the rehearsal's inbox")

    def start_web(self) -> None:
        """Start the web server and wait until it answers."""
        self.start("serve")
        until(self._answers, "the web server")

    def _answers(self) -> bool:
        try:
            return httpx.get(f"{self.web_url}/sign-in").is_success
        except httpx.TransportError:
            return False

    def play(self, scenario: str) -> None:
        """Let the world be otherwise from now on."""
        answer = httpx.post(f"{self.inbox_url}/world", data={"scenario": scenario})
        assert answer.status_code == 303

    def account(self) -> dict[str, Any]:
        """The world's own account of what it took and said."""
        told: dict[str, Any] = httpx.get(f"{self.inbox_url}/account.json").json()
        return told

    def taken(self) -> list[tuple[float, str, str]]:
        """(when, for whom, Message-ID) of everything that the relay took, in seconds since 1970, in order."""
        rows = httpx.get(f"{self.inbox_url}/taken.json", timeout=60).json()
        return [(at, recipient, message_id) for at, recipient, message_id in rows]

    def captured(self) -> list[str]:
        """The recipients of everything that the relay took, in order."""
        url = f"{self.inbox_url}/messages.json?limit=20000"
        return [one["recipient"] for one in httpx.get(url).json()][::-1]


@contextmanager
def installation(database_url: str, directory: Path, **environment: str) -> Iterator[Installation]:
    """An installation whose processes are gone afterwards."""
    made = Installation(database_url, directory)
    made.environment.update(environment)
    try:
        yield made
    finally:
        for process in made.running:
            if process.poll() is None:
                process.send_signal(signal.SIGKILL)
            process.wait()
