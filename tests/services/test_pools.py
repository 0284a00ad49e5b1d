"""Pools of relays: which relay a batch is claimed for, and what may be changed while runs go."""

import itertools
from datetime import datetime, timedelta

import pytest

from tests.support.museum import KEYRING, NOW, SECRET, Museum, make_museum
from tests.support.sending import OK, claim, mark, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import Pace
from uvarovite.core.delivery.troubles import relay_trouble
from uvarovite.services.delivery import dispatch, sending
from uvarovite.services.delivery.kits import load_run_kit
from uvarovite.services.delivery.sending import ClaimedBatch
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.organisation.pools import remove_pool, save_pool
from uvarovite.services.organisation.relays import RelayChange, RelayView, remove_relay, save_relay
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import Database, run_sql
from uvarovite.store.delivery import permits

TROUBLE = relay_trouble("nothing_listens", where="127.0.0.1:25")


@pytest.fixture
def pooled(database: Database) -> Museum:
    """The museum with a relay and its reserve, a batch for each of five people."""
    return make_museum(database, batch_size=1, relays=2)


def relays(museum: Museum) -> list[RelayView]:
    return [relay for pool in vocabulary(museum.database, SYSTEM).pools for relay in pool.relays]


def change(relay: RelayView, **changed: object) -> RelayChange:
    kept = {key: getattr(relay, key) for key in RelayChange.__dataclass_fields__ if key not in ("password", "revision")}
    return RelayChange(**{**kept, "password": None, **changed})  # type: ignore[arg-type]


def save(museum: Museum, relay: RelayView, **changed: object) -> RelayView:
    return save_relay(museum.database, SYSTEM, relay.id, change(relay, **changed), secret=SECRET)


LEASES = itertools.count()


def claimed(museum: Museum, now: datetime = NOW) -> ClaimedBatch | None:
    return claim(museum, f"lease {next(LEASES)}", now)


def carrier_of(batch: ClaimedBatch | None) -> int:
    assert batch is not None
    return batch.relay_id


def send(museum: Museum, batch: ClaimedBatch, now: datetime = NOW) -> None:
    """All of a batch goes out through the relay that it was claimed for."""
    kit = load_run_kit(museum.database, batch.run_id, batch.relay_id, keyring=KEYRING, secret=SECRET)
    settle(museum, batch, kit, mark(museum, batch, kit, now=now).marked, OK, now=now)
    sending.give_back(museum.database, batch, now=now)


def test_the_reserve_carries_while_the_first_rests_and_one_batch_tries_the_first_again(pooled: Museum) -> None:
    main, reserve = (one.id for one in relays(pooled))
    run_id = pooled.release()
    first = claimed(pooled)
    assert carrier_of(first) == main
    assert first is not None
    sending.rest_relay(pooled.database, main, TROUBLE, NOW)
    sending.give_back(pooled.database, first, now=NOW)
    second = claimed(pooled)
    assert carrier_of(second) == reserve
    # It is no trouble of the run while one of the pool carries.
    view = dispatch_view(pooled.database, SYSTEM, run_id, NOW)
    assert view.trouble is None
    assert [(one.name, one.doing) for one in view.pool.relays] == [
        ("Main relay", "rests"),
        ("Reserve relay", "carries"),
    ]
    assert view.pool.relays[0].trouble == TROUBLE.message
    assert second is not None
    send(pooled, second)

    later = NOW + timedelta(minutes=1)
    tried = claimed(pooled, later)
    assert carrier_of(tried) == main
    assert carrier_of(claimed(pooled, later)) == reserve
    assert tried is not None
    send(pooled, tried, later)
    # It has answered: it carries again, and nobody stands in for it.
    assert carrier_of(claimed(pooled, later)) == main
    with pooled.database.transaction() as tx:
        told = run_sql(tx, "SELECT relay_id FROM attempt ORDER BY id")
        assert [row.relay_id for row in told] == [reserve, main]

    sending.rest_relay(pooled.database, main, TROUBLE, later)
    sending.rest_relay(pooled.database, reserve, TROUBLE, later)
    assert claimed(pooled, later) is None
    assert dispatch_view(pooled.database, SYSTEM, run_id, later).trouble == TROUBLE.message


def test_a_batch_that_went_nowhere_leaves_no_gap_behind_it(pooled: Museum) -> None:
    pooled.change(pace=Pace(batch_size=1, gap_seconds=600))
    pooled.release()
    main, reserve = (one.id for one in relays(pooled))
    batch = claimed(pooled)
    assert batch is not None
    assert claimed(pooled) is None
    sending.rest_relay(pooled.database, main, TROUBLE, NOW)
    sending.give_back(pooled.database, batch, now=NOW)
    other = claimed(pooled)
    assert carrier_of(other) == reserve
    assert other is not None
    send(pooled, other)
    assert claimed(pooled) is None
    assert claimed(pooled, NOW + timedelta(seconds=600)) is not None


def test_load_is_spread_by_what_each_has_left_and_each_keeps_its_own_limit(pooled: Museum) -> None:
    main, other = relays(pooled)
    save(pooled, main, hourly_limit=1)
    save(pooled, other, place=1, hourly_limit=3)
    run_id = pooled.release()
    went = []
    for _ in range(4):
        batch = claimed(pooled)
        assert batch is not None
        went.append(batch.relay_id)
        send(pooled, batch)
    assert sorted(went) == [main.id, *[other.id] * 3]
    assert went[:2] == [other.id, other.id]
    # Both are full: whoever marks is told so, and from then on nothing is claimed until there is room.
    last = claimed(pooled)
    assert last is not None
    kit = load_run_kit(pooled.database, run_id, last.relay_id, keyring=KEYRING, secret=SECRET)
    group = mark(pooled, last, kit)
    assert group.relay_full is not None
    assert group.relay_full == group.wait
    sending.give_back(pooled.database, last, now=NOW)
    for relay in (main, other):
        sending.relay_is_full(pooled.database, relay.id, group.relay_full, NOW)
    assert claimed(pooled) is None
    assert sending.next_due(pooled.database, NOW) == group.relay_full
    assert {one.doing for one in dispatch_view(pooled.database, SYSTEM, run_id, NOW).pool.relays} == {"full"}
    # Who raises a limit does not wait.
    save(pooled, main, hourly_limit=10)
    assert carrier_of(claimed(pooled)) == main.id


def test_the_campaigns_own_limit_is_no_fullness_of_a_relay(pooled: Museum) -> None:
    pooled.change(pace=Pace(batch_size=1, gap_seconds=0, hourly_limit=1))
    run_id = pooled.release()
    batch = claimed(pooled)
    assert batch is not None
    send(pooled, batch)
    following = claimed(pooled)
    assert following is not None
    kit = load_run_kit(pooled.database, run_id, following.relay_id, keyring=KEYRING, secret=SECRET)
    group = mark(pooled, following, kit)
    assert group.left
    assert group.relay_full is None


def test_a_forecast_goes_by_all_that_share_and_by_no_reserve(pooled: Museum) -> None:
    main, reserve = relays(pooled)
    save(pooled, main, hourly_limit=2)
    save(pooled, reserve, hourly_limit=2)
    pooled.change(pace=Pace(batch_size=50, gap_seconds=0))

    def hours() -> int:
        forecast = pooled.view().forecast
        assert forecast is not None
        assert forecast.end is not None
        return round((forecast.end - NOW) / timedelta(hours=1))

    assert hours() == 2
    save(pooled, relays(pooled)[1], place=1)
    assert hours() == 1


def test_the_plan_stays_what_it_was_while_the_reserve_carries(pooled: Museum) -> None:
    main, reserve = relays(pooled)
    save(pooled, main, hourly_limit=5)
    save(pooled, reserve, hourly_limit=1)
    run_id = pooled.release()
    planned = dispatch_view(pooled.database, SYSTEM, run_id, NOW).planned_curve
    sending.rest_relay(pooled.database, main.id, TROUBLE, NOW)
    view = dispatch_view(pooled.database, SYSTEM, run_id, NOW)
    assert view.planned_curve == planned
    # What is expected goes by the one that carries.
    assert view.expected is not None
    assert view.expected.end is not None
    assert view.expected.end - NOW > timedelta(hours=3)


def test_a_relay_that_is_changed_or_removed_in_mid_run_is_left_by_whoever_sends_through_it(pooled: Museum) -> None:
    main, reserve = relays(pooled)
    run_id = pooled.release()
    batch = claimed(pooled)
    assert batch is not None
    assert sending.going(pooled.database, [batch]) == {batch.lease_token}
    save(pooled, main, connections=2)
    assert sending.going(pooled.database, [batch]) == set()
    # What was marked is still answered for, and those not sent go with the new settings.
    sending.give_back(pooled.database, batch, now=NOW)
    again = claimed(pooled)
    assert again is not None
    assert again.relay_revision == batch.relay_revision + 1

    remove_relay(pooled.database, SYSTEM, main.id)
    assert sending.going(pooled.database, [again]) == set()
    send(pooled, again)
    assert carrier_of(claimed(pooled)) == reserve.id
    with pooled.database.transaction() as tx:
        assert permits.limits_of(tx, [permits.relay_scope(main.id)]) == {permits.relay_scope(main.id): {}}
    with pytest.raises(Conflict, match="no other is in its pool"):
        remove_relay(pooled.database, SYSTEM, reserve.id)
    elsewhere = save_pool(pooled.database, SYSTEM, None, "Elsewhere")
    with pytest.raises(Conflict, match="no other is in its pool"):
        save(pooled, reserve, pool_id=elsewhere)
    dispatch.stop(pooled.database, SYSTEM, run_id, NOW)
    remove_relay(pooled.database, SYSTEM, reserve.id)
    # The past still knows its names, and a name is free again.
    assert dispatch_view(pooled.database, SYSTEM, run_id, NOW).pool.relays == []
    made = save_relay(pooled.database, SYSTEM, None, change(main, pool_id=elsewhere), secret=SECRET)
    assert (made.name, made.pool_id) == ("Main relay", elsewhere)


def test_a_pool_without_relays_stops_a_release_and_can_be_removed(pooled: Museum) -> None:
    for relay in relays(pooled):
        remove_relay(pooled.database, SYSTEM, relay.id)
    assert "no_relay" in {check.code for check in pooled.view().checks if check.blocking}
    with pytest.raises(ServiceRefusal, match="Choose the relays"):
        pooled.release()
    remove_pool(pooled.database, SYSTEM, pooled.pool_id)
    assert pooled.view().pool_id is None
    assert vocabulary(pooled.database, SYSTEM).pools == []
    with pytest.raises(NotFound):
        save_pool(pooled.database, SYSTEM, pooled.pool_id, "Back again")
    with pytest.raises(BadInput, match="not there any more"):
        pooled.change(pool_id=pooled.pool_id)


def test_whoever_says_nothing_of_its_place_leaves_it_where_it_is(pooled: Museum) -> None:
    _, reserve = relays(pooled)
    saved = save(pooled, reserve, place=None, pool_id=None)
    assert (saved.place, saved.pool_id) == (2, pooled.pool_id)


def test_a_relay_is_changed_by_one_at_a_time(pooled: Museum) -> None:
    main, _ = relays(pooled)
    theirs = save(pooled, main, connections=2, revision=main.revision)
    with pytest.raises(Conflict, match="Somebody else changed this relay"):
        save(pooled, main, connections=9, revision=main.revision)
    assert save(pooled, theirs, connections=3, revision=theirs.revision).connections == 3


def test_names_are_taken_once_and_a_pool_with_relays_stays(pooled: Museum) -> None:
    main, reserve = relays(pooled)
    with pytest.raises(BadInput, match="already"):
        save(pooled, main, name=reserve.name)
    with pytest.raises(BadInput, match="already"):
        save_pool(pooled.database, SYSTEM, None, "Museum mail")
    with pytest.raises(BadInput, match="needs a name"):
        save_pool(pooled.database, SYSTEM, None, "  ")
    with pytest.raises(Conflict, match="There are relays in this pool"):
        remove_pool(pooled.database, SYSTEM, pooled.pool_id)
    with pytest.raises(BadInput, match="which pool"):
        save_relay(pooled.database, SYSTEM, None, change(main, name="Third", pool_id=None), secret=SECRET)


def test_attempts_are_as_many_as_was_set(pooled: Museum) -> None:
    main, _ = relays(pooled)
    for attempts, delays in ((3, [15, 30]), (5, [15, 30, 3_600, 14_400]), (1, []), (3, [300, 900])):
        assert save(pooled, main, attempts=attempts).attempts == attempts
        with pooled.database.transaction() as tx:
            assert run_sql(tx, "SELECT retry_delays_seconds AS told FROM relay WHERE id = :id", {"id": main.id})[
                0
            ].told == (delays)
