"""Where measurements send to: Debian's `smtp-sink`, and how to reach it."""

import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from socket import create_connection, socket


@dataclass(frozen=True)
class Access:
    """How to reach a sink on this machine."""

    port: int
    host: str = "127.0.0.1"
    security: str = "none"
    username: str | None = None
    password: str | None = None
    timeout_seconds: int = 60
    hello_name: str | None = None
    authority: str | None = None


@contextmanager
def smtp_sink() -> Iterator[int]:
    """A sink in a process of its own; its port. Raises FileNotFoundError without Debian's package postfix."""
    sink = shutil.which("smtp-sink") or "/usr/sbin/smtp-sink"
    port = _free_port()
    with _serving([sink, "-u", "nobody", f"127.0.0.1:{port}", "400"], port):
        yield port


@contextmanager
def late_sink(seconds: float) -> Iterator[int]:
    """One that answers so much later; its port."""
    port = _free_port()
    with _serving([sys.executable, "-m", "bench.late_sink", str(port), str(seconds)], port):
        yield port


def _free_port() -> int:
    with socket() as free:
        free.bind(("127.0.0.1", 0))
        port: int = free.getsockname()[1]
    return port


@contextmanager
def _serving(command: list[str], port: int) -> Iterator[None]:
    with subprocess.Popen(command) as process:
        try:
            for _ in range(100):
                try:
                    create_connection(("127.0.0.1", port)).close()
                    break
                except ConnectionRefusedError:
                    time.sleep(0.05)
            yield
        finally:
            process.terminate()
