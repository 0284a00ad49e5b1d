"""Work that has threads of its own, few of them, and a short queue: nothing else waits for it, and it takes no more memory
than its threads do.
"""

import asyncio
import functools
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

Result = TypeVar("Result")


class TooBusyError(Exception):
    """So many wait already that the answer would come too late. Trying again in a moment may help."""


class BoundedWork:
    """Runs at most `threads` pieces of work at once while at most `waiting` wait; for one event loop."""

    def __init__(self, name: str, *, threads: int, waiting: int) -> None:
        self._pool = ThreadPoolExecutor(max_workers=threads, thread_name_prefix=name)
        self._most = threads + waiting
        self._in_hand = 0

    async def run(self, work: Callable[..., Result], *arguments: Any, **named: Any) -> Result:
        """Do it, and give what it gives. Raises TooBusyError, and what it raises."""
        if self._in_hand >= self._most:
            raise TooBusyError
        self._in_hand += 1
        try:
            return await asyncio.get_running_loop().run_in_executor(
                self._pool, functools.partial(work, *arguments, **named)
            )
        finally:
            self._in_hand -= 1
