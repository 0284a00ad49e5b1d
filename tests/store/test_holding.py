"""What is kept back before it goes out: whose, of which topic, in which runs, and never what has gone out."""

from collections.abc import Callable
from itertools import product

import pytest

from tests.support.museum import NOW, Museum
from tests.support.sending import put_there
from uvarovite.core.delivery import GONE_OUT, RUN, DeliveryState, RunState
from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.delivery import holding

S = DeliveryState
CAN_BE_HELD = {S.WAITING, S.CLAIMED, S.DEFERRED}


def stand(tx: Transaction, states: dict[int, DeliveryState]) -> None:
    """Let the deliveries to these people stand so."""
    with put_there(tx):
        for contact_id, state in states.items():
            run_sql(
                tx,
                "UPDATE delivery SET state = :state WHERE contact_id = :id",
                {"id": contact_id, "state": state.value},
            )


def standing(tx: Transaction) -> dict[int, tuple[str, str | None, str | None]]:
    rows = run_sql(tx, "SELECT contact_id, state, held_gate, held_reason FROM delivery ORDER BY contact_id")
    return {row.contact_id: (row.state, row.held_gate, row.held_reason) for row in rows}


def test_of_two_who_are_one_the_message_that_has_gone_out_counts_else_that_of_who_stays(museum: Museum) -> None:
    museum.release()
    kept, gone = museum.contact_id("M-01"), museum.contact_id("M-02")
    held = ("held", "duplicate", "merged")
    for of_kept, of_gone in product(S, S):
        with museum.database.transaction() as tx:
            stand(tx, {kept: of_kept, gone: of_gone})
            before = standing(tx)
            expected = set()
            if of_gone in CAN_BE_HELD and of_kept in GONE_OUT | CAN_BE_HELD:
                expected.add(gone)
            elif of_kept in CAN_BE_HELD and of_gone in GONE_OUT:
                expected.add(kept)
            assert holding.hold_merged(tx, kept_id=kept, gone_id=gone, now=NOW) == len(expected), (of_kept, of_gone)
            assert standing(tx) == {who: held if who in expected else told for who, told in before.items()}
            tx.rollback()


def by_contact(tx: Transaction, museum: Museum, topic_id: int) -> int:
    return holding.hold_contact(tx, museum.contact_id("M-01"), topic_id, gate="g", reason="r", now=NOW)


def by_address(tx: Transaction, museum: Museum, topic_id: int) -> int:
    return holding.hold_address(tx, "ada@slatepost.example", topic_id, gate="g", reason="r", now=NOW)


@pytest.mark.parametrize("hold", [by_contact, by_address])
def test_what_is_closed_for_a_topic_is_held_in_its_runs_that_are_not_over(
    museum: Museum, hold: Callable[[Transaction, Museum, int], int]
) -> None:
    run_id = museum.release()
    ada = museum.contact_id("M-01")
    for state, run_state in product(S, RunState):
        with museum.database.transaction() as tx:
            stand(tx, {ada: state})
            run_sql(tx, "ALTER TABLE run DISABLE TRIGGER USER")
            run_sql(tx, "UPDATE run SET state = :state WHERE id = :id", {"id": run_id, "state": run_state.value})
            before = standing(tx)
            held = state in CAN_BE_HELD and run_state in RUN.open
            assert hold(tx, museum, museum.topic_id + 1) == 0
            assert hold(tx, museum, museum.topic_id) == held, (state, run_state)
            assert standing(tx) == {**before, ada: ("held", "g", "r") if held else before[ada]}
            tx.rollback()


def test_a_stop_stops_what_has_not_gone_out_and_nothing_of_another_run(museum: Museum) -> None:
    run_id = museum.release()
    people = [museum.contact_id(f"M-0{number}") for number in range(1, 6)]
    for state in S:
        with museum.database.transaction() as tx:
            stand(tx, dict.fromkeys(people, state))
            assert holding.stop_deliveries(tx, run_id + 1, NOW) == 0
            assert holding.stop_deliveries(tx, run_id, NOW) == (5 if state in CAN_BE_HELD else 0)
            stopped = "stopped" if state in CAN_BE_HELD else state.value
            assert {told[0] for told in standing(tx).values()} == {stopped}
            tx.rollback()
