"""The housekeeper: every chore in its own rhythm, and one chore's trouble is no other's."""

import asyncio

from uvarovite.workers.housekeeper import Chore, Housekeeper


def test_a_chore_goes_on_while_there_is_work_and_another_ones_failure_stops_nothing() -> None:
    heap = [3, 2, 1]
    done: list[str] = []

    async def clear() -> int:
        done.append("clear")
        return heap.pop() if heap else 0

    async def fail() -> int:
        done.append("fail")
        raise RuntimeError("no such thing")

    async def run() -> None:
        keeper = Housekeeper(
            [
                Chore(name="clear", rest_seconds=3_600, do=clear),
                Chore(name="fail", rest_seconds=0.01, do=fail),
            ]
        )
        working = asyncio.create_task(keeper.run())
        while done.count("fail") < 3 or done.count("clear") < 4:
            await asyncio.sleep(0)
        keeper.stop.set()
        # Those who rest are woken by the end.
        await asyncio.wait_for(working, 30)

    asyncio.run(asyncio.wait_for(run(), 60))
    assert done.count("clear") == 4
