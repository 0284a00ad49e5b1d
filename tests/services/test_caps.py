"""Who has reached a cap: what the clearance finds by the runs that it needs to look through, against counting it all."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.support.museum import NOW, Museum
from tests.support.sending import put_there
from uvarovite.core.audiences import Caps
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.store.audiences.earlier_mail import over_cap_sql
from uvarovite.store.database import Transaction, run_sql


@pytest.fixture
def released(museum: Museum) -> Museum:
    """The museum with a run on its way."""
    museum.release()
    return museum


# Two households; a run reaches an address once.
ADDRESS = {1: "x", 2: "x", 3: "y", 4: "z", 5: "z", 6: "w"}
PEOPLE = st.sets(st.integers(1, 6))
CAP = st.none() | st.integers(1, 4)
CAPS = st.builds(Caps, week=CAP, month=CAP, topic_week=CAP, topic_month=CAP)


@dataclass(frozen=True)
class Sent:
    """A run that is over: whom it reached, how many hours ago each, and what it was planned for."""

    people: dict[int, int]
    same_topic: bool
    planned: int

    def reached(self) -> dict[int, int]:
        """The first of each household, with the hours."""
        first = {ADDRESS[who]: who for who in sorted(self.people, reverse=True)}
        return {who: self.people[who] for who in first.values()}

    def ended_at(self) -> datetime:
        return NOW - timedelta(hours=min(self.people.values(), default=0))


RUNS = st.lists(
    st.builds(
        Sent,
        people=st.dictionaries(st.integers(1, 6), st.integers(0, 24 * 34) | st.sampled_from([24 * 7, 24 * 30]), max_size=6),
        same_topic=st.booleans(),
        planned=st.integers(0, 9),
    ),
    max_size=5,
)  # fmt: skip


def _write(tx: Transaction, runs: list[Sent], waiting: set[int], other_topic: int) -> None:
    """The run that was released sends to those who wait; the others are over."""
    run_sql(tx, "DELETE FROM sent_mail; DELETE FROM run WHERE number > 1")
    with put_there(tx):
        run_sql(
            tx,
            "UPDATE delivery SET state = CASE WHEN contact_id = ANY(:waiting) THEN 'waiting' ELSE 'refused' END",
            {"waiting": list(waiting)},
        )
    for number, run in enumerate(runs, start=2):
        run_id = run_sql(
            tx,
            """INSERT INTO run (campaign_id, number, state, topic_id, message_version_id, pool_id, pace, criteria, snapshot,
                    clearance, planned, released_at, next_batch_at, ended_at, brake_after, unknown_decided, signing_keys, is_public)
                SELECT campaign_id, :number, 'ended', coalesce(:topic, topic_id), message_version_id, pool_id, pace,
                    criteria, snapshot, clearance, :planned, released_at, next_batch_at, :ended, 0, 0, '{}', false
                FROM run WHERE number = 1
                RETURNING id""",
            {
                "number": number,
                "topic": None if run.same_topic else other_topic,
                "planned": run.planned,
                "ended": run.ended_at(),
            },
        )[0].id
        for contact_id, hours in run.reached().items():
            run_sql(
                tx,
                "INSERT INTO sent_mail VALUES (:run, :contact, :at, TRUE, :address)",
                {
                    "run": run_id,
                    "contact": contact_id,
                    "at": NOW - timedelta(hours=hours),
                    "address": ADDRESS[contact_id],
                },
            )


def _reached(caps: Caps, runs: list[Sent], waiting: dict[int, str]) -> dict[int | str, str]:
    """The same by counting: the first cap that each person, and each address, has reached."""
    mails: list[tuple[int | str, int, bool]] = []
    for run in runs:
        for who, hours in run.reached().items():
            mails += [(who, hours, run.same_topic), (ADDRESS[who], hours, run.same_topic)]
    for who, address in waiting.items():
        mails += [(who, 0, True), (address, 0, True)]
    told: dict[int | str, str] = {}
    for name, cap in caps.in_force().items():
        days = 7 if name.endswith("week") else 30
        for who in {who for who, _, _ in mails} - set(told):
            had = [
                one
                for one in mails
                if one[0] == who and one[1] < days * 24 and (one[2] or not name.startswith("topic"))
            ]
            if len(had) >= cap:
                told[who] = name
    return told


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(caps=CAPS, runs=RUNS, waiting=PEOPLE)
def test_a_cap_is_found_reached_by_whoever_has_reached_it(
    released: Museum, caps: Caps, runs: list[Sent], waiting: set[int]
) -> None:
    with released.database.transaction() as tx:
        rows = run_sql(tx, "SELECT contact_id, address_folded FROM delivery")
        on_their_way = {row.contact_id: row.address_folded for row in rows if row.contact_id in waiting}
        _write(tx, runs, set(on_their_way), released.topic_id + 1)
        terms = replace(terms_for(tx, topic_id=released.topic_id, now=NOW), caps=caps)
        rows = run_sql(tx, over_cap_sql(terms), dict(terms.parameters())) if caps.in_force() else []
        found = {row.contact_id if row.contact_id is not None else row.address_folded: row.cap for row in rows}
    assert found == _reached(caps, runs, on_their_way)


def test_no_run_is_looked_through_when_there_were_fewer_than_a_cap_allows(released: Museum) -> None:
    with released.database.transaction() as tx:
        terms = terms_for(tx, topic_id=released.topic_id, now=NOW)
    assert len(terms.lately) == 1
    assert replace(terms, caps=Caps(week=2, month=2, topic_week=2)).runs_to_look_through() == []
    assert replace(terms, caps=Caps(week=2, topic_month=1)).runs_to_look_through() == [terms.lately[0].id]
