"""A run by its pace, on a clock that is wound on: windows, limits, slices, brakes, and the forecast beside it."""

from collections import Counter
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from tests.support.museum import Museum, make_museum
from tests.support.sending import NOBODY, OK, claim, give_back, kit_of, mark, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import (
    DAY_SECONDS,
    HOUR_SECONDS,
    MINUTE_SECONDS,
    Brake,
    DomainLimit,
    FirstSlice,
    Pace,
    RampUp,
    SendingWindow,
)
from uvarovite.core.delivery.outcomes import Outcome
from uvarovite.services.delivery import dispatch, sending
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.errors import Conflict
from uvarovite.store.database import Database, run_sql
from uvarovite.store.delivery import permits

LONDON = ZoneInfo("Europe/London")
# A Friday; on the next Sunday but one the clocks go back.
START = datetime(2026, 10, 16, 8, 30, tzinfo=UTC)
PEOPLE = 180


def museum_of(database: Database, pace: Pace, people: int = PEOPLE) -> Museum:
    rows = "".join(f"P-{n},p{n}@{'quartzmail' if n % 3 == 0 else 'slatepost'}.example\n" for n in range(people))
    museum = make_museum(database, people="Contact no.,E-mail address\n" + rows)
    with database.transaction() as tx:
        permits.set_limits(tx, permits.relay_scope(museum.relay_id), {})
    museum.change(pace=pace)
    return museum


class Winding:
    """A worker whose clock goes on to whatever is due next; `went` is when each message went, and to which domain."""

    def __init__(self, museum: Museum, run_id: int, start: datetime) -> None:
        self.museum, self.run_id, self.now = museum, run_id, start
        self.kit = kit_of(museum, run_id)
        self.went: list[tuple[datetime, str]] = []

    def go(self, until: datetime | None = None, answer: Callable[[int], Outcome] = lambda _: OK) -> None:
        """Until nothing more falls due, or an instant."""
        for turn in range(20_000):
            batch = claim(self.museum, f"{self.run_id} {turn} {self.now}", self.now)
            if batch is None:
                due = sending.next_due(self.museum.database, self.now)
                if due is None or (until and self.now + due > until):
                    return
                self.now += max(due, timedelta(milliseconds=1))
                continue
            pending, wait = list(batch.delivery_ids), None
            while pending and wait is None:
                group = mark(self.museum, batch, self.kit, pending[:16], self.now)
                for one in group.marked:
                    self.went.append((self.now, one.domain))
                    settle(self.museum, batch, self.kit, [one], answer(len(self.went)), self.now)
                pending = [*group.left, *pending[16:]]
                if not group.marked and group.left:
                    wait = group.wait
                    break
            give_back(self.museum, batch, self.now, wait)
        raise AssertionError("it never ends")


OFFICE = SendingWindow(days=(0, 1, 2, 3, 4), opens=9 * 60, closes=17 * 60)
PACES = {
    "office hours": Pace(batch_size=20, gap_seconds=3_600, window=OFFICE),
    "a window about the change of clocks, and a quiet date": Pace(
        batch_size=10,
        gap_seconds=900,
        window=SendingWindow(days=(4, 6), opens=60, closes=150),
        quiet_dates=(date(2026, 10, 18),),
    ),
    "three limits": Pace(batch_size=50, gap_seconds=0, minute_limit=7, hourly_limit=30, daily_limit=70),
    "a ramp-up": Pace(batch_size=50, gap_seconds=60, ramp_up=RampUp(first_day=20, factor=2)),
    "a domain's limit": Pace(
        batch_size=30, gap_seconds=60, domain_limits=(DomainLimit(domain="quartzmail.example", hourly=12),)
    ),
    "a first slice": Pace(batch_size=40, gap_seconds=600, first_slice=FirstSlice(people=25, wait_minutes=120)),
    "nearly all of it": Pace(
        batch_size=25,
        gap_seconds=300,
        hourly_limit=40,
        window=OFFICE,
        ramp_up=RampUp(first_day=15, factor=1.5),
        first_slice=FirstSlice(people=10, wait_minutes=30),
        domain_limits=(DomainLimit(domain="quartzmail.example", hourly=20),),
    ),
}


@pytest.mark.parametrize("name", PACES)
def test_a_run_keeps_to_its_pace_and_ends_when_it_was_said_to(database: Database, name: str) -> None:
    pace = PACES[name]
    museum = museum_of(database, pace)
    forecast = museum.view(START).forecast
    worker = Winding(museum, museum.release(START), START)
    worker.go()
    assert Counter(museum.states(worker.run_id).values()) == {"accepted": PEOPLE}
    assert len(worker.went) == PEOPLE
    moments = [at for at, _ in worker.went]
    for at in moments:
        wall = at.astimezone(LONDON)
        assert wall.date() not in pace.quiet_dates
        if pace.window:
            assert wall.weekday() in pace.window.days
            assert pace.window.opens <= wall.hour * 60 + wall.minute < pace.window.closes
    for seconds, most in pace.limits.items():
        keeps_to(moments, seconds, most)
    if pace.ramp_up:
        for day in range(5):
            dates = sorted({at.astimezone(LONDON).date() for at in moments})
            on_it = [at for at in moments if dates.index(at.astimezone(LONDON).date()) == day]
            keeps_to(on_it, DAY_SECONDS, pace.ramp_up.allowance(day))
    for limit in pace.domain_limits:
        keeps_to([at for at, domain in worker.went if domain == limit.domain], HOUR_SECONDS, limit.hourly)
    assert forecast is not None
    assert forecast.end is not None
    # What permits lose by counting in stretches, and a turn of the clock.
    slack = 0.04 * (forecast.end - START) + timedelta(minutes=70 if pace.domain_limits else 10)
    assert abs(moments[-1] - forecast.end) <= slack, (moments[-1], forecast.end)


def keeps_to(moments: list[datetime], seconds: int, most: int) -> None:
    """No sliding window holds more than the limit."""
    for place in range(len(moments) - most):
        assert moments[place + most] - moments[place] >= timedelta(seconds=seconds)


def test_one_domains_limit_holds_up_nobody_else_and_is_no_attempt(database: Database) -> None:
    pace = Pace(batch_size=60, gap_seconds=0, domain_limits=(DomainLimit(domain="quartzmail.example", hourly=12),))
    museum = museum_of(database, pace)
    worker = Winding(museum, museum.release(START), START)
    worker.go(until=START + timedelta(minutes=1))
    assert Counter(domain for _, domain in worker.went) == {"slatepost.example": 120, "quartzmail.example": 12}
    view = dispatch_view(database, SYSTEM, worker.run_id, worker.now)
    # 48 wait, 12 an hour: four hours, of which the first goes by until the twelve that went count no more.
    assert view.ends_at is not None
    assert timedelta(hours=3, minutes=50) <= view.ends_at - START <= timedelta(hours=4, minutes=10)
    [line] = view.troubles
    assert (line.people, line.domain, line.words) == (48, "quartzmail.example", "wait for the campaign's limit there")
    with database.transaction() as tx:
        assert run_sql(tx, "SELECT max(attempts) FROM delivery WHERE state = 'deferred'")[0][0] == 0


def test_a_first_slice_is_taken_from_everywhere_and_stops_the_rest_when_it_bounces(database: Database) -> None:
    pace = Pace(batch_size=40, gap_seconds=0, first_slice=FirstSlice(people=25, wait_minutes=60, bounce_percent=10))
    museum = museum_of(database, pace)
    worker = Winding(museum, museum.release(START), START)
    worker.go(until=START + timedelta(minutes=59), answer=lambda n: NOBODY if n <= 3 else OK)
    assert len(worker.went) == 25
    assert len({domain for _, domain in worker.went}) == 2
    view = dispatch_view(database, SYSTEM, worker.run_id, worker.now)
    assert view.slice_until == START + timedelta(minutes=60)
    worker.go()
    view = dispatch_view(database, SYSTEM, worker.run_id, worker.now)
    assert (view.state, len(worker.went)) == ("paused", 25)
    assert view.brake == (
        "3 of the first 25 messages bounced (12.0 %), and the rest should go only if less than 10 % did."
    )
    # Somebody has looked, and lets it go on.
    dispatch.go_on(database, SYSTEM, worker.run_id, worker.now)
    worker.go()
    assert len(worker.went) == PEOPLE
    assert dispatch_view(database, SYSTEM, worker.run_id, worker.now).brake is None


def test_the_brake_stops_a_run_that_bounces_and_counts_anew_when_it_goes_on(database: Database) -> None:
    pace = Pace(batch_size=40, gap_seconds=60, brake=Brake(last=50, bounce_percent=10))
    museum = museum_of(database, pace)
    worker = Winding(museum, museum.release(START), START)
    worker.go(answer=lambda n: NOBODY if n % 4 == 0 else OK)
    view = dispatch_view(database, SYSTEM, worker.run_id, worker.now)
    assert view.state == "paused"
    assert view.brake == "5 of the last 20 answers say that the address is no good; the brake is at 10 % of 50."
    # Whoever was marked when it stopped has been sent to; nobody else.
    assert len(worker.went) == 20 + 12
    dispatch.go_on(database, SYSTEM, worker.run_id, worker.now)
    worker.go(answer=lambda _: OK)
    assert dispatch_view(database, SYSTEM, worker.run_id, worker.now).state == "ended"
    assert len(worker.went) == PEOPLE


def test_what_a_run_waited_for_is_told_with_its_pauses(database: Database) -> None:
    museum = museum_of(database, Pace(batch_size=20, gap_seconds=60, hourly_limit=60))
    worker = Winding(museum, museum.release(START), START)
    worker.go(until=START + timedelta(minutes=1))
    dispatch.pause(database, SYSTEM, worker.run_id, START + timedelta(minutes=2))
    dispatch.go_on(database, SYSTEM, worker.run_id, START + timedelta(minutes=32))
    worker.now = START + timedelta(minutes=32)
    worker.go(until=START + timedelta(hours=2, minutes=40))
    view = dispatch_view(database, SYSTEM, worker.run_id, worker.now)
    told = {line.words: line.seconds for line in view.waited}
    assert told["somebody who paused it"] == pytest.approx(1_800, abs=90)
    assert told["the campaign’s own hourly limit"] > 1_500


def test_a_relays_other_runs_are_counted_in(database: Database) -> None:
    museum = museum_of(database, Pace(batch_size=20, gap_seconds=60))
    with database.transaction() as tx:
        permits.set_limits(tx, permits.relay_scope(museum.relay_id), {MINUTE_SECONDS: 10, HOUR_SECONDS: 60})
    alone = museum.view(START).forecast
    museum.release(START)
    view = museum.view(START)
    beside, gauges = view.forecast, view.gauges
    assert alone is not None
    assert beside is not None
    assert gauges is not None
    assert [(one.seconds, one.most, one.held) for one in gauges.relays[0].limits] == [(60, 10, 10), (3_600, 60, 60)]
    assert [(one.campaign, one.moving) for one in gauges.holders] == [("Walks", PEOPLE)]


def test_slower_and_faster_act_at_once_and_the_plan_stays_what_it_was(database: Database) -> None:
    museum = museum_of(database, Pace(batch_size=20, gap_seconds=600, hourly_limit=100))
    worker = Winding(museum, museum.release(START), START)
    worker.go(until=START + timedelta(minutes=1))
    planned = dispatch_view(database, SYSTEM, worker.run_id, START).planned_curve
    dispatch.speed_up(database, SYSTEM, worker.run_id, START + timedelta(minutes=1))
    # The second batch begins when the new gap is over, not the old one.
    worker.go(until=START + timedelta(minutes=6))
    assert len(worker.went) == 40
    for _ in range(3):
        dispatch.slow_down(database, SYSTEM, worker.run_id, worker.now)
    view = dispatch_view(database, SYSTEM, worker.run_id, worker.now)
    assert view.pace_words == "20 at a time, every 40 min, at most 25 an hour"
    assert view.planned_curve == planned
    before = len(worker.went)
    worker.go(until=worker.now + timedelta(hours=3))
    keeps_to([at for at, _ in worker.went[before:]], HOUR_SECONDS, 25)
    dispatch.stop(database, SYSTEM, worker.run_id, worker.now)
    with pytest.raises(Conflict):
        dispatch.slow_down(database, SYSTEM, worker.run_id, worker.now)
