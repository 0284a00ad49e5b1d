"""Running one of our modules in a process of its own, with limits on memory, time and output.

The child gets what it needs on its input: no environment but a locale, no home, no working directory of ours, so that no
variable and no password file of this process can decide what it does. Whatever it does to itself, it ends in time.
"""

import json
import resource
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import IO, Any


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """`memory_bytes` are of address space, `cpu_seconds` of work, `patience_seconds` of the clock on the wall."""

    memory_bytes: int
    cpu_seconds: int
    output_bytes: int
    patience_seconds: float
    files: int = 32

    def apply(self) -> None:
        """Take them upon this process, for good."""
        for kind, most in (
            (resource.RLIMIT_CORE, 0),
            (resource.RLIMIT_AS, self.memory_bytes),
            (resource.RLIMIT_FSIZE, self.output_bytes),
            (resource.RLIMIT_NOFILE, self.files),
        ):
            resource.setrlimit(kind, (most, most))
        # At the lower one the system sends SIGXCPU, which says what it was; at the upper one it only kills.
        resource.setrlimit(resource.RLIMIT_CPU, (self.cpu_seconds, self.cpu_seconds + 1))


def ask_child(module: str, given: Iterable[bytes], limits: Limits) -> tuple[dict[str, Any], bytes] | None:
    """What a module answers: a line of JSON, and the bytes behind it. None where it broke off or took too much."""
    with tempfile.TemporaryFile() as told, tempfile.TemporaryFile() as out:
        told.writelines(given)
        told.seek(0)
        ended = run_child(module, told, out, limits)
        out.seek(0)
        first, rest = out.readline(), out.read()
    return (json.loads(first), rest) if ended == 0 and first else None


def limits_of_child() -> Limits:
    """What `start_child` told this process."""
    memory, cpu, output, files = map(int, sys.argv[1:5])
    return Limits(memory_bytes=memory, cpu_seconds=cpu, output_bytes=output, patience_seconds=0, files=files)


def start_child(
    module: str,
    limits: Limits,
    *,
    stdin: IO[bytes] | int,
    stdout: IO[bytes] | int,
    stderr: int = subprocess.DEVNULL,
    apart: bool = False,
) -> subprocess.Popen[bytes]:
    """A module in a process of its own, which takes the limits but the one of patience upon itself.

    One that is `apart` hears nothing of a Ctrl C in the terminal: it ends when its input does.
    """
    told = [limits.memory_bytes, limits.cpu_seconds, limits.output_bytes, limits.files]
    return subprocess.Popen(
        [sys.executable, "-I", "-m", module, *map(str, told)],
        stdin=stdin,
        stdout=stdout,
        stderr=stderr,
        start_new_session=apart,
        cwd="/",
        env={"LC_ALL": "C.UTF-8", "HOME": "/nonexistent"},
    )


def run_child(
    module: str, given: IO[bytes], out: IO[bytes], limits: Limits, *, hears: Callable[[bytes], None] | None = None
) -> int | None:
    """Run a module with files as its input and output; its exit code, None when it took too long.

    `hears` gets each line that it writes on its standard error, while it runs; without it they are dropped.
    """
    child = start_child(
        module, limits, stdin=given, stdout=out, stderr=subprocess.PIPE if hears else subprocess.DEVNULL
    )
    late = threading.Event()

    def stop() -> None:
        late.set()
        child.kill()

    clock = threading.Timer(limits.patience_seconds, stop)
    clock.start()
    try:
        if hears and child.stderr:
            for line in child.stderr:
                hears(line)
        child.wait()
    finally:
        clock.cancel()
        child.kill()
        child.wait()
        if child.stderr:
            child.stderr.close()
    return None if late.is_set() else child.returncode
