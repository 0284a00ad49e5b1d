"""Relays in a pool: who carries, who stands by, and what several let through together."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.campaigns import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS, WINDOWS
from uvarovite.core.delivery.relay_pools import Doing, RelayStanding, carry_at, doings, shared_limits

NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)
LATER = NOW + timedelta(minutes=5)
WELL = RelayStanding(
    id=1, revision=1, pool_id=1, place=1, rests=0, rests_until=None, full_until=None, has_batch=False
)  # fmt: skip

moments = st.one_of(st.none(), st.integers(-300, 300).map(lambda seconds: NOW + timedelta(seconds=seconds)))


@st.composite
def pools(draw: st.DrawFn) -> list[RelayStanding]:
    """Relays in up to three pools, in any state."""
    return [
        RelayStanding(
            id=number,
            revision=1,
            pool_id=draw(st.integers(1, 3)),
            place=draw(st.integers(1, 4)),
            rests=draw(st.integers(0, 2)),
            rests_until=draw(moments),
            full_until=draw(moments),
            has_batch=draw(st.booleans()),
        )
        for number in range(1, draw(st.integers(1, 7)) + 1)
    ]


def test_relays_at_one_place_share_and_the_next_stands_by_until_all_before_rest() -> None:
    first, second = WELL, replace(WELL, id=2)
    reserve = replace(WELL, id=3, place=2)
    told = doings([first, second, reserve], NOW)
    assert told == {1: Doing.CARRIES, 2: Doing.CARRIES, 3: Doing.STANDS_BY}
    resting = replace(first, rests=1, rests_until=LATER)
    assert doings([resting, second, reserve], NOW) == {1: Doing.RESTS, 2: Doing.CARRIES, 3: Doing.STANDS_BY}
    also = replace(resting, id=2)
    assert doings([resting, also, reserve], NOW) == {1: Doing.RESTS, 2: Doing.RESTS, 3: Doing.CARRIES}
    # Having used up its limits is no trouble: the reserve is kept for that.
    full = replace(first, full_until=LATER)
    assert doings([full, reserve], NOW) == {1: Doing.FULL, 3: Doing.STANDS_BY}
    assert carry_at([full, reserve], NOW) == {1: LATER}


def test_one_batch_tries_a_relay_that_has_rested_and_the_others_do_not_wait_for_it() -> None:
    rested, reserve = replace(WELL, rests=2, rests_until=NOW), replace(WELL, id=2, place=2)
    assert doings([rested, reserve], NOW) == {1: Doing.CARRIES, 2: Doing.STANDS_BY}
    tried = replace(rested, has_batch=True)
    assert doings([tried, reserve], NOW) == {1: Doing.TRIED, 2: Doing.CARRIES}
    # Alone in its pool, the others wait to hear of it.
    assert doings([tried], NOW) == {1: Doing.TRIED}
    assert carry_at([tried], NOW) == {}


@given(relays=pools())
def test_whoever_carries_is_well_and_nobody_before_them_is(relays: list[RelayStanding]) -> None:
    told = doings(relays, NOW)
    for relay in relays:
        before = [one for one in relays if one.pool_id == relay.pool_id and one.place < relay.place]
        well_before = any(told[one.id] in (Doing.CARRIES, Doing.FULL) for one in before)
        match told[relay.id]:
            case Doing.CARRIES | Doing.FULL as doing:
                assert not well_before
                assert (doing is Doing.FULL) == (relay.full_until is not None and relay.full_until > NOW)
            case Doing.STANDS_BY:
                assert well_before
            case Doing.RESTS:
                assert relay.rests_until is not None
                assert relay.rests_until > NOW
            case Doing.TRIED:
                assert relay.rests
                assert relay.has_batch
    # A pool in which somebody is well has somebody who carries, or has no room.
    for pool in {one.pool_id for one in relays if one.is_well(NOW)}:
        assert {told[one.id] for one in relays if one.pool_id == pool} & {Doing.CARRIES, Doing.FULL}
        assert carry_at(relays, NOW)[pool] >= NOW


limits = st.dictionaries(st.sampled_from(WINDOWS), st.integers(1, 100_000), max_size=3)


@given(told=st.lists(limits, min_size=1, max_size=4))
def test_several_relays_let_through_what_each_lets_through(told: list[dict[int, int]]) -> None:
    shared = shared_limits(told)
    if not all(told):
        assert shared == {}
        return
    assert set(shared) == {seconds for one in told for seconds in one}
    for seconds, most in shared.items():
        # No more than any relay's own limit for that window allows, and no less than all of those together.
        own = [one[seconds] for one in told if seconds in one]
        assert most >= max(min(min(one.values()), one.get(seconds, min(one.values()))) for one in told)
        if len(own) == len(told):
            assert most <= sum(own)
    if len(told) == 1:
        assert all(shared[seconds] <= told[0][seconds] for seconds in shared)


def test_a_relay_without_a_limit_for_a_window_lets_through_what_its_others_do() -> None:
    assert shared_limits([{MINUTE_SECONDS: 10}, {HOUR_SECONDS: 1_000}]) == {MINUTE_SECONDS: 1_010, HOUR_SECONDS: 1_600}
    assert shared_limits([{HOUR_SECONDS: 100, DAY_SECONDS: 600}, {HOUR_SECONDS: 50}]) == {
        HOUR_SECONDS: 150,
        DAY_SECONDS: 1_800,
    }
