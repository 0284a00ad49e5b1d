"""Waiting for a NOTIFY, for workers that would otherwise only look now and then."""

import asyncio
from contextlib import suppress

import psycopg

from uvarovite.store.delivery.queue import WAKE_CHANNEL


class Waker:
    """Sets `event` whenever there may be work; loses nothing when its connection breaks, since workers poll too."""

    def __init__(self, url: str) -> None:
        self._url = url
        self.event = asyncio.Event()

    async def listen(self) -> None:
        """Listen until cancelled; connects again after a break."""
        while True:
            with suppress(psycopg.OperationalError):
                async with await psycopg.AsyncConnection.connect(self._url, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {WAKE_CHANNEL}")
                    async for _ in connection.notifies():
                        self.event.set()
            await asyncio.sleep(1)

    async def wait(self, seconds: float) -> None:
        """Wait for a notice, or at most `seconds`."""
        with suppress(TimeoutError):
            await asyncio.wait_for(self.event.wait(), seconds)
        self.event.clear()
