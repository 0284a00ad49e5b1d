"""Processes killed in the middle of a run: nobody gets it twice, nobody is forgotten, the sums agree."""

import random
import signal
from collections import Counter
from pathlib import Path

from tests.support.museum import NOW, Museum, make_museum
from tests.support.processes import Installation, installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.sending import LEASE
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.store.database import Database, run_sql
from uvarovite.store.delivery import permits

PEOPLE = 600
# What a worker may have in hand where nothing else is set.
IN_HAND = 64


def people_file() -> str:
    """People at a provider that takes everything, and some at one that refuses and one that greylists."""
    domains = ["slatepost.example"] * 8 + ["fjordnet.example", "quartzmail.example"]
    rows = [
        f"P-{number:04d},person{number}@{domains[number % len(domains)]},Person,{number}"
        for number in range(1, PEOPLE + 1)
    ]
    return "\n".join(["Contact no.,E-mail address,First name,Last name", *rows]) + "\n"


def settled(view: DispatchView) -> int:
    return sum(count for state, count in view.states.items() if state not in ("waiting", "claimed", "sending"))


def crash_in_the_middle(museum: Museum, world: Installation, run_id: int) -> int:
    """Kill a worker with SIGKILL as soon as it has begun to send, then start the next; how many were killed."""
    rng = random.Random(8040)
    killed = 0
    for _ in range(3):
        before = settled(dispatch_view(museum.database, SYSTEM, run_id, system_clock()))
        worker = world.start("worker")
        wanted = before + rng.randint(20, 90)

        def enough(process=worker, goal: int = wanted) -> bool:  # type: ignore[no-untyped-def]
            assert process.poll() is None, "the worker ended by itself"
            return settled(dispatch_view(museum.database, SYSTEM, run_id, system_clock())) >= goal

        until(enough, "the worker to send some")
        worker.send_signal(signal.SIGKILL)
        worker.wait()
        killed += 1
        # What it held is free once its lease has run out; the test does not wait for that but says it has.
        sending.recover(museum.database, system_clock() + 2 * LEASE)
    return killed


def test_a_worker_killed_in_mid_run_leaves_nobody_twice_and_nobody_out(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        museum = make_museum(
            database, people=people_file(), smtp_port=world.ports["smtp"], batch_size=100, gap_seconds=0
        )
        with database.transaction() as tx:
            run_sql(tx, "UPDATE relay SET retry_delays_seconds = '{1, 1, 2, 2}'")
            permits.set_limits(tx, permits.relay_scope(museum.relay_id), {})
        world.start_rehearsal()
        run_id = museum.release(NOW)
        killed = crash_in_the_middle(museum, world, run_id)
        world.start("worker")
        world.start("worker")
        until(lambda: dispatch_view(database, SYSTEM, run_id, system_clock()).state == "ended", "the end of the run")

        view = dispatch_view(database, SYSTEM, run_id, system_clock())
        # Nobody forgotten: planned = accepted + refused + held + stopped + unknown.
        assert view.planned == PEOPLE == sum(view.states.values())
        assert set(view.states) <= {"accepted", "refused", "unknown"}
        # Unknown is small: no more than what a worker has in hand, for each that was killed.
        assert view.states.get("unknown", 0) <= killed * IN_HAND

        # Nobody twice, by the relay's own count.
        received = Counter(world.captured())
        assert received.most_common(1)[0][1] == 1
        with database.transaction() as tx:
            rows = run_sql(tx, "SELECT address, state FROM delivery WHERE run_id = :run", {"run": run_id})
        states = {row.address: row.state for row in rows}
        # Accepted is the relay's word, and what it has without our knowing is among the unknown.
        assert {address for address, state in states.items() if state == "accepted"} <= set(received)
        assert {states[address] for address in received} <= {"accepted", "unknown"}
        with database.transaction() as tx:
            replies = run_sql(
                tx,
                """SELECT count(*) AS n FROM delivery WHERE state = 'accepted' AND NOT EXISTS (SELECT 1 FROM attempt
                    WHERE delivery_id = delivery.id AND code = 250 AND text LIKE '2.0.0 Ok: queued as %')""",
            )
        assert replies[0].n == 0
        # Every permit is closed: the dead hold back no limit.
        with database.transaction() as tx:
            assert run_sql(tx, "SELECT count(*) FROM send_open")[0][0] == 0


def test_a_worker_that_is_told_to_stop_finishes_what_it_has_in_hand(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        museum = make_museum(database, people=people_file(), smtp_port=world.ports["smtp"], batch_size=600)
        world.start_rehearsal()
        run_id = museum.release(NOW)
        worker = world.start("worker")
        until(lambda: settled(dispatch_view(database, SYSTEM, run_id, system_clock())) > 0, "the first group")
        worker.send_signal(signal.SIGTERM)
        assert worker.wait(timeout=60) == 0
        view = dispatch_view(database, SYSTEM, run_id, system_clock())
        assert view.states.get("sending", 0) == view.states.get("claimed", 0) == view.states.get("unknown", 0) == 0
        assert sum(view.states.values()) == PEOPLE
        assert len(set(world.captured())) == len(world.captured()) == view.states.get("accepted", 0)
