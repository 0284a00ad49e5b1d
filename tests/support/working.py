"""A worker in this process, against relays that follow scripts."""

import asyncio
import random
from collections.abc import Callable, Sequence
from contextlib import AsyncExitStack

from pydantic import SecretStr

from tests.support.museum import SECRET, Museum
from tests.support.relays import Script, relay
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.queue import DeliveryQueue
from uvarovite.core.accounts import SYSTEM
from uvarovite.net.smtp import RelayLine
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.settings import Settings
from uvarovite.store.database import change_sql
from uvarovite.store.delivery.waking import Waker
from uvarovite.workers.delivery import DeliveryWorker


async def _work_until(
    museum: Museum,
    scripts: Sequence[Script],
    run_id: int,
    done: Callable[[DispatchView], bool],
    queue_of: Callable[[DeliveryQueue], DeliveryQueue],
) -> None:
    async with AsyncExitStack() as stack:
        ports = [await stack.enter_async_context(relay(script)) for script in scripts]
        with museum.database.transaction() as tx:
            for number, port in enumerate(ports):
                change_sql(
                    tx, "UPDATE relay SET port = :port WHERE id = :id", {"port": port, "id": museum.relay_id + number}
                )
        settings = Settings(database_url=SecretStr(museum.database.url), secret_key=SecretStr(SECRET.decode()))
        waker = Waker(settings.database())
        queue = queue_of(DeliveryQueue(settings, museum.database))
        worker = DeliveryWorker(queue, RelayLine, waker.wait, random.Random(1), most_in_hand=8)
        listening = asyncio.create_task(waker.listen())
        working = asyncio.create_task(worker.run())
        try:
            while not done(await asyncio.to_thread(dispatch_view, museum.database, SYSTEM, run_id, system_clock())):
                assert not working.done(), working.exception()
                await asyncio.sleep(0.02)
        finally:
            worker.stop.set()
            await asyncio.wait_for(working, 30)
            listening.cancel()


def work(
    museum: Museum,
    scripts: Script | Sequence[Script],
    run_id: int,
    done: Callable[[DispatchView], bool],
    queue_of: Callable[[DeliveryQueue], DeliveryQueue] = lambda queue: queue,
) -> DispatchView:
    """Run a worker until something is so; the museum's relays, as many as there are scripts, follow them."""
    told = [scripts] if isinstance(scripts, Script) else scripts
    asyncio.run(asyncio.wait_for(_work_until(museum, told, run_id, done, queue_of), 60))
    return dispatch_view(museum.database, SYSTEM, run_id, system_clock())


def ended(view: DispatchView) -> bool:
    """Is the run over?"""
    return view.state == "ended"
