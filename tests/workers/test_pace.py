"""Pace and brake at work: what holds for batches that workers have in hand already."""

import asyncio
import json
from datetime import timedelta

from tests.support.museum import Museum, make_museum
from tests.support.relays import Script
from tests.support.working import ended, work
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import PACE_FORM, Brake, Pace
from uvarovite.services.delivery.dispatch import pause, slow_down
from uvarovite.services.delivery.watching import DispatchView
from uvarovite.store.database import Database, run_sql


def test_a_pause_leaves_in_hand_only_what_the_lines_have(database: Database) -> None:
    people = "Contact no.,E-mail address\n" + "".join(f"P-{n},p{n}@slatepost.example\n" for n in range(40))
    museum = make_museum(database, people=people, batch_size=40)
    with database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET connections = 1")
    run_id = museum.release()
    waits = asyncio.Event()

    class Slow(Script):
        """Answers for the first message when it is told to."""

        async def hears(self, line: bytes) -> bool:
            if len(self.messages) == 1 and line == b".":
                await waits.wait()
            return True

    script = Slow()

    def paused(view: DispatchView) -> bool:
        if view.state == "going" and len(script.messages) == 1:
            pause(database, SYSTEM, run_id, system_clock())
        # Of the eight that were marked, one is with the relay and two wait on its line; the others are given back.
        if view.state == "paused" and view.states.get("sending", 0) <= 3:
            waits.set()
        return view.state == "paused" and not view.states.keys() & {"sending", "claimed"}

    view = work(museum, script, run_id, paused)
    assert len(script.messages) == view.states["accepted"] <= 3
    assert view.states["accepted"] + view.states["waiting"] == 40


def test_nothing_goes_while_the_window_is_closed_and_all_of_it_when_it_opens(museum: Museum) -> None:
    def paced(**window: object) -> str:
        return json.dumps({**PACE_FORM.write(Pace(batch_size=5, gap_seconds=0)), "window": window or None})

    script = Script()
    run_id = museum.release(system_clock())
    # On no day but the one before yesterday's next week: closed now and for some days, whatever the zone.
    day = (system_clock().weekday() + 3) % 7
    with museum.database.transaction() as tx:
        pace = paced(days=[day], opens=0, closes=1_440)
        run_sql(tx, "UPDATE run SET pace = CAST(:pace AS jsonb) RETURNING id", {"pace": pace})

    def put_off(view: DispatchView) -> bool:
        return view.next_batch_at is not None and view.next_batch_at > system_clock() + timedelta(days=1)

    assert work(museum, script, run_id, put_off).states == {"waiting": 5}
    assert script.connections == 0
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE run SET pace = CAST(:pace AS jsonb), next_batch_at = now() RETURNING id", {"pace": paced()})
    assert work(museum, script, run_id, ended).states == {"accepted": 5}


def test_the_brake_stops_workers_with_no_more_than_they_had_in_hand(database: Database) -> None:
    people = "Contact no.,E-mail address\n" + "".join(f"P-{n},p{n}@slatepost.example\n" for n in range(60))
    museum = make_museum(database, people=people, batch_size=10)
    museum.change(pace=Pace(batch_size=10, gap_seconds=0, brake=Brake(last=50, bounce_percent=10)))
    script = Script(replies={"RCPT": "550 5.1.1 Nobody here"})
    run_id = museum.release()
    view = work(museum, script, run_id, lambda view: view.state == "paused" and "sending" not in view.states)
    assert "the brake is at 10 % of 50" in (view.brake or "")
    # Five are ten percent of fifty. To four come those who were in hand, eight at most, and as many who were marked while
    # the brake was asked.
    assert 5 <= view.states["refused"] <= 4 + 8 + 8
    assert sum(view.states.values()) == 60
    with database.transaction() as tx:
        assert run_sql(tx, "SELECT action FROM audit_entry ORDER BY id DESC LIMIT 1")[0][0] == "run_braked"


def test_a_pace_that_changes_holds_for_batches_in_hand(database: Database) -> None:
    people = "Contact no.,E-mail address\n" + "".join(f"P-{n},p{n}@slatepost.example\n" for n in range(60))
    museum = make_museum(database, people=people, batch_size=60)

    class Reacts(Script):
        """Somebody goes slower as soon as the first messages are through; nothing more is heard until they have."""

        async def hears(self, line: bytes) -> bool:
            if len(self.messages) >= 4:
                async with pressing:
                    if not pressed:
                        pressed.append(True)
                        await asyncio.to_thread(slow_down, database, SYSTEM, run_id, system_clock())
            return True

    pressing, pressed = asyncio.Lock(), list[bool]()
    museum.change(pace=Pace(batch_size=60, gap_seconds=0, minute_limit=40))
    script = Reacts()
    run_id = museum.release()

    def limited(view: DispatchView) -> bool:
        return bool(pressed) and view.states.get("accepted", 0) >= 20

    assert work(museum, script, run_id, limited).states["accepted"] == 20
    assert len(script.messages) == 20
