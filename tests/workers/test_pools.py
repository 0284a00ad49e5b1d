"""Fail-over with real lines: a relay that dies in mid-run leaves nobody behind, and nobody gets anything twice."""

import asyncio
import random
from collections import Counter
from contextlib import AsyncExitStack
from dataclasses import dataclass

import pytest
from pydantic import SecretStr

from tests.support.museum import SECRET, Museum, make_museum
from tests.support.relays import Script, relay
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.worker import DeliveryQueue
from uvarovite.core.accounts import SYSTEM
from uvarovite.net.smtp import RelayLine
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.settings import Settings
from uvarovite.store.database import Database, change_sql, run_sql
from uvarovite.store.delivery.waking import Waker
from uvarovite.workers.delivery import DeliveryWorker

PEOPLE = 60


@dataclass
class Dying(Script):
    """Takes so many messages; then it drops every line, and greets nobody any more."""

    takes: int = 10

    async def greet(self, number: int) -> str:
        return "421 4.3.2 Going down" if len(self.messages) >= self.takes else self.greeting

    async def hears(self, line: bytes) -> bool:
        return len(self.messages) < self.takes or line == b"."


@pytest.fixture
def pooled(database: Database) -> Museum:
    """The museum with two relays and 60 people in batches of ten."""
    rows = "\n".join(f"P-{n},p{n}@slatepost.example" for n in range(PEOPLE))
    return make_museum(database, people=f"Contact no.,E-mail address\n{rows}\n", batch_size=10, relays=2)


async def deliver(museum: Museum, run_id: int, *scripts: Script) -> DispatchView:
    """A worker sends through a relay for each script until the run has ended."""
    async with AsyncExitStack() as stack:
        ports = [await stack.enter_async_context(relay(script)) for script in scripts]
        with museum.database.transaction() as tx:
            for place, port in enumerate(ports, start=1):
                change_sql(tx, "UPDATE relay SET port = :port WHERE id = :id", {"port": port, "id": place})
        settings = Settings(database_url=SecretStr(museum.database.url), secret_key=SecretStr(SECRET.decode()))
        queue = DeliveryQueue(settings, museum.database)
        waker = Waker(settings.database())
        worker = DeliveryWorker(queue, RelayLine, waker.wait, random.Random(1), most_in_hand=16)
        working = asyncio.create_task(worker.run())
        try:
            while True:
                view = await asyncio.to_thread(dispatch_view, museum.database, SYSTEM, run_id, system_clock())
                assert not working.done(), working.exception()
                if view.state == "ended":
                    return view
                await asyncio.sleep(0.02)
        finally:
            worker.stop.set()
            await asyncio.wait_for(working, 30)


def receivers(*scripts: Script) -> Counter[bytes]:
    return Counter(
        line for script in scripts for raw in script.messages for line in raw.splitlines() if line.startswith(b"To:")
    )


def test_a_reserve_takes_over_in_mid_run_and_the_trouble_takes_nobodys_attempt(pooled: Museum) -> None:
    main, reserve = Dying(), Script()
    run_id = pooled.release()
    view = asyncio.run(asyncio.wait_for(deliver(pooled, run_id, main, reserve), 60))
    assert view.states == {"accepted": PEOPLE}
    assert set(receivers(main, reserve).values()) == {1}
    assert len(main.messages) == main.takes
    assert view.trouble is None
    assert view.pool.relays[0].trouble is not None
    with pooled.database.transaction() as tx:
        told = run_sql(tx, "SELECT relay_id, count(*) AS n, max(number) AS last FROM attempt GROUP BY 1 ORDER BY 1")
        assert [(row.relay_id, row.n, row.last) for row in told] == [(1, 10, 1), (2, PEOPLE - 10, 1)]


def test_relays_at_one_place_share_a_run(pooled: Museum) -> None:
    with pooled.database.transaction() as tx:
        change_sql(tx, "UPDATE relay SET place = 1")
        change_sql(tx, "DELETE FROM send_limit")
    first, second = Script(), Script()
    view = asyncio.run(asyncio.wait_for(deliver(pooled, pooled.release(), first, second), 60))
    assert view.states == {"accepted": PEOPLE}
    assert set(receivers(first, second).values()) == {1}
    assert min(len(first.messages), len(second.messages)) >= 10
