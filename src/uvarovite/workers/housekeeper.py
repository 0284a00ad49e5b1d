"""What has to be done now and then: pull live sources, ask name servers, let go of what was deleted long ago.

Any number of housekeepers may run; each chore makes sure by itself that nobody does the same thing at once, or that
doing it twice does no harm.
"""

import asyncio
from collections.abc import Awaitable, Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

import structlog
from prometheus_client import Counter

log = structlog.get_logger()

_CHORES = Counter("uvarovite_chores_total", "Chores that were done", ["chore", "ended"])


@dataclass(frozen=True, slots=True, kw_only=True)
class Chore:
    """`do` gives how much it did: while that is something it is asked again at once, else after `rest_seconds`."""

    name: str
    rest_seconds: float
    do: Callable[[], Awaitable[int]]


class Housekeeper:
    """`run` works until `stop` is set; a chore that fails is tried again after its rest."""

    def __init__(self, chores: Sequence[Chore]) -> None:
        self._chores = chores
        self.stop = asyncio.Event()

    async def run(self) -> None:
        """Do each chore in its own rhythm."""
        async with asyncio.TaskGroup() as tasks:
            for chore in self._chores:
                tasks.create_task(self._keep_doing(chore))

    async def _keep_doing(self, chore: Chore) -> None:
        while not self.stop.is_set():
            done = 0
            try:
                done = await chore.do()
                _CHORES.labels(chore.name, "done").inc()
            except Exception:
                # One chore's trouble is not the others', nor the relay's in the same process.
                log.exception("a chore failed", chore=chore.name)
                _CHORES.labels(chore.name, "failed").inc()
            if not done:
                with suppress(TimeoutError):
                    await asyncio.wait_for(self.stop.wait(), timeout=chore.rest_seconds)
