"""One letter at a time as a PDF, by processes that stay: beginning one takes longer than ten letters do.

Each has limits on memory and time, reaches no network and no file, and ends after some hundreds of letters, or a while
without one.
"""

import atexit
import base64
import subprocess
import threading
from collections.abc import Mapping
from contextlib import suppress
from functools import lru_cache

import orjson

from uvarovite.sandbox.paper import PaperFault, PaperPicture
from uvarovite.sandbox.process import Limits, start_child

# A letter that comes to more is refused: many mailboxes take no more than 10 MB.
LARGEST_PDF = 5 << 20
LIMITS = Limits(memory_bytes=2 * 1024**3, cpu_seconds=600, output_bytes=64 << 20, patience_seconds=30, files=128)
# After so many letters a process gives way to another, whatever it has held on to.
_MOST_BY_ONE = 300
_MOST_PROCESSES = 2
_IDLE_SECONDS = 60.0


class Press:
    """Lays letters out; threads share it, and wait for each other where all its processes are at work."""

    def __init__(self, processes: int = _MOST_PROCESSES, idle_seconds: float = _IDLE_SECONDS) -> None:
        self._free = threading.Semaphore(processes)
        self._lock = threading.Lock()
        self._resting: list[_Process] = []
        self._idle_seconds = idle_seconds
        self._clock: threading.Timer | None = None

    def pdf(self, letter: str, style: str, pictures: Mapping[str, PaperPicture]) -> bytes:
        """A letter (a whole HTML document) as a PDF, the same for the same; no picture but `pictures` is shown, by address.

        Raises PaperFault.
        """
        told = {one: [picture.kind, base64.b64encode(picture.content).decode()] for one, picture in pictures.items()}
        asked = orjson.dumps({"letter": letter, "style": style, "pictures": told}) + b"\n"
        with self._free:
            process = self._take()
            try:
                answer = process.ask(asked)
                if answer is None and process.answered:
                    # Its time may have gone into the letters before.
                    process.end()
                    process = _Process()
                    answer = process.ask(asked)
            except BaseException:
                process.end()
                raise
            if answer is None or process.answered >= _MOST_BY_ONE:
                process.end()
            else:
                self._rest(process)
        if not answer:
            raise PaperFault
        return answer

    def close(self) -> None:
        """End the processes that are not at work."""
        with self._lock:
            resting, self._resting = self._resting, []
            if self._clock:
                self._clock.cancel()
        for process in resting:
            process.end()

    def _take(self) -> "_Process":
        with self._lock:
            if self._resting:
                return self._resting.pop()
        return _Process()

    def _rest(self, process: "_Process") -> None:
        with self._lock:
            self._resting.append(process)
            if self._clock:
                self._clock.cancel()
            self._clock = threading.Timer(self._idle_seconds, self.close)
            self._clock.daemon = True
            self._clock.start()


class _Process:
    """`answered` counts the letters that it made."""

    def __init__(self) -> None:
        self._child = start_child(
            "uvarovite.sandbox.press_child", LIMITS, stdin=subprocess.PIPE, stdout=subprocess.PIPE, apart=True
        )
        self.answered = 0

    def ask(self, letter: bytes) -> bytes | None:
        """The PDF; none of it for one that is too large; None where the process came to its end over it."""
        given, out = self._child.stdin, self._child.stdout
        assert given is not None
        assert out is not None
        clock = threading.Timer(LIMITS.patience_seconds, self._child.kill)
        clock.start()
        try:
            given.write(letter)
            given.flush()
            size = int(out.readline())
            answer = out.read(size)
        except (OSError, ValueError):
            return None
        finally:
            clock.cancel()
        self.answered += 1
        return answer if len(answer) == size else None

    def end(self) -> None:
        """End it, whatever it is doing."""
        self._child.kill()
        self._child.wait()
        for pipe in (self._child.stdin, self._child.stdout):
            # What was written for a process that is gone cannot be flushed any more.
            with suppress(OSError):
                pipe and pipe.close()


@lru_cache(maxsize=1)
def the_press() -> Press:
    """The press that all of this process share."""
    press = Press()
    atexit.register(press.close)
    return press
