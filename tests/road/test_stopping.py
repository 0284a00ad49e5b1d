"""A worker that is told to stop: it finishes what it has in hand, and nobody is left half sent."""

import signal
from pathlib import Path

from tests.support.museum import NOW, make_museum
from tests.support.processes import installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.store.database import Database

PEOPLE = 600


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
