"""What has just changed, told to whoever looks: by NOTIFY, so that nobody has to ask again and again."""

import asyncio
from collections.abc import Iterable
from contextlib import suppress

import psycopg

from uvarovite.store.database import Transaction, run_sql

LIVE_CHANNEL = "uvarovite_live"
# A notice of PostgreSQL holds 8,000 bytes: of more runs at once it is told that there are some.
_MOST_RUNS = 200


def tell_responses(tx: Transaction, runs: Iterable[int]) -> None:
    """Tell, once this transaction commits, that something came back of these runs; of none in particular where there are none."""
    told = sorted(set(runs))[:_MOST_RUNS]
    run_sql(tx, f"SELECT pg_notify('{LIVE_CHANNEL}', :runs)", {"runs": " ".join(map(str, told))})


class LiveChanges:
    """Listens while anybody looks. `changed` gives the runs that something came back of since one asked last."""

    def __init__(self, url: str) -> None:
        self._url = url
        self._looking: set[_Looking] = set()
        self._listening: asyncio.Task[None] | None = None
        self.closed = asyncio.Event()

    @property
    def looking(self) -> int:
        """How many look."""
        return len(self._looking)

    def look(self) -> "_Looking":
        """Begin to look."""
        one = _Looking(self)
        self._looking.add(one)
        if self._listening is None:
            self._listening = asyncio.get_running_loop().create_task(self._listen())
        return one

    def leave(self, one: "_Looking") -> None:
        """Look no more."""
        self._looking.discard(one)
        if not self._looking and self._listening is not None:
            self._listening.cancel()
            self._listening = None

    def close(self) -> None:
        """Let everybody go who looks; nobody is told anything more."""
        self.closed.set()
        for one in self._looking:
            one.event.set()

    async def _listen(self) -> None:
        while True:
            with suppress(psycopg.OperationalError):
                async with await psycopg.AsyncConnection.connect(self._url, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {LIVE_CHANNEL}")
                    # What came while nobody listened is not known: everything may have changed.
                    self._tell([])
                    async for notice in connection.notifies():
                        self._tell([int(one) for one in notice.payload.split()])
            await asyncio.sleep(1)

    def _tell(self, runs: list[int]) -> None:
        for one in self._looking:
            one.runs.update(runs)
            one.event.set()


class _Looking:
    """Somebody who looks."""

    def __init__(self, changes: LiveChanges) -> None:
        self._changes = changes
        self.runs: set[int] = set()
        self.event = asyncio.Event()

    async def changed(self, seconds: float) -> list[int] | None:
        """The runs that something came back of; None where nothing did for so long."""
        with suppress(TimeoutError):
            await asyncio.wait_for(self.event.wait(), seconds)
        if not self.event.is_set():
            return None
        self.event.clear()
        runs, self.runs = sorted(self.runs), set()
        return runs

    def leave(self) -> None:
        """Look no more."""
        self._changes.leave(self)
