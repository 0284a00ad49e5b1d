"""Pace: permits that keep a limit in any sliding hour, and the forecast that a pace gives."""

import random
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.campaigns import WINDOWS, Limit, Pace, Use, forecast_run, grant_permits, pace_sentence, stretch_of
from uvarovite.core.campaigns.forecast import CURVE_POINTS

START = datetime(2026, 11, 23, 9, tzinfo=UTC)
HOUR = timedelta(hours=1)


class Counter:
    """What the database counts for one limit; `open` are messages that no relay has answered for."""

    def __init__(self, limit: Limit) -> None:
        self.limit = limit
        self.open = 0
        self.counted: dict[int, int] = {}

    def take(self, wanted: int, now: float) -> tuple[int, datetime | None]:
        use = Use(limit=self.limit, open=self.open, counted=self.counted)
        granted, later = grant_permits(wanted, [use], at(now))
        self.open += granted
        return granted, later

    def close(self, n: int, now: float) -> None:
        self.open -= n
        stretch = stretch_of(at(now), self.limit.seconds)
        self.counted[stretch] = self.counted.get(stretch, 0) + n


def at(seconds: float) -> datetime:
    return START + timedelta(seconds=seconds)


@given(
    seconds=st.sampled_from(WINDOWS), most=st.integers(1, 60), workers=st.integers(1, 4), group=st.integers(1, 30),
    seed=st.integers(0, 2**32),
)  # fmt: skip
def test_no_sliding_window_ever_sees_more_than_the_limit(
    seconds: int, most: int, workers: int, group: int, seed: int
) -> None:
    """Workers that take, send at random moments, and answer late, some much later than the window is long."""
    rng = random.Random(seed)
    counter = Counter(Limit(seconds, most))
    under_way: list[tuple[float, int]] = []
    sent: list[float] = []
    now = 0.0
    while now < 4 * seconds:
        now += rng.expovariate(90 / seconds)
        for ends, n in [one for one in under_way if one[0] <= now]:
            counter.close(n, now)
            under_way.remove((ends, n))
        for _ in range(workers):
            wanted = rng.randint(1, group)
            granted, later = counter.take(wanted, now)
            assert 0 <= granted <= wanted
            if granted:
                assert later is None
                ends = now + rng.choice([0, 1, 5, seconds / 40, 2 * seconds])
                sent += [rng.uniform(now, ends) for _ in range(granted)]
                under_way.append((ends, granted))
    sent.sort()
    for index, moment in enumerate(sent):
        assert sum(1 for other in sent[index:] if other < moment + seconds) <= most


@pytest.mark.parametrize("seconds", WINDOWS)
def test_an_allowed_rate_is_used_to_97_percent(seconds: int) -> None:
    most, now, sent = 600, 0.0, 0
    counter = Counter(Limit(seconds, most))
    while now < 5 * seconds:
        granted, later = counter.take(16, now)
        if granted:
            now += seconds / 3_000
            sent += granted
            counter.close(granted, now)
        else:
            assert later is not None
            assert (later - START).total_seconds() > now, "the time to ask again lies ahead"
            now = (later - START).total_seconds()
    # The first window's share goes at once, as the limit allows; what it uses is how often the same comes round.
    assert 0.97 * most * 5 <= sent <= most * 6


def test_when_to_ask_again_is_told_where_it_can_be() -> None:
    hour = Limit(3_600, 10)

    def grant(wanted: int, open_: int, counted: dict[int, int], after: timedelta) -> tuple[int, datetime | None]:
        return grant_permits(wanted, [Use(limit=hour, open=open_, counted=counted)], START + after)

    fifty = timedelta(minutes=50)
    assert grant(5, 10, {}, fifty) == (0, None)
    assert grant_permits(5, [], START) == (5, None)
    full = {stretch_of(START, 3_600): 10}
    granted, later = grant(5, 0, full, fifty)
    assert granted == 0
    assert later is not None
    assert START + timedelta(hours=1) < later <= START + timedelta(hours=1, seconds=30)
    assert grant(5, 0, full, later - START) == (5, None)
    # The one that is exhausted for longest says when, and the tightest one how many.
    day = Use(limit=Limit(86_400, 12), open=0, counted={stretch_of(START, 86_400): 12})
    both = [Use(limit=hour, open=0, counted=full), day]
    assert grant_permits(5, both, START)[1] > START + timedelta(hours=23)  # type: ignore[operator]
    loose = Use(limit=Limit(60, 3), open=0, counted={})
    assert grant_permits(5, [loose, Use(limit=hour, open=2, counted={})], START) == (3, None)


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
