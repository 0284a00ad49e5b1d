"""Which earlier runs a clearance has to look through."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from uvarovite.core.audiences import SETTLED_LATE, Caps, ClearanceTerms, RunLately

NOW = datetime(2026, 11, 23, 9, tzinfo=UTC)
DAY, MOMENT = timedelta(days=1), timedelta(microseconds=1)


def terms(*ended_at: datetime | None, topic_id: int = 1, **caps: int) -> ClearanceTerms:
    """Runs of topic 1, the later the smaller, numbered from 1."""
    runs = tuple(
        RunLately(id=number, topic_id=1, planned=100 - number, ended_at=at) for number, at in enumerate(ended_at, 1)
    )
    return ClearanceTerms(now=NOW, topic_id=topic_id, lately=runs, caps=Caps(**caps))


@pytest.mark.parametrize(
    ("ended_at", "going"),
    [
        (None, True),
        (NOW, True),
        (NOW - SETTLED_LATE + MOMENT, True),
        (NOW - SETTLED_LATE, False),
        (NOW - 7 * DAY, False),
    ],
)
def test_a_run_may_have_something_in_hand_for_a_day_after_its_end(ended_at: datetime | None, going: bool) -> None:
    assert terms(ended_at).any_going is going
    assert terms(NOW - 30 * DAY, ended_at).any_going is going
    assert not terms().any_going


@pytest.mark.parametrize(("cap", "days"), [("week", 7), ("topic_week", 7), ("month", 30), ("topic_month", 30)])
def test_a_cap_looks_back_over_its_days_and_what_was_settled_late(cap: str, days: int) -> None:
    edge = NOW - days * DAY - SETTLED_LATE
    assert terms(edge + MOMENT, **{cap: 1}).runs_to_look_through() == [1]
    assert terms(edge, **{cap: 1}).runs_to_look_through() == []
    assert terms(None, **{cap: 1}).runs_to_look_through() == [1]


def test_so_few_runs_are_looked_through_as_must_hold_everybody() -> None:
    four = (NOW - DAY,) * 4
    # Whoever was in two of four is in one of any three: the three smallest.
    assert terms(*four, week=2).runs_to_look_through() == [2, 3, 4]
    assert terms(*four, week=4).runs_to_look_through() == [4]
    assert terms(*four, week=5).runs_to_look_through() == []
    assert terms(*four).runs_to_look_through() == []
    # Another topic's runs count for the caps of all mail alone.
    assert terms(*four, topic_id=2, topic_week=1, week=4).runs_to_look_through() == [4]
    assert replace(terms(*four, week=4), lately=()).runs_to_look_through() == []
