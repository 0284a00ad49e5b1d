"""Whatever is done to people, in whatever order: nobody who closed a door gets mail, and nobody gets one message twice.

Two campaigns of one message, to two audiences, are sent by two workers, of which either may stop at any moment. From the
mark on a message may be out, so that is when the museum is held against the books.
"""

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import initialize, invariant, rule, run_state_machine_as_test

from tests.store.test_run_counts import as_counted
from tests.support.acting import acting
from tests.support.databases import drop_database, make_database
from tests.support.doings import Doings
from tests.support.museum import KEYRING, PUBLIC_URL, Museum
from tests.support.sending import LATER, NO_WORD, OK, claim, give_back, kit_of, mark, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import fold_consent, standing_at
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.delivery.decisions import MAY_GET_AGAIN
from uvarovite.core.delivery.outcomes import Outcome
from uvarovite.services.audiences.clearance import clearance, people_behind
from uvarovite.services.campaigns.again import AgainAsk, again_view, send_again
from uvarovite.services.campaigns.campaigns import get_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.delivery import dispatch, sending
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit
from uvarovite.services.delivery.sending import ClaimedBatch
from uvarovite.services.errors import ServiceRefusal
from uvarovite.store.cluster import Cluster
from uvarovite.store.consent.ledger import events_of
from uvarovite.store.database import Database, run_sql
from uvarovite.store.delivery.queue import LeaseLost

WORKER = st.integers(0, 1)

_numbers = itertools.count(1)


@dataclass(slots=True)
class InHand:
    """What a worker holds: a batch, and what of it was marked. `found_dead`: its lease was taken away meanwhile."""

    batch: ClaimedBatch
    kit: RunKit
    marked: Sequence[MarkedDelivery] | None = None
    found_dead: bool = False


class Delivering(Doings):
    """The books go on: `out` holds each delivery that may be out, by person and folded address, and `again` those of which
    a relay said that it wants them later.
    """

    @initialize()
    def begin_delivering(self) -> None:
        self.hands: dict[int, InHand] = {}
        self.out: dict[int, tuple[int, str]] = {}
        self.again: set[int] = set()

    @rule(campaign=st.integers(0, 1))
    def release(self, campaign: int) -> None:
        self.pass_time()
        campaign_id = self.campaigns[campaign]
        view = get_campaign(self.museum.database, SYSTEM, campaign_id, self.now)
        assert view.clearance is not None
        try:
            release(
                self.museum.database, acting(self.user), campaign_id=campaign_id, revision=view.revision,
                seen_cleared=view.clearance.cleared, seen_message_number=view.message_number or 0, public_url=PUBLIC_URL, keyring=KEYRING, now=self.now,
            )  # fmt: skip
        except ServiceRefusal as fault:
            refused = fault.code
        else:
            refused = None
        # A campaign that is on its way is not released again; else only that there is nobody stands in the way, or that
        # whoever releases it has changed the words and not saved them: then nothing goes, the old words least of all.
        assert refused is not None or not self.writing
        assert refused in (None, "running") or self.writing or view.clearance.cleared == 0

    @rule(worker=WORKER)
    def claim_a_batch(self, worker: int) -> None:
        self.pass_time()
        if worker not in self.hands:
            batch = claim(self.museum, f"{worker} at {self.now}", self.now)
            if batch is not None:
                self.hands[worker] = InHand(batch, kit_of(self.museum, batch.run_id))

    @rule(worker=WORKER)
    def mark(self, worker: int) -> None:
        self.pass_time()
        hand = self.hands.get(worker)
        if hand is None or hand.marked is not None:
            return
        try:
            group = mark(self.museum, hand.batch, hand.kit, now=self.now)
        except LeaseLost:
            assert hand.found_dead
            del self.hands[worker]
            return
        assert not hand.found_dead
        hand.marked = group.marked
        self.hold_against_the_books(group.marked)

    def hold_against_the_books(self, marked: Sequence[MarkedDelivery]) -> None:
        with self.museum.database.transaction() as tx:
            sql = """SELECT delivery.id, contact_id, address_folded, campaign_id FROM delivery
                JOIN run ON run.id = run_id WHERE delivery.id = ANY(:ids)"""
            rows = run_sql(tx, sql, {"ids": [one.id for one in marked]})
        there = self.people()
        for row in rows:
            person, address = row.contact_id, row.address_folded
            assert person in there
            assert person not in self.left
            assert not self.is_shut(person, address)
            assert address not in self.closed | self.erased
            assert row.id not in self.out or row.id in self.again
            others = [whose for delivery, whose in self.out.items() if delivery != row.id]
            # One message for an address, whoever it is that has it by now, and for a person, if they are not two by now.
            assert address not in {one[1] for one in others}
            assert person in self.merged or person not in {one[0] for one in others}
            self.out[row.id] = (person, address)
        self.again -= {row.id for row in rows}

    @rule(worker=WORKER, outcome=st.sampled_from([OK, OK, LATER, NO_WORD]))
    def settle(self, worker: int, outcome: Outcome) -> None:
        self.pass_time()
        hand = self.hands.get(worker)
        if hand is None or hand.marked is None:
            return
        del self.hands[worker]
        try:
            settle(self.museum, hand.batch, hand.kit, hand.marked, outcome, self.now)
        except LeaseLost:
            assert hand.found_dead
            return
        give_back(self.museum, hand.batch, self.now)
        assert not hand.found_dead
        if outcome is LATER:
            self.again |= {one.id for one in hand.marked}

    @rule()
    def find_dead_workers(self) -> None:
        """No worker has been heard of for as long as a lease lasts."""
        self.pass_time()
        sending.recover(self.museum.database, self.now)
        for hand in self.hands.values():
            hand.found_dead = True

    def runs(self, campaign: int) -> list[tuple[int, str]]:
        """(id, state) of a campaign's runs, latest first."""
        with self.museum.database.transaction() as tx:
            sql = "SELECT id, state FROM run WHERE campaign_id = :id ORDER BY number DESC"
            return [(row.id, row.state) for row in run_sql(tx, sql, {"id": self.campaigns[campaign]})]

    @rule(campaign=st.integers(0, 1))
    def stop_a_run(self, campaign: int) -> None:
        self.pass_time()
        for run_id, state in self.runs(campaign)[:1]:
            if state == "going":
                dispatch.stop(self.museum.database, acting(self.user), run_id, self.now)

    @rule(campaign=st.integers(0, 1), faster=st.booleans())
    def change_the_pace(self, campaign: int, faster: bool) -> None:
        self.pass_time()
        for run_id, state in self.runs(campaign)[:1]:
            if state == "going":
                change = dispatch.speed_up if faster else dispatch.slow_down
                change(self.museum.database, acting(self.user), run_id, self.now)

    @rule(campaign=st.integers(0, 1), which=st.integers(0, 3), state=st.sampled_from(MAY_GET_AGAIN))
    def send_again_to_those(self, campaign: int, which: int, state: DeliveryState) -> None:
        self.pass_time()
        runs = self.runs(campaign)
        if which >= len(runs):
            return
        run_id = runs[which][0]
        ask = AgainAsk(run_id=run_id, state=state)
        database, user = self.museum.database, acting(self.user)
        try:
            seen = again_view(database, user, ask, self.now).cleared
            run = send_again(database, user, ask, seen_cleared=seen, keyring=KEYRING, now=self.now)
        except ServiceRefusal:
            return
        with database.transaction() as tx:
            sql = "SELECT id, contact_id, state, decided FROM delivery WHERE run_id = :run"
            before = {row.contact_id: row for row in run_sql(tx, sql, {"run": run_id})}
            now = {row.contact_id for row in run_sql(tx, sql, {"run": run})}
        # Exactly those, and each of them once: somebody has decided about whoever may have it.
        assert now
        assert all(before[person].state == state and before[person].decided == "again" for person in now)
        for person in now:
            self.out.pop(before[person].id, None)

    # ------------------------------------------------------------------ what holds at any time

    @invariant()
    def nobody_who_closed_a_door_is_cleared(self) -> None:
        cleared = people_behind(
            self.museum.database,
            SYSTEM,
            text="everyone",
            topic_id=self.museum.topic_id,
            gate=None,
            after_id=0,
            now=self.now,
        )
        there = self.people()
        for person in cleared:
            assert person.id in there
            assert person.id not in self.left
            assert not self.is_shut(person.id, there[person.id])
            assert there[person.id] not in self.closed | self.erased
        assert len({there[person.id] for person in cleared}) == len(cleared)

    @invariant()
    def everybody_is_cleared_or_held_by_one_gate(self) -> None:
        taken = clearance(self.museum.database, SYSTEM, text="everyone", topic_id=self.museum.topic_id, now=self.now)
        assert taken.matched == len(self.people()) == taken.cleared + sum(gate.held for gate in taken.gates)

    @invariant()
    def nobody_is_cleared_for_an_audience_that_a_hand_took_them_out_of(self) -> None:
        asked = {"text": 'town is "Skarn"', "audience_id": self.skarn, "topic_id": self.museum.topic_id}
        cleared = people_behind(self.museum.database, SYSTEM, gate=None, after_id=0, now=self.now, **asked)
        assert not {one.id for one in cleared} & (self.left_out - self.merged)

    @invariant()
    def how_far_runs_are_is_what_counting_would_give(self) -> None:
        as_counted(self.museum)

    @invariant()
    def the_ledger_tells_how_everybody_stands(self) -> None:
        with self.museum.database.transaction() as tx:
            for row in run_sql(tx, "SELECT contact_id, topic_id, state FROM consent"):
                events = events_of(tx, row.contact_id, row.topic_id)
                assert fold_consent(events).state == row.state == standing_at(events, self.now).state


@pytest.fixture
def copies(cluster: Cluster, museum: Museum) -> Iterator[Callable[[], Museum]]:
    """Copies of the museum, each in a database of its own; the last one is dropped when the next is made."""
    museum.database.close()
    source = museum.database.url.rsplit("/", 1)[1]
    made: list[Database] = []

    def drop() -> None:
        for database in made:
            database.close()
            drop_database(cluster, database.url.rsplit("/", 1)[1])
        made.clear()

    def copy() -> Museum:
        drop()
        name = f"{source}_{next(_numbers)}"
        make_database(cluster, name, source)
        made.append(Database(cluster.url(name), connections=4))
        return replace(museum, database=made[0])

    yield copy
    drop()


def test_nobody_who_closed_a_door_gets_mail_whatever_happens(copies: Callable[[], Museum]) -> None:
    class AtAMuseum(Delivering):
        def __init__(self) -> None:
            super().__init__()
            self.museum = copies()

    run_state_machine_as_test(
        AtAMuseum,
        settings=settings(
            max_examples=settings.default.max_examples // 5,
            stateful_step_count=25,
            suppress_health_check=list(HealthCheck),
            report_multiple_bugs=False,
        ),
    )
