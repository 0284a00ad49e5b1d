"""A run that everything happens to: workers killed at every step, frozen, PostgreSQL killed, people leaving, a bad week.

Held against the simulated world's own account: nobody has it twice, nobody is missing, the sums agree. `make endurance` does
it with as many people and as many kills as a night allows.
"""

import os
import random
import signal
from collections import Counter
from functools import partial
from pathlib import Path

import pytest
from pydantic import SecretStr

from tests.support.dying import Fault, run_dying_worker
from tests.support.nights import FEW_IN_HAND, IN_HAND, IS_LONG, MAY_BE_TAKEN, PATIENCE, PEOPLE, Night, begun
from tests.support.processes import installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.queue import open_queue
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import MINUTE_SECONDS
from uvarovite.services.consent.suppressions import suppress_by_text
from uvarovite.settings import Settings
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, DatabaseLost, change_sql, run_sql

KILLS, LEAVERS = (50, 500) if IS_LONG else (len(Fault), 40)


def dies(night: Night, fault: Fault, passes: int, goal: int) -> None:
    """A worker dies at a fault; or, where it does not come to that, as soon as so many are settled."""
    worker = night.world.start_call(f"dying-{fault}", run_dying_worker, fault.value, passes)

    def over() -> bool:
        return worker.poll() is not None or night.settled() >= goal or night.view().state == "ended"

    until(over, f"the death at “{fault}”", PATIENCE)
    if worker.poll() is None:
        worker.send_signal(signal.SIGKILL)
    assert worker.wait() == -signal.SIGKILL
    night.forget_the_dead()


def test_workers_die_at_every_step_of_the_road_in_a_bad_week(database: Database, tmp_path: Path) -> None:
    rng = random.Random(8040)
    with installation(database.url, tmp_path, **FEW_IN_HAND) as world:
        night = begun(database, world, scenario="bad-week")
        for number in range(KILLS):
            fault = list(Fault)[number % len(Fault)]
            many = fault in (Fault.HANDED_OVER, Fault.ANSWERED)
            dies(night, fault, rng.randint(1, 50 if many else 3), night.settled() + PEOPLE // KILLS)
        night.until_over()
        dropped = world.account()["dropped"]
        lost = sum(dropped.get(stage, 0) for stage in MAY_BE_TAKEN)
        states = night.hold_against_the_world(KILLS * IN_HAND + lost)
        assert dropped
        assert states["accepted"] > PEOPLE // 4, states


def test_a_frozen_worker_wakes_to_find_its_batch_another_s(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path, **FEW_IN_HAND) as world:
        night = begun(database, world)
        frozen = world.start("worker")
        until(lambda: night.settled() > PEOPLE // 20, "the first to be sent")
        frozen.send_signal(signal.SIGSTOP)
        night.forget_the_dead()
        world.start("worker")
        until(lambda: night.settled() >= PEOPLE - IN_HAND, "the other to send the rest", PATIENCE)
        frozen.send_signal(signal.SIGCONT)
        night.until_over(workers=0)
        # It goes on with whatever else is due, and is not confused: it stops when it is told to.
        frozen.send_signal(signal.SIGTERM)
        assert frozen.wait(timeout=60) == 0
        night.hold_against_the_world(IN_HAND)


def step_that_hangs(database: Database, night: Night) -> None:
    with database.transaction() as tx:
        # What any step of any worker waits for.
        change_sql(tx, "LOCK TABLE send_open, send_count IN EXCLUSIVE MODE")
        until(lambda: night.view().state == "ended", "the end of the run", PATIENCE)
        run_sql(tx, "SELECT 1")


def test_a_worker_that_hangs_in_the_middle_of_a_step_holds_nobody_up(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        night = begun(database, world)
        world.start("worker")
        until(lambda: night.settled() > PEOPLE // 20, "the first to be sent")
        hanging = open_queue(Settings(database_url=SecretStr(database.url)))
        with pytest.raises(DatabaseLost, match="terminat"):
            step_that_hangs(hanging, night)
        hanging.close()
        night.hold_against_the_world(0)


def test_people_who_leave_in_mid_run_get_nothing_that_was_not_marked_before(database: Database, tmp_path: Path) -> None:
    rng = random.Random(8040)
    with installation(database.url, tmp_path) as world:
        night = begun(database, world, connections=1)
        workers = [world.start("worker"), world.start("worker")]
        shut_out, states_then = set(), Counter[str]()
        for number in rng.sample(range(PEOPLE), LEAVERS):
            who = f"person{number}@slatepost.example"
            suppress_by_text(database, SYSTEM, who, reason="left by telephone", now=system_clock())
            with database.transaction() as tx:
                state = run_sql(tx, "SELECT state FROM delivery WHERE address = :who", {"who": who})[0][0]
            states_then[state] += 1
            # It is committed: whoever was not marked before gets nothing any more.
            if state in ("waiting", "claimed", "deferred", "held"):
                shut_out.add(who)
        until(lambda: night.view().state == "ended", "the end of the run", PATIENCE)
        assert all(worker.poll() is None for worker in workers)
        assert shut_out, states_then
        assert shut_out.isdisjoint(who for _, who, _ in world.taken())
        assert night.hold_against_the_world(0)["held"] >= len(shut_out)


def killed_with_all_its_children(cluster: Cluster) -> None:
    """The database's postmaster is gone at once, and every connection with it."""
    pid = int((cluster.directory / "data" / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)
    until(lambda: not cluster.running(), "PostgreSQL to be gone")


def test_postgresql_is_killed_in_mid_run_and_workers_wait_and_go_on(own_cluster: Cluster, tmp_path: Path) -> None:
    database = Database(own_cluster.url(), connections=4)
    with installation(own_cluster.url(), tmp_path) as world:
        night = begun(database, world)
        workers = [world.start("worker"), world.start("worker")]
        for part in (1, 2, 3):
            until(partial(has_settled, night, part * PEOPLE // 5), "some to be sent", PATIENCE)
            killed_with_all_its_children(own_cluster)
            own_cluster.start()
        until(lambda: night.view().state == "ended", "the end of the run", PATIENCE)
        assert all(worker.poll() is None for worker in workers)
        # A worker outlives the database: it still knows what the relay said, and writes it.
        assert night.hold_against_the_world(0) == {"accepted": PEOPLE}
    database.close()


def has_settled(night: Night, wanted: int) -> bool:
    return night.settled() >= wanted


@pytest.mark.skipif(not IS_LONG, reason="takes minutes of the clock: make endurance")
def test_four_workers_keep_a_limit_in_every_sliding_minute_and_use_it(database: Database, tmp_path: Path) -> None:
    most = PEOPLE // 4
    with installation(database.url, tmp_path) as world:
        night = begun(database, world, limit=most)
        night.until_over(workers=4)
        night.hold_against_the_world(0)
        times = sorted(at for at, _, _ in world.taken())
        for first in range(len(times) - most):
            assert times[first + most] - times[first] > MINUTE_SECONDS, "more than the limit within a minute"
        # Each goes at the earliest a window after the one before it by so many; the first went as fast as they could.
        at_first = times[most - 1] - times[0]
        assert times[-1] - times[0] - at_first <= (PEOPLE / most - 1) * MINUTE_SECONDS / 0.97
