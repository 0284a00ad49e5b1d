"""Permits in the database: what counts against limits, for whom, and until when."""

from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta

import pytest

from tests.support.museum import NOW, Museum
from tests.support.processes import until
from uvarovite.core.campaigns import WINDOWS
from uvarovite.store.database import Database, Transaction, run_sql
from uvarovite.store.delivery import permits

HOUR, STRETCH = timedelta(hours=1), timedelta(seconds=30)


class Desk:
    """Permits of one relay and one run."""

    def __init__(self, museum: Museum, run_id: int) -> None:
        self.database: Database = museum.database
        self.relay, self.run = permits.relay_scope(museum.relay_id), permits.run_scope(run_id)

    def limit(self, scope: str, **limits: int) -> None:
        with self.database.transaction() as tx:
            seconds = dict(zip(("minute", "hour", "day"), WINDOWS, strict=True))
            permits.set_limits(tx, scope, {seconds[window]: most for window, most in limits.items()})

    def take_in(self, tx: Transaction, token: str, wanted: int, at: datetime) -> int:
        granted, _ = permits.room_for(tx, (self.relay, self.run), wanted, at)
        if granted:
            permits.open_permits(tx, dict.fromkeys((self.relay, self.run), granted), token)
        return granted

    def take(self, token: str, wanted: int, at: datetime = NOW) -> int:
        """How many a lease gets."""
        with self.database.transaction() as tx:
            return self.take_in(tx, token, wanted, at)

    def close(self, token: str, went_out: int, at: datetime = NOW, broken: int = 0) -> None:
        with self.database.transaction() as tx:
            scopes = (self.relay, self.run)
            gone, lost = dict.fromkeys(scopes, went_out), dict.fromkeys(scopes, broken)
            permits.close_permits(tx, token, went_out=gone, broken=lost, now=at)

    def end(self, token: str, at: datetime) -> None:
        with self.database.transaction() as tx:
            permits.end_lease(tx, token, at)

    def used(self, at: datetime, seconds: int = 3_600) -> int:
        with self.database.transaction() as tx:
            return permits.used_in(tx, self.relay, seconds, at)

    def anybody_waits(self) -> bool:
        """Does a transaction wait for another one's lock? (Who is active is looked up once for a transaction.)"""
        with self.database.transaction() as tx:
            sql = "SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
            return bool(run_sql(tx, sql))


@pytest.fixture
def desk(museum: Museum) -> Desk:
    told = Desk(museum, museum.release())
    told.limit(told.relay)
    return told


def test_two_workers_at_once_never_count_the_same_room_twice(desk: Desk) -> None:
    desk.limit(desk.relay, hour=5)
    with ThreadPoolExecutor(1) as other, desk.database.transaction() as tx:
        first = desk.take_in(tx, "a", 4, NOW)
        second = other.submit(desk.take, "b", 4)
        # It waits for the first one's transaction, whatever it would have seen without.
        until(desk.anybody_waits, "the second worker to wait")
        assert not second.done()
        tx.commit()
        assert (first, second.result(timeout=30)) == (4, 1)


def test_whoever_took_without_a_limit_counts_under_the_one_that_is_set_meanwhile(desk: Desk) -> None:
    with ThreadPoolExecutor(1) as other, desk.database.transaction() as tx:
        assert desk.take_in(tx, "a", 4, NOW) == 4
        setting = other.submit(lambda: desk.limit(desk.relay, minute=5))
        until(desk.anybody_waits, "whoever sets the limit to wait")
        tx.commit()
        setting.result(timeout=30)
    assert desk.take("b", 4) == 1


def test_workers_without_a_limit_wait_for_nobody(desk: Desk) -> None:
    with ThreadPoolExecutor(1) as other, desk.database.transaction() as tx:
        assert desk.take_in(tx, "a", 4, NOW) == 4
        assert other.submit(desk.take, "b", 4).result(timeout=30) == 4


def test_what_is_open_counts_however_old_it_is_and_what_is_answered_for_a_window(desk: Desk) -> None:
    desk.limit(desk.relay, hour=3)
    assert desk.take("stalls", 3) == 3
    late = NOW + 5 * HOUR
    assert desk.take("b", 1, late) == 0
    desk.close("stalls", 3, late)
    assert desk.take("b", 1, late + HOUR - STRETCH) == 0
    assert desk.used(late + HOUR - STRETCH) == 3
    assert desk.used(late + HOUR + STRETCH) == 0
    assert desk.take("b", 5, late + HOUR + STRETCH) == 3


def test_every_window_is_counted_whether_it_is_limited_or_not(desk: Desk) -> None:
    assert desk.take("a", 6) == 6
    desk.close("a", 6)
    desk.limit(desk.relay, minute=100, hour=100, day=8)
    assert desk.take("b", 5, NOW + 2 * HOUR) == 2
    assert (desk.used(NOW + 2 * HOUR, 86_400), desk.used(NOW + 2 * HOUR)) == (8, 2)


def test_a_runs_own_limit_holds_beside_the_relays(desk: Desk) -> None:
    desk.limit(desk.relay, hour=12)
    desk.limit(desk.run, hour=10)
    assert desk.take("a", 20) == 10
    assert desk.take("b", 20) == 0
    desk.limit(desk.run)
    assert desk.take("b", 20) == 2


def test_what_broke_is_given_back_and_a_dead_lease_is_counted(desk: Desk) -> None:
    desk.limit(desk.relay, hour=10)
    assert desk.take("a", 10) == 10
    desk.close("a", went_out=1, broken=4)
    assert desk.take("b", 10) == 4
    late = NOW + 3 * HOUR
    desk.end("a", late)
    desk.end("b", late)
    # One was answered for three hours ago; nine may have gone out until just now.
    assert desk.used(late) == 9
    with desk.database.transaction() as tx:
        assert not run_sql(tx, "SELECT 1 FROM send_open")


def test_counts_are_forgotten_when_no_limit_asks_for_them(desk: Desk) -> None:
    desk.take("a", 2)
    desk.close("a", 2)

    def forget(at: datetime) -> int:
        with desk.database.transaction() as tx:
            return permits.forget_old_counts(tx, at)

    assert forget(NOW) == 0
    assert forget(NOW + 2 * HOUR) == 4
    assert desk.used(NOW + 2 * HOUR, 86_400) == 2
    assert forget(NOW + 30 * HOUR) == 2
