"""Opens and clicks in floods: nothing that was answered is lost, whoever is in the way, and nothing grows without end."""

import asyncio
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any

import pytest

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.sending import send_all
from uvarovite.public import recording
from uvarovite.public.door import PublicDoor
from uvarovite.public.recording import Recorder, Targets, VisitLimits
from uvarovite.services.bounded import BoundedWork
from uvarovite.services.responses.tracking import AskedLink, Seen
from uvarovite.store.database import change_sql, run_sql

BROWSER = "Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0"


class AwayError(Exception):
    """The database is not there."""


class Run:
    """A run that was accepted, and the door that its readers come through."""

    def __init__(self, museum: Museum) -> None:
        self.museum = museum
        self.id = museum.release(NOW)
        send_all(museum, self.id)
        with museum.database.transaction() as tx:
            self.deliveries = [row.id for row in run_sql(tx, "SELECT id FROM delivery ORDER BY id")]

    def door(self, work: BoundedWork | None = None) -> PublicDoor:
        return PublicDoor(
            database=self.museum.database,
            work=work or BoundedWork("public", threads=2, waiting=10),
            keyring=KEYRING,
            clock=lambda: NOW,
            recorded_at=lambda: NOW,
            lost=(AwayError,),
        )

    def seen(self, number: int, link: int | None = None) -> Seen:
        return Seen(self.deliveries[number % len(self.deliveries)], link, "GET", BROWSER, NOW + timedelta(hours=1))

    def kept(self) -> dict[str, int]:
        with self.museum.database.transaction() as tx:
            return {row.kind: row.n for row in run_sql(tx, "SELECT kind, count(*) AS n FROM response_event GROUP BY 1")}

    def counted(self) -> dict[str, int]:
        with self.museum.database.transaction() as tx:
            return {row.kind: row.n for row in run_sql(tx, "SELECT kind, sum(n) AS n FROM response_count GROUP BY 1")}


@pytest.fixture
def run(museum: Museum) -> Run:
    return Run(museum)


class Failing(BoundedWork):
    """Work that fails as often as it is told, before it does what it should."""

    def __init__(self, times: int, fault: Callable[[], Exception]) -> None:
        super().__init__("failing", threads=1, waiting=10)
        self.times, self._fault = times, fault

    async def run(self, work: Callable[..., Any], *arguments: Any, **named: Any) -> Any:
        if self.times:
            self.times -= 1
            raise self._fault()
        return await super().run(work, *arguments, **named)


def test_a_flood_is_written_in_batches_and_counted_once_for_each_person(run: Run) -> None:
    async def flood() -> None:
        recorder = Recorder(run.door())
        for number in range(5_000):
            recorder.note(run.seen(number, None if number % 2 else 0))
            # Somebody whom nobody knows keeps nobody back.
            if number % 100 == 0:
                recorder.note(Seen(10**9, None, "GET", BROWSER, NOW))
            if number % 1_000 == 0:
                await asyncio.sleep(0)
        await recorder.close()

    asyncio.run(flood())
    assert run.kept() == {"opened": 2_500, "clicked": 2_500}
    people = len(run.deliveries)
    assert run.counted() == {"opened": people, "clicked": people}


def test_a_database_that_is_gone_for_a_while_loses_nothing(run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recording, "_AGAIN_SECONDS", 0.0)

    async def flood() -> None:
        recorder = Recorder(run.door(Failing(3, lambda: AwayError())))
        for number in range(100):
            recorder.note(run.seen(number))
        await recorder.close()

    asyncio.run(flood())
    assert run.kept() == {"opened": 100}


def test_what_is_too_much_to_be_kept_in_mind_is_lost_and_a_stop_does_not_wait_for_ever(
    run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(recording, "MOST_WAITING", 50)
    monkeypatch.setattr(recording, "_AGAIN_SECONDS", 0.0)
    monkeypatch.setattr(recording, "_PATIENCE_SECONDS", 0.3)

    async def flood() -> None:
        away = Failing(10**9, lambda: AwayError())
        recorder = Recorder(run.door(away))
        for number in range(200):
            recorder.note(run.seen(number))
        await recorder.close()
        # It is back, and what was kept in mind is written.
        away.times = 0
        await recorder.settled()

    asyncio.run(flood())
    assert run.kept() == {"opened": 50}


def test_links_are_looked_up_together_each_for_its_own_person(run: Run) -> None:
    with run.museum.database.transaction() as tx:
        change_sql(tx, "DELETE FROM run_link WHERE number = 0")
        change_sql(
            tx,
            """INSERT INTO delivery_link SELECT id, 0, 'https://skarnmuseum.example/' || id FROM delivery
                ON CONFLICT (delivery_id, number) DO UPDATE SET address = excluded.address""",
        )
        change_sql(
            tx,
            "INSERT INTO run_link (run_id, number, block, address) VALUES (:run, 7, 'b', 'https://x.example/')",
            {"run": run.id},
        )

    async def ask() -> list[str | None]:
        targets = Targets(run.door())
        asked = [targets.of(AskedLink(one, 0)) for one in run.deliveries for _ in range(20)]
        return list(
            await asyncio.gather(*asked, targets.of(AskedLink(10**9, 0)), targets.of(AskedLink(run.deliveries[0], 99)))
        )

    told = asyncio.run(ask())
    theirs = [f"https://skarnmuseum.example/{one}" for one in run.deliveries for _ in range(20)]
    assert told == [*theirs, None, None]


def test_a_look_up_that_fails_is_told_to_those_who_asked_and_to_nobody_else(run: Run) -> None:
    async def ask() -> list[Any]:
        targets = Targets(run.door(Failing(1, lambda: AwayError())))
        first = await asyncio.gather(*(targets.of(AskedLink(one, 7)) for one in run.deliveries), return_exceptions=True)
        return [*first, await targets.of(AskedLink(10**9, 7))]

    told = asyncio.run(ask())
    assert all(isinstance(one, AwayError) for one in told[:-1])
    assert told[-1] is None


def test_visits_are_counted_within_a_window_and_forgotten_with_it(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [NOW]

    def clock() -> datetime:
        return now[0]

    limits = VisitLimits(timedelta(minutes=1), clock)
    assert [limits.count("a"), limits.count("a"), limits.count("b")] == [1, 2, 1]
    now[0] += timedelta(seconds=59)
    assert limits.count("a") == 3
    now[0] += timedelta(seconds=1)
    assert limits.count("a") == 1
    # A clock that is set back does not count for hours.
    now[0] -= timedelta(days=1)
    assert limits.count("a") == 1
    monkeypatch.setattr(VisitLimits, "_MOST", 2)
    assert [limits.count(one) for one in ("b", "c", "c", "a")] == [1, 1, 1, 2]
