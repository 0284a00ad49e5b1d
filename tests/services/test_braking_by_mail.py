"""What comes back by mail brakes a run as the relays' own answers do: complaints, and bounces that come later."""

from datetime import timedelta

import pytest

from tests.services.test_pacing import START, Winding, museum_of
from tests.support.museum import KEYRING
from tests.support.post import complaint, failure
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import Brake, FirstSlice, Pace
from uvarovite.core.responses import TokenWriter, return_address
from uvarovite.services.delivery import dispatch
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.services.responses.inbound import act_on_next, take_in
from uvarovite.store.database import Database, run_sql


def comes_back(worker: Winding, raw: str, count: int, *, skip: int = 0) -> None:
    """So many of those who were sent to write so; each message is another."""
    database = worker.museum.database
    with database.transaction() as tx:
        sql = "SELECT DISTINCT delivery_id FROM attempt WHERE run_id = :run ORDER BY 1 LIMIT :n OFFSET :skip"
        rows = run_sql(tx, sql, {"run": worker.run_id, "n": count, "skip": skip})
    for row in rows:
        to = return_address(TokenWriter(KEYRING), row.delivery_id, "back.skarnmuseum.example")
        message = raw.replace("FW", f"FW {row.delivery_id}").encode()
        take_in(database, raw=message, sender="", recipients=[to], now=worker.now)
    while act_on_next(database, keyring=KEYRING, now=worker.now):
        pass


def view(worker: Winding) -> DispatchView:
    return dispatch_view(worker.museum.database, SYSTEM, worker.run_id, worker.now)


@pytest.mark.parametrize(
    ("raw", "brake", "words"),
    [
        (
            complaint("Subject: x\n\nDear Ada"),
            Brake(last=100, bounce_percent=None, refused_percent=None, complaint_percent=2),
            "2 of the last 40 people who were written to complained; the brake is at 2 % of 100.",
        ),
        (
            failure("Subject: x\n\nDear Ada", address="unknown@quartzmail.example"),
            Brake(last=100, bounce_percent=2, complaint_percent=None),
            "2 of the last 40 answers say that the address is no good; the brake is at 2 % of 100.",
        ),
    ],
    ids=["complaints", "bounces"],
)
def test_a_run_pauses_when_enough_of_it_comes_back_by_mail(
    database: Database, raw: str, brake: Brake, words: str
) -> None:
    museum = museum_of(database, Pace(batch_size=20, gap_seconds=600, brake=brake))
    worker = Winding(museum, museum.release(START), START)
    worker.go(until=START + timedelta(minutes=15))
    assert len(worker.went) == 40
    comes_back(worker, raw, 1)
    assert view(worker).state == "going"
    comes_back(worker, raw, 1, skip=1)
    assert (view(worker).state, view(worker).brake) == ("paused", words)
    worker.go(until=START + timedelta(days=1))
    assert len(worker.went) == 40
    # Somebody has looked, and lets it go on: what was seen brakes it no more, whatever else comes of those.
    dispatch.go_on(database, SYSTEM, worker.run_id, worker.now)
    comes_back(worker, raw, 3, skip=2)
    assert view(worker).state == "going"
    worker.go()
    assert view(worker).state == "ended"
    # What comes after the end pauses nothing.
    comes_back(worker, raw, 30, skip=100)
    assert view(worker).state == "ended"


def test_a_first_slice_is_judged_by_what_came_back_of_it_until_then(database: Database) -> None:
    pace = Pace(
        batch_size=20, gap_seconds=60, first_slice=FirstSlice(people=20, wait_minutes=30, bounce_percent=10), brake=None
    )
    museum = museum_of(database, pace)
    worker = Winding(museum, museum.release(START), START)
    worker.go(until=START + timedelta(minutes=20))
    comes_back(worker, failure("Subject: x\n\nDear Ada", address="unknown@quartzmail.example"), 2)
    worker.go(until=START + timedelta(hours=2))
    assert (view(worker).state, len(worker.went)) == ("paused", 20)
    assert "2 of the first 20 messages bounced (10.0 %)" in (view(worker).brake or "")
