"""Who plays the rehearsals that are asked for: a process for each, beside a worker and behind it in the machine's queue."""

import asyncio
import sys

from uvarovite.services.rehearsals.asking import drop_left
from uvarovite.services.rehearsals.playing import next_rehearsal
from uvarovite.store.database import Database


class Rehearser:
    """One rehearsal at a time is played for a worker; `stop` ends it."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._playing: asyncio.subprocess.Process | None = None

    async def look(self) -> int:
        """Begin one that was asked for, if none is being played; how many. What is left of others is dropped."""
        if self._playing is not None and self._playing.returncode is None:
            return 0
        await asyncio.to_thread(drop_left, self._database)
        asked = await asyncio.to_thread(next_rehearsal, self._database)
        if asked is None:
            return 0
        command = (sys.executable, "-m", "uvarovite.cli.main", "play-rehearsal", str(asked))
        self._playing = await asyncio.create_subprocess_exec(*command)
        return 1

    async def stop(self) -> None:
        """End the one that is being played; it says so itself."""
        if self._playing is not None and self._playing.returncode is None:
            self._playing.terminate()
            await self._playing.wait()
