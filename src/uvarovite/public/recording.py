"""What is fetched is answered first and written down in batches; where links lead is looked up in batches, too.

Whatever comes while the database is at one batch waits for the next: the more comes, the larger the batches are, and no
visitor waits for another's. At a clean stop everything is written. A process that is killed loses what came in while its last
batch was being written, and the tenth of a second before.
"""

import asyncio
from collections import deque
from collections.abc import Callable, Sequence
from datetime import datetime, timedelta
from typing import Any

import structlog
from prometheus_client import Counter

from uvarovite.public.door import PublicDoor
from uvarovite.services.responses.tracking import AskedLink, Seen, link_targets, record_seen

log = structlog.get_logger()

_BETWEEN_SECONDS = 0.1
_AGAIN_SECONDS = 1.0
# The largest batches; what waits at most, some 30 MB; how long a stop waits for a database that does not answer.
_LARGEST_BATCH, MOST_WAITING, _PATIENCE_SECONDS = 2_000, 100_000, 20.0
_LOST = Counter("uvarovite_responses_lost_total", "Opens and clicks that were not noted since too many were waiting")


class Recorder:
    """`note` keeps a fetch in mind; it is written a moment later."""

    def __init__(self, door: PublicDoor) -> None:
        self._door = door
        self._waiting: deque[Seen] = deque()
        self._writing: asyncio.Task[None] | None = None
        self._lost = 0

    def note(self, seen: Seen) -> None:
        """Note a fetch. What is too much to be kept in mind is counted as lost."""
        if len(self._waiting) >= MOST_WAITING:
            _LOST.inc()
            self._lost += 1
            return
        self._waiting.append(seen)
        if self._writing is None:
            self._writing = asyncio.get_running_loop().create_task(self._write())

    async def settled(self) -> None:
        """Wait until everything is written that was noted so far."""
        while self._writing is not None:
            await asyncio.shield(self._writing)

    async def close(self) -> None:
        """Write what waits; given up when the database does not take it for long."""
        try:
            await asyncio.wait_for(self.settled(), _PATIENCE_SECONDS)
        except TimeoutError:
            log.error("opens and clicks were not written", waiting=len(self._waiting))

    async def _write(self) -> None:
        try:
            while self._waiting:
                await asyncio.sleep(_BETWEEN_SECONDS)
                batch = [self._waiting.popleft() for _ in range(min(_LARGEST_BATCH, len(self._waiting)))]
                if not await self._write_batch(batch):
                    self._waiting.extendleft(reversed(batch))
                    await asyncio.sleep(_AGAIN_SECONDS)
                if self._lost:
                    log.warning("opens and clicks were lost: too many were waiting", lost=self._lost)
                    self._lost = 0
        finally:
            self._writing = None

    async def _write_batch(self, batch: Sequence[Seen]) -> bool:
        try:
            await self._door.work.run(record_seen, self._door.database, batch)
        except self._door.late:
            return False
        except Exception:
            # One that cannot be written must not keep all others back.
            log.exception("opens and clicks could not be written", lost=len(batch))
        return True


class Targets:
    """Where links lead: whoever asks while others are being looked up is looked up with the next."""

    def __init__(self, door: PublicDoor) -> None:
        self._door = door
        self._asked: dict[AskedLink, asyncio.Future[str | None]] = {}
        self._looking = False

    async def of(self, link: AskedLink) -> str | None:
        """Where a link leads, None for one that leads nowhere. Raises TooBusyError, and what a database raises."""
        found = self._asked.get(link)
        if found is None:
            found = self._asked[link] = asyncio.get_running_loop().create_future()
            if not self._looking:
                self._looking = True
                asyncio.get_running_loop().call_soon(lambda: asyncio.ensure_future(self._look()))
        return await asyncio.shield(found)

    async def _look(self) -> None:
        try:
            while self._asked:
                asked, self._asked = self._asked, {}
                try:
                    keys = list(asked)
                    told = await self._door.work.run(
                        link_targets, self._door.database, keys, keyring=self._door.keyring
                    )
                    for future, target in zip(asked.values(), told, strict=True):
                        future.set_result(target)
                except Exception as fault:
                    for future in asked.values():
                        future.set_exception(fault)
                        # Whoever asked may have gone; it is told nobody then.
                        future.exception()
        finally:
            self._looking = False


class VisitLimits:
    """How often something came within a window: counted in this process alone, and forgotten with the window."""

    # More than this many at once are not told apart: a flood from everywhere is bounded by the memory of nobody.
    _MOST = 500_000

    def __init__(self, window: timedelta, clock: Callable[[], datetime]) -> None:
        self._window = window
        self._clock = clock
        self._until = clock()
        self._counted: dict[Any, int] = {}

    def count(self, key: Any) -> int:
        """How often it came within this window, with this time."""
        now = self._clock()
        if now >= self._until or now < self._until - self._window:
            self._counted.clear()
            self._until = now + self._window
        if key not in self._counted and len(self._counted) >= self._MOST:
            return 1
        self._counted[key] = self._counted.get(key, 0) + 1
        return self._counted[key]
