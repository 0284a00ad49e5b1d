"""Permits: what counts against an hourly limit, and from when on it does not."""

from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta

import pytest

from tests.support.museum import NOW, Museum
from tests.support.processes import until
from uvarovite.store.database import Database, change_sql, run_sql
from uvarovite.store.delivery import permits

HOUR, SECOND = timedelta(hours=1), timedelta(seconds=1)


class Desk:
    """Permits of one relay and one run."""

    def __init__(self, museum: Museum, run_id: int) -> None:
        self.database: Database = museum.database
        self.relay_id, self.run_id = museum.relay_id, run_id

    def take(self, token: str, wanted: int, limit: int | None, at: datetime, run_limit: int | None = None) -> int:
        """How many a lease gets."""
        with self.database.transaction() as tx:
            granted, _ = permits.take_permits(
                tx, relay_id=self.relay_id, run_id=self.run_id, lease_token=token, wanted=wanted, relay_limit=limit,
                run_limit=run_limit, now=at,
            )  # fmt: skip
        return granted

    def close(self, token: str, at: datetime) -> None:
        with self.database.transaction() as tx:
            permits.close_permit(tx, token, at)

    def trim(self, token: str, used: int) -> None:
        with self.database.transaction() as tx:
            permits.trim_permit(tx, token, used)

    def used(self, at: datetime) -> int:
        with self.database.transaction() as tx:
            return permits.used_in_hour(tx, self.relay_id, at)

    def anybody_waits(self) -> bool:
        """Does a transaction wait for another one's lock? (Who is active is looked up once for a transaction.)"""
        with self.database.transaction() as tx:
            sql = "SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
            return bool(run_sql(tx, sql))

    def kept(self) -> dict[str, tuple[int, bool]]:
        """What is kept of each lease: how many, and whether it is closed."""
        with self.database.transaction() as tx:
            rows = run_sql(tx, "SELECT lease_token, count AS messages, closed_at FROM send_permit")
        return {row.lease_token: (row.messages, row.closed_at is not None) for row in rows}


@pytest.fixture
def desk(museum: Museum) -> Desk:
    return Desk(museum, museum.release())


def test_two_workers_at_once_never_count_the_same_room_twice(desk: Desk) -> None:
    with ThreadPoolExecutor(1) as other, desk.database.transaction() as tx:
        first, _ = permits.take_permits(
            tx, relay_id=desk.relay_id, run_id=desk.run_id, lease_token="a", wanted=4, relay_limit=5, run_limit=None,
            now=NOW,
        )  # fmt: skip
        second = other.submit(desk.take, "b", 4, 5, NOW)
        # It waits for the first one's transaction, whatever it would have seen without.
        until(desk.anybody_waits, "the second worker to wait")
        assert not second.done()
        tx.commit()
        assert (first, second.result(timeout=30)) == (4, 1)


def test_a_permit_that_is_open_counts_however_old_it_is(desk: Desk) -> None:
    assert desk.take("stalls", 3, 3, NOW) == 3
    assert desk.take("b", 1, 3, NOW + 5 * HOUR) == 0
    assert desk.used(NOW + 5 * HOUR) == 3
    desk.close("stalls", NOW + 5 * HOUR)
    # From its end on it counts for an hour, and not a moment longer.
    assert desk.take("b", 1, 3, NOW + 6 * HOUR - SECOND) == 0
    assert desk.used(NOW + 6 * HOUR - SECOND) == 3
    assert desk.used(NOW + 6 * HOUR) == 0
    assert desk.take("b", 5, 3, NOW + 6 * HOUR) == 3


def test_what_goes_through_another_relay_takes_no_room_of_this_one(desk: Desk) -> None:
    with desk.database.transaction() as tx:
        change_sql(
            tx,
            """INSERT INTO relay OVERRIDING SYSTEM VALUE SELECT (copied.row).* FROM (
                SELECT jsonb_populate_record(NULL::relay, to_jsonb(relay) || '{"id": 99, "name": "Other"}') AS row
                FROM relay LIMIT 1) AS copied""",
        )
        for token, closed_at in (("open", None), ("closed", NOW)):
            told = {"run": desk.run_id, "token": token, "at": NOW, "closed": closed_at}
            change_sql(
                tx,
                """INSERT INTO send_permit (relay_id, run_id, lease_token, count, taken_at, closed_at)
                    VALUES (99, :run, :token, 3, :at, :closed)""",
                told,
            )
    assert desk.used(NOW) == 0
    assert desk.take("ours", 5, 4, NOW) == 4


def test_a_runs_own_limit_is_taken_beside_the_relays(desk: Desk) -> None:
    assert desk.take("a", 10, None, NOW) == 10
    assert desk.take("b", 10, 12, NOW) == 2
    assert desk.take("c", 10, 100, NOW, run_limit=15) == 3
    assert desk.take("d", 10, 100, NOW, run_limit=15) == 0
    assert desk.kept().keys() == {"a", "b", "c"}


def test_a_permit_is_lowered_while_it_is_open_and_never_raised(desk: Desk) -> None:
    desk.take("a", 5, 10, NOW)
    desk.trim("a", 7)
    assert desk.kept() == {"a": (5, False)}
    desk.trim("a", 2)
    assert desk.kept() == {"a": (2, False)}
    desk.close("a", NOW)
    desk.trim("a", 1)
    assert desk.kept() == {"a": (2, True)}
    # One under which nothing went out leaves nothing behind; another's is not touched.
    desk.take("b", 5, 10, NOW)
    desk.trim("b", 0)
    desk.close("b", NOW)
    assert desk.kept() == {"a": (2, True)}


def test_a_permit_is_closed_once(desk: Desk) -> None:
    desk.take("a", 5, 10, NOW)
    desk.close("a", NOW)
    desk.close("a", NOW + HOUR)
    assert desk.used(NOW + HOUR) == 0


def test_permits_are_forgotten_when_they_count_no_more_and_open_ones_never(desk: Desk) -> None:
    desk.take("open", 1, 10, NOW)
    desk.take("closed", 1, 10, NOW)
    desk.close("closed", NOW)

    def forget(at: datetime) -> int:
        with desk.database.transaction() as tx:
            return permits.forget_old_permits(tx, at)

    assert forget(NOW + 2 * HOUR) == 0
    assert forget(NOW + 2 * HOUR + SECOND) == 1
    assert forget(NOW + 100 * HOUR) == 0
    assert desk.kept() == {"open": (1, False)}
