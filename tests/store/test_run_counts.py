"""How far a run is: counts that are kept are what counting would give, at any moment, and stay so when they are folded."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta

import pytest

from tests.support.museum import KEYRING, NOW, Museum, make_museum
from tests.support.plans import statements_of
from tests.support.sending import LATER, NOBODY, OK, claim, kit_of, mark, send
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.watching import desk, dispatch_view, fold_run_counts
from uvarovite.services.responses import leaving as responses
from uvarovite.services.responses.tracking import Seen, record_seen
from uvarovite.services.responses.visits import Visit
from uvarovite.store.database import Database, run_sql

BROWSER = Visit(method="GET", agent="Mozilla/5.0 Firefox/140.0", origin="192.0.2.1")
SCANNER = replace(BROWSER, agent="LinkScan/3.1")


def as_counted(museum: Museum) -> None:
    """Every sum is what counting gives."""
    with museum.database.transaction() as tx:
        kept = run_sql(
            tx,
            """SELECT run_id, batch, state, sum(n) AS n FROM run_count GROUP BY 1, 2, 3 HAVING sum(n) <> 0
                ORDER BY 1, 2, 3""",
        )
        counted = run_sql(
            tx, "SELECT run_id, first_batch, state, count(*) AS n FROM delivery GROUP BY 1, 2, 3 ORDER BY 1, 2, 3"
        )
        people = run_sql(
            tx,
            """SELECT run_id, kind, count(DISTINCT delivery_id) AS n FROM response_event WHERE machine_rule IS NULL
                GROUP BY 1, 2 ORDER BY 1, 2""",
        )
        told = run_sql(
            tx,
            "SELECT run_id, kind, sum(n) AS n FROM response_count WHERE kind <> 'machine' GROUP BY 1, 2 ORDER BY 1, 2",
        )
    assert [tuple(row) for row in kept] == [tuple(row) for row in counted]
    assert [tuple(row) for row in told] == [tuple(row) for row in people]


def token(museum: Museum, run_id: int, contact_no: str, purpose: Purpose) -> str:
    return sign_token(Token(purpose=purpose, delivery_id=museum.delivery_id(run_id, contact_no)), KEYRING)


@pytest.fixture
def moments(database: Database) -> tuple[Museum, int, Iterator[str]]:
    """A run to which all that there is happens, step by step."""
    museum = make_museum(database, batch_size=2, gap_seconds=60)
    run_id = museum.release()

    def happen() -> Iterator[str]:
        kit = kit_of(museum, run_id)
        first = claim(museum, "first")
        assert first is not None
        yield "claimed"
        send(museum, first, kit, LATER)
        yield "told to come back"
        later = NOW + timedelta(minutes=2)
        second = claim(museum, "second", later)
        assert second is not None
        mark(museum, second, kit, now=later)
        yield "in hand"
        sending.recover(database, later + timedelta(minutes=1))
        yield "lost"
        leaving = token(museum, run_id, "M-05", Purpose.UNSUBSCRIBE)
        responses.leave_topic(database, leaving, BROWSER, channel="page", keyring=KEYRING, now=later)
        yield "left"
        once_more = NOW + timedelta(minutes=20)
        while (batch := claim(museum, "again", once_more)) is not None:
            send(museum, batch, kit, NOBODY if batch.number % 2 else OK, once_more)
            once_more += timedelta(minutes=1)
        yield "sent"
        reader = next(who for who, state in museum.states(run_id).items() if state == "accepted")
        opened, at = museum.delivery_id(run_id, reader), once_more + timedelta(hours=1)
        for agents in ((BROWSER, BROWSER), (SCANNER,), (BROWSER, SCANNER)):
            record_seen(database, [Seen(opened, None, one.method, one.agent, at) for one in agents])
        yield "opened"

    return museum, run_id, happen()


def test_what_is_kept_is_what_counting_would_give(
    moments: tuple[Museum, int, Iterator[str]], monkeypatch: pytest.MonkeyPatch
) -> None:
    museum, run_id, steps = moments
    monkeypatch.setattr("uvarovite.store.delivery.counts.FOLD_FROM", 0)
    as_counted(museum)
    for step in steps:
        as_counted(museum)
        shown = dispatch_view(museum.database, SYSTEM, run_id, NOW)
        assert sum(shown.states.values()) == shown.planned == 5, step
        assert sum(cell.size for cell in shown.batches) == 5
        curve = [point.out for point in shown.accepted_curve]
        assert curve == sorted(curve)
        assert [0, *curve][-1] == shown.states.get("accepted", 0)
        [now] = desk(museum.database, SYSTEM, NOW).runs
        assert (now.accepted, now.planned) == (shown.states.get("accepted", 0), 5)
        assert sum(line.people for line in shown.troubles) == sum(
            shown.states.get(state, 0) for state in ("deferred", "refused", "unknown")
        )
        fold_run_counts(museum.database)
        as_counted(museum)
        assert dispatch_view(museum.database, SYSTEM, run_id, NOW) == shown, step
    assert shown.responses == {
        "opened": 1, "clicked": 0, "replied": 0, "left": 1, "bounced": 0, "complained": 0, "machine_events": 2,
    }  # fmt: skip
    assert {line.words for line in shown.troubles} >= {"the worker stopped before the answer"}
    assert shown.state == "ended"


def test_nothing_is_counted_when_somebody_looks(museum: Museum) -> None:
    run_id = museum.release()
    with statements_of(museum.database) as told:
        dispatch_view(museum.database, SYSTEM, run_id, NOW)
        desk(museum.database, SYSTEM, NOW)
    assert told
    assert not [one for one in told if "FROM delivery" in one or "FROM response_event" in one]
