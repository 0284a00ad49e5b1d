"""Pace: permits that keep a limit in any sliding window, and a pace in words."""

import random
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.campaigns import (
    DAY_SECONDS,
    HOUR_SECONDS,
    MINUTE_SECONDS,
    WINDOWS,
    DomainLimit,
    Limit,
    Pace,
    RampUp,
    SendingWindow,
    Use,
    faster,
    grant_permits,
    pace_sentence,
    slower,
    stretch_of,
)
from uvarovite.core.campaigns.pace import MOST_MESSAGES

START = datetime(2026, 11, 23, 9, tzinfo=UTC)


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
    assert pace_sentence(Pace(batch_size=1_200, gap_seconds=seconds), {}) == f"1,200 at a time, {words}"


@pytest.mark.parametrize(
    ("own", "relay", "said"),
    [
        (None, {}, ""),
        (300, {}, ", at most 300 an hour"),
        (None, {HOUR_SECONDS: 1_200}, ", at most 1,200 an hour"),
        (300, {HOUR_SECONDS: 200}, ", at most 200 an hour"),
        (200, {HOUR_SECONDS: 300, DAY_SECONDS: 900}, ", at most 200 an hour, at most 900 in 24 hours"),
        (None, {MINUTE_SECONDS: 1}, ", at most 1 a minute"),
    ],
)
def test_the_slower_of_two_limits_is_said(own: int | None, relay: dict[int, int], said: str) -> None:
    words = pace_sentence(Pace(batch_size=1, gap_seconds=0, hourly_limit=own), relay)
    assert words == f"1 at a time, without a gap{said}"


def test_a_pace_can_be_read_aloud() -> None:
    pace = Pace(
        batch_size=50,
        gap_seconds=300,
        window=SendingWindow(days=(0, 1, 2, 3, 4), opens=9 * 60, closes=17 * 60 + 30),
        ramp_up=RampUp(first_day=200, factor=1.5),
    )
    assert pace_sentence(pace, {HOUR_SECONDS: 200}) == (
        "50 at a time, every 5 min, at most 200 an hour, 200 on the first day, 1.5 times as many each sending day after, "
        "Monday to Friday, 9:00 to 17:30"
    )


@pytest.mark.parametrize(
    ("days", "words"),
    [
        ((0, 1, 2, 3, 4, 5, 6), "every day"),
        ((2,), "Wednesday"),
        ((1, 3), "Tuesday and Thursday"),
        ((0, 1), "Monday and Tuesday"),
        ((4, 5, 6), "Friday to Sunday"),
        ((0, 2, 4), "Monday, Wednesday and Friday"),
    ],
)
def test_days_are_said_shortly(days: tuple[int, ...], words: str) -> None:
    whole = SendingWindow(days=days, opens=0, closes=1_440)
    assert pace_sentence(Pace(gap_seconds=0, window=whole), {}) == f"50 at a time, without a gap, {words}"


@given(st.integers(1, MOST_MESSAGES), st.floats(1, 10), st.integers(0, 5_000))
def test_a_ramp_up_never_falls_and_has_a_top(first: int, factor: float, day: int) -> None:
    ramp = RampUp(first_day=first, factor=factor)
    assert first == ramp.allowance(0) <= ramp.allowance(day) <= ramp.allowance(day + 1) <= MOST_MESSAGES
    assert Pace(ramp_up=ramp, daily_limit=7).limits_on(day)[DAY_SECONDS] == min(7, ramp.allowance(day))


paces_that_vary = st.builds(
    Pace,
    gap_seconds=st.integers(0, 86_400),
    minute_limit=st.none() | st.integers(1, 1_000_000),
    hourly_limit=st.none() | st.integers(1, 1_000_000),
    daily_limit=st.none() | st.integers(1, MOST_MESSAGES),
)


@pytest.mark.parametrize(
    "wrong",
    [
        {"window": {"days": []}},
        {"window": {"days": [1, 1]}},
        {"window": {"days": [7]}},
        {"window": {"days": [1], "opens": 600, "closes": 600}},
        {"window": {"days": [1], "opens": -1}},
        {"ramp_up": {"first_day": 0}},
        {"ramp_up": {"first_day": 5, "factor": 0.5}},
        {"domain_limits": [{"domain": "a b.example", "hourly": 1}]},
        {
            "domain_limits": [
                {"domain": "quartzmail.example", "hourly": 1},
                {"domain": "@QuartzMail.example", "hourly": 2},
            ]
        },
        {"brake": {"last": 5}},
        {"brake": {"bounce_percent": 0}},
        {"first_slice": {"people": 0}},
        {"quiet_dates": ["2026-02-30"]},
    ],
)
def test_what_is_no_pace_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValueError, match=r"."):
        Pace.model_validate(wrong)


def test_a_domain_is_known_however_it_is_written() -> None:
    assert DomainLimit(domain=" @QuartzMail.example", hourly=60).domain == "quartzmail.example"


@given(paces_that_vary)
def test_half_as_fast_and_twice_as_fast_keep_to_the_bounds(pace: Pace) -> None:
    for changed in (slower(pace), faster(pace)):
        assert Pace.model_validate(changed.model_dump()) == changed
        assert changed.limits.keys() == pace.limits.keys()
    assert slower(pace).gap_seconds >= pace.gap_seconds >= faster(pace).gap_seconds
    assert slower(pace) != pace or (pace.gap_seconds in (0, 86_400) and set(pace.limits.values()) <= {1})
    back = faster(slower(pace))
    for seconds, most in pace.limits.items():
        assert most - 1 <= back.limits[seconds] <= most + 1
