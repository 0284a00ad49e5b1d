"""Pace: permits that keep a limit in any sliding hour, and the forecast that a pace gives."""

import random
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.campaigns import HOUR, Pace, Permit, forecast_run, grant_permits, pace_sentence
from uvarovite.core.campaigns.forecast import CURVE_POINTS

START = datetime(2026, 11, 23, 9, tzinfo=UTC)


@given(
    limit=st.integers(1, 60),
    workers=st.integers(1, 4),
    group=st.integers(1, 30),
    seed=st.integers(0, 2**32),
)
def test_no_sliding_hour_ever_sees_more_than_the_limit(limit: int, workers: int, group: int, seed: int) -> None:
    """Workers that take, send at random moments, and close late, or never (one that died, closed by another)."""
    rng = random.Random(seed)
    taken: list[dict[str, object]] = []
    sent: list[float] = []
    now = 0.0
    while now < 4 * 3600:
        now += rng.expovariate(1 / 40)
        for permit in taken:
            if permit["closed"] is None and now >= permit["close_at"]:  # type: ignore[operator]
                permit["closed"] = now
        for _ in range(workers):
            permits = [
                Permit(
                    count=permit["count"],  # type: ignore[arg-type]
                    closed_at=None if permit["closed"] is None else START + timedelta(seconds=permit["closed"]),  # type: ignore[arg-type]
                )
                for permit in taken
            ]
            wanted = rng.randint(1, group)
            granted, later = grant_permits(wanted, limit, permits, START + timedelta(seconds=now))
            assert 0 <= granted <= wanted
            if granted:
                assert later is None
                ends = now + rng.choice([0, 1, 5, 90])
                sent += [rng.uniform(now, ends) for _ in range(granted)]
                taken.append({"count": granted, "closed": None, "close_at": ends})
    sent.sort()
    for index, moment in enumerate(sent):
        within = sum(1 for other in sent[index:] if other < moment + 3600)
        assert within <= limit


def test_an_allowed_rate_is_used_to_97_percent() -> None:
    limit, now, permits, sent = 200, 0.0, [], 0
    while now < 3 * 3600:
        granted, later = grant_permits(20, limit, permits, START + timedelta(seconds=now))
        if granted:
            now += 2
            sent += granted
            permits.append(Permit(count=granted, closed_at=START + timedelta(seconds=now)))
        else:
            assert later is not None
            now = max(now + 0.001, (later - START).total_seconds())
    assert 0.97 * limit * 3 <= sent <= limit * 3


def test_with_nothing_but_open_permits_there_is_no_time_to_name() -> None:
    assert grant_permits(5, 10, [Permit(count=10, closed_at=None)], START) == (0, None)
    assert grant_permits(5, None, [Permit(count=10, closed_at=None)], START) == (5, None)
    closed = [Permit(count=10, closed_at=START - timedelta(minutes=50))]
    assert grant_permits(5, 10, closed, START) == (0, START + timedelta(minutes=10))
    assert grant_permits(5, 10, closed, START + timedelta(minutes=10)) == (5, None)
    assert timedelta(hours=1) == HOUR


paces = st.builds(
    Pace,
    batch_size=st.integers(1, 400),
    gap_seconds=st.integers(0, 900),
    hourly_limit=st.none() | st.integers(1, 5_000),
)


@given(paces, st.integers(0, 3_000), st.none() | st.integers(1, 4_000))
def test_a_forecast_keeps_to_its_pace(pace: Pace, count: int, relay_limit: int | None) -> None:
    forecast = forecast_run(count, pace, relay_limit, START)
    assert forecast.curve[0] == (START, 0)
    assert forecast.curve[-1] == (forecast.end, count)
    for (earlier, fewer), (later, more) in pairwise(forecast.curve):
        assert earlier <= later
        assert fewer <= more
    batches = -(-count // pace.batch_size)
    gaps = timedelta(seconds=max(0, batches - 1) * pace.gap_seconds)
    assert forecast.end >= START + gaps
    limit = pace.limit_with(relay_limit)
    if limit and count:
        assert forecast.end >= START + ((count - 1) // limit) * HOUR
        for at, out in forecast.curve:
            before = [earlier for when, earlier in forecast.curve if when <= at - HOUR]
            assert out - max(before, default=0) <= limit + 2 * -(-count // 120) + pace.batch_size


def sent_one_by_one(count: int, pace: Pace, limit: int | None, each: float) -> list[float]:
    """Seconds after the start at which each message goes, by the rules and one after the other."""
    period = max(pace.gap_seconds, pace.batch_size * each)
    went: list[float] = []
    for place in range(count):
        batch, within = divmod(place, pace.batch_size)
        by_pace = batch * period + (within + 1) * each
        went.append(max(by_pace, went[place - limit] + 3_600) if limit and place >= limit else by_pace)
    return went


@given(paces, st.integers(1, 1_500), st.none() | st.integers(1, 400), st.sampled_from([0.0, 0.005, 2.0]))
def test_every_point_of_a_forecast_is_when_that_message_goes(
    pace: Pace, count: int, relay_limit: int | None, each: float
) -> None:
    curve = forecast_run(count, pace, relay_limit, START, seconds_per_message=each).curve
    went = sent_one_by_one(count, pace, pace.limit_with(relay_limit), each)
    for at, out in curve[1:]:
        assert (at - START).total_seconds() == pytest.approx(went[out - 1], abs=1e-3)
    shown = {out for _, out in curve}
    assert {1, count} <= shown
    assert len(curve) <= 3 * CURVE_POINTS + 1
    firsts = range(0, count, pace.batch_size)
    if len(firsts) <= CURVE_POINTS:
        assert shown >= {first + 1 for first in firsts} | {min(first + pace.batch_size, count) for first in firsts}
    # Few enough to be drawn one by one are.
    assert count > CURVE_POINTS or shown >= set(range(1, count + 1))


def test_nothing_to_send_ends_where_it_starts() -> None:
    forecast = forecast_run(0, Pace(), None, START)
    assert (forecast.end, forecast.curve) == (START, ((START, 0),))


def test_the_finishing_time_of_a_known_pace() -> None:
    pace = Pace(batch_size=50, gap_seconds=600)
    end = forecast_run(200, pace, None, START, seconds_per_message=0).end
    assert end == START + timedelta(minutes=30)
    limited = forecast_run(450, Pace(batch_size=1000, gap_seconds=0), 200, START, seconds_per_message=0).end
    assert limited == START + timedelta(hours=2)


@pytest.mark.parametrize(
    ("seconds", "words"),
    [
        (0, "without a gap"),
        (1, "every 1 s"),
        (59, "every 59 s"),
        (60, "every 1 min"),
        (61, "every 61 s"),
        (90, "every 90 s"),
        (3_540, "every 59 min"),
        (3_600, "every 1 h"),
        (3_660, "every 61 min"),
        (5_400, "every 90 min"),
        (7_200, "every 2 h"),
    ],
)
def test_a_gap_is_said_in_the_largest_unit_that_is_exact(seconds: int, words: str) -> None:
    assert pace_sentence(Pace(batch_size=1_200, gap_seconds=seconds), None) == f"1,200 at a time, {words}"


@pytest.mark.parametrize(
    ("own", "relay", "said"),
    [(None, None, ""), (300, None, "300"), (None, 1_200, "1,200"), (300, 200, "200"), (200, 300, "200"), (1, 1, "1")],
)
def test_the_slower_of_two_limits_is_said(own: int | None, relay: int | None, said: str) -> None:
    words = pace_sentence(Pace(batch_size=1, gap_seconds=0, hourly_limit=own), relay)
    assert words == "1 at a time, without a gap" + (f", at most {said} an hour" if said else "")


def test_a_pace_can_be_read_aloud() -> None:
    assert pace_sentence(Pace(batch_size=50, gap_seconds=300), 200) == "50 at a time, every 5 min, at most 200 an hour"
    assert pace_sentence(Pace(batch_size=1, gap_seconds=0), None) == "1 at a time, without a gap"
    assert "at most 100 an hour" in pace_sentence(Pace(hourly_limit=100), 200)
