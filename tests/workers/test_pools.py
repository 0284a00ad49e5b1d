"""Fail-over with real lines: a relay that dies in mid-run leaves nobody behind, and nobody gets anything twice."""

from collections import Counter
from dataclasses import dataclass

import pytest

from tests.support.museum import Museum, make_museum
from tests.support.relays import Script
from tests.support.working import ended, work
from uvarovite.store.database import Database, change_sql, run_sql

PEOPLE = 60


@dataclass
class Dying(Script):
    """Takes so many messages; then it drops every line, and greets nobody any more."""

    takes: int = 10

    async def greet(self, number: int) -> str:
        return "421 4.3.2 Going down" if len(self.messages) >= self.takes else self.greeting

    async def hears(self, line: bytes) -> bool:
        return len(self.messages) < self.takes or line == b"."


@pytest.fixture
def pooled(database: Database) -> Museum:
    """The museum with two relays and 60 people in batches of ten."""
    rows = "\n".join(f"P-{n},p{n}@slatepost.example" for n in range(PEOPLE))
    return make_museum(database, people=f"Contact no.,E-mail address\n{rows}\n", batch_size=10, relays=2)


def receivers(*scripts: Script) -> Counter[bytes]:
    return Counter(
        line for script in scripts for raw in script.messages for line in raw.splitlines() if line.startswith(b"To:")
    )


def test_a_reserve_takes_over_in_mid_run_and_the_trouble_takes_nobodys_attempt(pooled: Museum) -> None:
    main, reserve = Dying(), Script()
    run_id = pooled.release()
    view = work(pooled, [main, reserve], run_id, ended)
    assert view.states == {"accepted": PEOPLE}
    assert set(receivers(main, reserve).values()) == {1}
    # Several lines may be at their last message when it begins to die.
    taken = len(main.messages)
    assert main.takes <= taken < main.takes + 4
    assert view.trouble is None
    assert view.pool.relays[0].trouble is not None
    with pooled.database.transaction() as tx:
        told = run_sql(tx, "SELECT relay_id, count(*) AS n, max(number) AS last FROM attempt GROUP BY 1 ORDER BY 1")
        assert [(row.relay_id, row.n, row.last) for row in told] == [(1, taken, 1), (2, PEOPLE - taken, 1)]


def test_relays_at_one_place_share_a_run(pooled: Museum) -> None:
    with pooled.database.transaction() as tx:
        change_sql(tx, "UPDATE relay SET place = 1")
        change_sql(tx, "DELETE FROM send_limit")
    first, second = Script(), Script()
    view = work(pooled, [first, second], pooled.release(), ended)
    assert view.states == {"accepted": PEOPLE}
    assert set(receivers(first, second).values()) == {1}
    assert min(len(first.messages), len(second.messages)) >= 10
