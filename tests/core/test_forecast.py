"""The forecast: an oracle goes message by message, and the window follows the wall clock through changes of clocks."""

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from uvarovite.core.campaigns import (
    DAY_SECONDS,
    HOUR_SECONDS,
    MINUTE_SECONDS,
    Capacity,
    Cause,
    DomainLimit,
    FirstSlice,
    Lateness,
    OpeningHours,
    Pace,
    RampUp,
    SendingWindow,
    ceiling,
    forecast_run,
    latest_start,
)
from uvarovite.core.campaigns.forecast import CURVE_POINTS, HORIZON, POINTS

LONDON = ZoneInfo("Europe/London")
# Half an hour of summer time, a change at midnight, and a day that was left out.
ZONES = [LONDON, *map(ZoneInfo, ("America/New_York", "Australia/Lord_Howe", "Africa/Cairo", "Pacific/Apia"))]
START = datetime(2026, 11, 23, 9, tzinfo=UTC)
HOUR = timedelta(hours=1)

minutes = st.integers(0, 95).map(lambda quarter: 15 * quarter)
windows = st.builds(
    lambda days, opens, length: SendingWindow(
        days=tuple(sorted(days)), opens=opens, closes=min(opens + length, 24 * 60)
    ),
    st.sets(st.integers(0, 6), min_size=1),
    minutes,
    st.integers(15, 1_440),
)


@settings(max_examples=60)
@given(
    window=st.none() | windows,
    quiet=st.sets(st.integers(-1, 6), max_size=4),
    zone=st.sampled_from(ZONES),
    # Days about which clocks change somewhere, and one of no interest.
    day=st.sampled_from(["2026-03-28", "2026-10-24", "2026-04-04", "2026-03-07", "2026-10-31", "2011-12-29", "2026-04-23", "2026-06-10"]),
)  # fmt: skip
def test_it_is_open_when_the_wall_clock_says_so(
    window: SendingWindow | None, quiet: set[int], zone: ZoneInfo, day: str
) -> None:
    first = datetime.fromisoformat(f"{day}T00:00:00+00:00")
    hours = OpeningHours(window, {first.date() + timedelta(days=one) for one in quiet}, zone)
    ends = first + timedelta(days=4)
    spans = []
    for opens, closes in hours.spans(first.timestamp()):
        spans.append((opens, closes))
        if closes > ends.timestamp():
            break
    assert all(one[1] < other[0] for one, other in pairwise(spans)), "no two touch"
    for minute in range(0, 4 * 24 * 60, 5):
        at = first + timedelta(minutes=minute)
        assert hours.is_open(at) is any(opens <= at.timestamp() < closes for opens, closes in spans), at
    following = hours.next_open(first)
    assert following is not None
    assert hours.is_open(following)
    assert following == first or not hours.is_open(following - timedelta(seconds=1))


@settings(max_examples=40)
@given(windows, st.sets(st.integers(0, 20), max_size=6), st.integers(0, 24 * 25))
def test_a_sending_day_is_one_on_which_it_opens(window: SendingWindow, quiet: set[int], after: int) -> None:
    hours = OpeningHours(window, {START.date() + timedelta(days=one) for one in quiet}, LONDON)
    at = hours.next_open(START + timedelta(hours=after))
    assert at is not None
    assert hours.sending_day(START, at) == sending_day(hours, at)


def test_a_time_that_is_left_out_opens_after_the_jump_and_one_that_comes_twice_is_open_twice() -> None:
    spring = OpeningHours(SendingWindow(days=(6,), opens=90, closes=240), (), LONDON)
    assert spring.next_open(datetime(2026, 3, 29, tzinfo=UTC)) == datetime(2026, 3, 29, 1, tzinfo=UTC)
    autumn = OpeningHours(SendingWindow(days=(6,), opens=75, closes=105), (), LONDON)
    spans = autumn.spans(datetime(2026, 10, 25, tzinfo=UTC).timestamp())
    told = [(datetime.fromtimestamp(one, UTC).time(), datetime.fromtimestamp(other, UTC).time()) for one, other in
            (next(spans), next(spans))]  # fmt: skip
    assert [(opens.isoformat("minutes"), closes.isoformat("minutes")) for opens, closes in told] == [
        ("00:15", "00:45"),
        ("01:15", "01:45"),
    ]


paces = st.builds(
    Pace,
    batch_size=st.integers(1, 400),
    gap_seconds=st.integers(0, 900),
    minute_limit=st.none() | st.integers(1, 50),
    hourly_limit=st.none() | st.integers(1, 500),
    daily_limit=st.none() | st.integers(20, 3_000),
    window=st.none() | windows,
    first_slice=st.none() | st.builds(FirstSlice, people=st.integers(1, 90), wait_minutes=st.integers(1, 300)),
    ramp_up=st.none() | st.builds(RampUp, first_day=st.integers(20, 200), factor=st.floats(1, 3)),
)
limits = st.dictionaries(st.sampled_from([MINUTE_SECONDS, HOUR_SECONDS, DAY_SECONDS]), st.integers(20, 400))


def sending_day(hours: OpeningHours, at: datetime) -> int:
    """Which of the dates with open hours that of an instant is, by looking at each quarter of an hour of each date."""
    first = hours.next_open(START) or START
    begins = datetime.combine(first.astimezone(LONDON).date(), datetime.min.time(), LONDON).astimezone(UTC)
    last, day = at.astimezone(LONDON).date(), first.astimezone(LONDON).date()
    moments = [begins + timedelta(minutes=15 * step) for step in range(96 * ((last - day).days + 1) + 8)]
    dates = {one.astimezone(LONDON).date() for one in moments if hours.is_open(one)}
    return max(sum(one <= last for one in dates) - 1, 0)


def gone(
    count: int, pace: Pace, relay: dict[int, int], went: list[tuple[datetime, int]], others: list[int], each: float
) -> list[datetime]:
    """When each message goes, by the rules and one after the other, with every other message of the relay in its turn."""
    hours = OpeningHours(pace.window, pace.quiet_dates, LONDON)
    ours: list[datetime] = []
    through = [at for at, n in went for _ in range(n)]
    at, begun = START, START
    for place in range(count):
        earliest = at
        head = pace.first_slice.people if pace.first_slice else 0
        if place and (place if place < head else place - head) % pace.batch_size == 0:
            earliest = max(at, begun + timedelta(seconds=pace.gap_seconds))
            begun = hours.next_open(earliest) or earliest
        if pace.first_slice and place == pace.first_slice.people:
            waited = at + timedelta(minutes=pace.first_slice.wait_minutes)
            if waited > earliest:
                earliest = waited
                begun = hours.next_open(earliest) or earliest
        earliest += timedelta(seconds=each)
        turns = sum(other > place for other in others)
        for went_there, limits, more in ((ours, pace.limits, 0), (through, relay, turns)):
            for seconds, most in limits.items():
                place_there = len(went_there) + more
                # Of those that take their turn with this one, whoever lies beyond goes at the same moment.
                if place_there >= most and place_there - most < len(went_there):
                    earliest = max(earliest, went_there[place_there - most] + timedelta(seconds=seconds))
        if pace.ramp_up:
            while True:
                day = sending_day(hours, earliest)
                most = pace.limits_on(day)[DAY_SECONDS]
                if len(ours) < most or earliest >= ours[len(ours) - most] + timedelta(days=1):
                    break
                midnight = datetime.combine(
                    earliest.astimezone(LONDON).date() + timedelta(days=1), datetime.min.time(), LONDON
                )
                earliest = min(ours[len(ours) - most] + timedelta(days=1), midnight.astimezone(UTC))
        opens = hours.next_open(earliest)
        assert opens is not None
        at = opens
        ours.append(at)
        through += [at] * (1 + turns)
    return ours


@settings(max_examples=60)
@given(
    pace=paces,
    count=st.integers(1, POINTS),
    relay=limits,
    went=st.lists(st.tuples(st.integers(1, 90_000), st.integers(1, 60)), max_size=4),
    each=st.sampled_from([0.0, 0.005, 2.0]),
)
def test_every_point_of_a_forecast_is_when_that_message_goes(
    pace: Pace, count: int, relay: dict[int, int], went: list[tuple[int, int]], each: float
) -> None:
    before = sorted((START - timedelta(seconds=ago), n) for ago, n in went)
    # What is over by now keeps to the limits by itself: no more than they let through.
    before = before if sum(n for _, n in before) <= min(relay.values(), default=999) else []
    forecast = forecast_run(count, pace, Capacity(limits=relay, went=before), START, LONDON, seconds_per_message=each)
    went_one_by_one = gone(count, pace, relay, before, [], each)
    assert forecast.end is not None
    assert forecast.curve[0] == (START, 0)
    assert forecast.curve[-1] == (forecast.end, count)
    for at, out in forecast.curve[1:]:
        assert abs((at - went_one_by_one[out - 1]).total_seconds()) < 0.01, out
    waited = sum(one.seconds for one in forecast.waited)
    assert waited == pytest.approx((forecast.end - START).total_seconds(), abs=0.01)


@given(paces, st.integers(1, 200), limits, st.lists(st.integers(0, 300), max_size=3))
def test_other_runs_of_the_relay_take_their_turns(
    pace: Pace, count: int, relay: dict[int, int], others: list[int]
) -> None:
    alone = forecast_run(count, pace, Capacity(limits=relay), START, LONDON)
    beside = forecast_run(count, pace, Capacity(limits=relay, others=others), START, LONDON)
    assert alone.end is not None
    assert beside.end is not None
    assert beside.end >= alone.end
    if not relay or not any(others):
        assert beside.end == alone.end


@settings(max_examples=40)
@given(pace=paces, count=st.integers(2_000, 1_000_000))
def test_many_are_forecast_as_the_few_are(pace: Pace, count: int) -> None:
    """What is looked at in steps is no faster than the limits, never falls, and can be drawn."""
    forecast = forecast_run(count, pace, Capacity(), START, LONDON)
    for (earlier, fewer), (later, more) in pairwise(forecast.curve):
        assert earlier <= later
        assert fewer <= more <= count
    hours = OpeningHours(pace.window, (), LONDON)
    assert all(hours.is_open(at) for at, _ in forecast.curve[1:])
    assert len(forecast.curve) <= 3 * CURVE_POINTS
    end = forecast.end or START + HORIZON
    for seconds, most in pace.limits.items():
        assert end - START >= min(timedelta(seconds=seconds) * (count // most - 1), HORIZON - timedelta(days=1))


@settings(max_examples=25)
@given(
    batch=st.integers(20, 400), gap=st.integers(0, 900), hourly=st.none() | st.integers(50, 900),
    window=st.none() | windows, daily=st.none() | st.integers(500, 3_000),
)  # fmt: skip
def test_steps_end_when_messages_one_by_one_do(
    batch: int, gap: int, hourly: int | None, window: SendingWindow | None, daily: int | None
) -> None:
    pace = Pace(batch_size=batch, gap_seconds=gap, hourly_limit=hourly, daily_limit=daily, window=window)
    count = 4 * POINTS
    end = forecast_run(count, pace, Capacity(), START, LONDON).end
    exact = gone(count, pace, {}, [], [], 0.005)[-1]
    assert end is not None
    # Within a step, and what a limit lets go at once at its beginning.
    slack = 0.06 * (exact - START) + HOUR + (timedelta(days=3) if window else timedelta())
    assert abs(end - exact) <= slack


def test_a_domain_with_a_limit_of_its_own_holds_up_nobody_else() -> None:
    pace = Pace(batch_size=100, gap_seconds=0, domain_limits=(DomainLimit(domain="quartzmail.example", hourly=60),))
    forecast = forecast_run(1_000, pace, Capacity(), START, LONDON, domains={"quartzmail.example": 240})
    assert forecast.end == forecast.domains["quartzmail.example"]
    assert forecast.end is not None
    assert timedelta(hours=3) <= forecast.end - START <= timedelta(hours=3, minutes=2)
    by_then = [out for at, out in forecast.curve if at <= START + timedelta(minutes=1)]
    assert 760 + 60 <= by_then[-1] + 1 <= 840


def test_those_who_are_told_to_come_back_are_counted_in() -> None:
    pace = Pace(batch_size=1_000, gap_seconds=0)
    lateness = Lateness(share=0.1, delays_seconds=(300, 900))
    forecast = forecast_run(1_000, pace, Capacity(), START, LONDON, lateness=lateness)
    assert forecast.end is not None
    assert forecast.late_end is not None
    assert forecast.late[-1][1] == 1_000
    late = {round((at - START).total_seconds()): out for at, out in forecast.late}
    assert 880 <= max(out for seconds, out in late.items() if seconds < 290) <= 900
    assert timedelta(minutes=20) <= forecast.late_end - START <= timedelta(minutes=21)


def test_a_pause_is_what_a_run_waited_for() -> None:
    pace = Pace(batch_size=10, gap_seconds=60)
    pauses = [(START + timedelta(minutes=2), START + timedelta(minutes=32))]
    forecast = forecast_run(100, pace, Capacity(), START, LONDON, pauses=pauses)
    assert forecast.end is not None
    assert timedelta(minutes=39) <= forecast.end - START <= timedelta(minutes=41)
    assert max(forecast.waited, key=lambda one: one.seconds).cause is Cause.PAUSE


@given(paces, st.integers(1, 300), st.integers(1, 200))
def test_the_latest_start_is_in_time_and_a_little_later_is_not(pace: Pace, count: int, hours: int) -> None:
    by = START + timedelta(hours=hours)
    latest = latest_start(count, pace, Capacity(), START, LONDON, done_by=by, domains={})
    end = forecast_run(count, pace, Capacity(), START, LONDON).end
    assert end is not None
    assert (latest is None) is (end > by)
    if latest is not None:
        told = forecast_run(count, pace, Capacity(), latest, LONDON).end
        assert told is not None
        assert told <= by


def test_what_takes_a_lifetime_has_no_end() -> None:
    forecast = forecast_run(1_000_000, Pace(daily_limit=1), Capacity(), START, LONDON)
    assert forecast.end is None
    assert forecast.curve[-1][1] < 1_000_000


def test_nothing_to_send_ends_where_it_starts() -> None:
    forecast = forecast_run(0, Pace(), Capacity(), START, LONDON)
    assert (forecast.end, forecast.curve) == (START, ((START, 0),))


def test_the_finishing_time_of_a_known_pace() -> None:
    pace = Pace(batch_size=50, gap_seconds=600)
    end = forecast_run(200, pace, Capacity(), START, LONDON, seconds_per_message=0).end
    assert end == START + timedelta(minutes=30)
    free = Pace(batch_size=1000, gap_seconds=0)
    limited = forecast_run(450, free, Capacity(limits={HOUR_SECONDS: 200}), START, LONDON, seconds_per_message=0)
    assert limited.end == START + timedelta(hours=2)
    assert limited.waited[0].cause is Cause.RELAY_LIMIT
    over_night = Pace(batch_size=100, gap_seconds=3_600, window=SendingWindow(), quiet_dates=(date(2026, 11, 25),))
    forecast = forecast_run(2_000, over_night, Capacity(), START, LONDON, seconds_per_message=0)
    assert forecast.end == datetime(2026, 11, 26, 12, tzinfo=UTC)
    assert forecast.closed[0] == (datetime(2026, 11, 23, 17, tzinfo=UTC), datetime(2026, 11, 24, 9, tzinfo=UTC))
    top = ceiling(450, Capacity(limits={HOUR_SECONDS: 200}), START, LONDON).end
    assert top is not None
    assert (top - START).total_seconds() == pytest.approx(2 * 3_600 + 0.25, abs=0.01)


OFFICE = SendingWindow(zone_field="time_zone")


def out_at(curve: tuple[tuple[datetime, int], ...], at: datetime) -> int:
    return max((n for when, n in curve if when <= at), default=0)


def test_each_reader_goes_by_their_own_clock_and_keeps_nobody_waiting() -> None:
    eight = START - HOUR
    pace = Pace(batch_size=1_000, gap_seconds=0, window=OFFICE)
    readers = {"America/New_York": 50, "Australia/Lord_Howe": 30, "Nowhere/Special": 7}
    told = forecast_run(187, pace, Capacity(), eight, LONDON, readers=readers)
    # London is at eight, New York asleep, and Lord Howe has closed for the day: it is seven in the evening there.
    assert out_at(told.curve, START - timedelta(seconds=1)) == 0
    assert out_at(told.curve, START + timedelta(minutes=1)) == 107
    assert out_at(told.curve, START + 5 * HOUR + timedelta(minutes=1)) == 157
    assert told.end is not None
    assert told.end.astimezone(ZoneInfo("Australia/Lord_Howe")).strftime("%a %H") == "Tue 09"
    slow = pace.model_copy(update={"hourly_limit": 60})
    told = forecast_run(187, slow, Capacity(), eight, LONDON, readers=readers)
    assert [out_at(told.curve, START + n * HOUR + timedelta(minutes=1)) for n in (0, 1, 4, 5)] == [60, 107, 107, 157]


@settings(max_examples=60)
@given(
    window=windows,
    ours=st.integers(1, 40),
    theirs=st.dictionaries(st.sampled_from([zone.key for zone in ZONES]), st.integers(1, 40)),
    hourly=st.none() | st.integers(5, 50),
)
def test_nobody_is_foreseen_outside_their_own_window(
    window: SendingWindow, ours: int, theirs: dict[str, int], hourly: int | None
) -> None:
    pace = Pace(
        batch_size=10, gap_seconds=0, hourly_limit=hourly, window=window.model_copy(update={"zone_field": "zone"})
    )
    count = ours + sum(theirs.values())
    told = forecast_run(count, pace, Capacity(), START, LONDON, readers=theirs)
    lives = {zone: theirs.get(zone.key, 0) + (ours if zone is LONDON else 0) for zone in ZONES}
    opens = {zone: pace.hours(zone).next_open(START) for zone in ZONES}
    for at, n in told.curve[1:]:
        # No more can be out than have had an open instant.
        assert n <= sum(many for zone, many in lives.items() if (first := opens[zone]) and first <= at)
        assert any(
            pace.hours(zone).is_open(at) or pace.hours(zone).is_open(at - timedelta(seconds=1)) for zone in ZONES
        )
    assert told.end is not None
    assert told.curve[-1][1] == count
    # Who all live by the organisation's clock goes as if it alone decided.
    alone = pace.model_copy(update={"window": window})
    assert (
        forecast_run(count, pace, Capacity(), START, LONDON).curve
        == forecast_run(count, alone, Capacity(), START, LONDON).curve
    )
