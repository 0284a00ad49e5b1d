"""Where measurements send to: Debian's `smtp-sink`, and how to reach it."""

import shutil
import subprocess
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
    with socket() as free:
        free.bind(("127.0.0.1", 0))
        port: int = free.getsockname()[1]
    with subprocess.Popen([sink, "-u", "nobody", f"127.0.0.1:{port}", "400"]) as process:
        try:
            for _ in range(100):
                try:
                    create_connection(("127.0.0.1", port)).close()
                    break
                except ConnectionRefusedError:
                    time.sleep(0.05)
            yield port
        finally:
            process.terminate()
