"""Those who did not get it: unknown ones that are decided about, and runs over exactly some of an earlier one."""

from collections import Counter

import pytest

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.sending import LATER, NO_WORD, NOBODY, OK, claim, kit_of, mark, send_all, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.delivery import DeliveryState
from uvarovite.services.campaigns.again import AgainAsk, again_view, leave, send_again
from uvarovite.services.delivery import dispatch
from uvarovite.services.delivery.traces import trace
from uvarovite.services.delivery.watching import desk, dispatch_view
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.store.database import run_sql

UNKNOWN, REFUSED, STOPPED = DeliveryState.UNKNOWN, DeliveryState.REFUSED, DeliveryState.STOPPED


def again(museum: Museum, ask: AgainAsk) -> int:
    seen = again_view(museum.database, SYSTEM, ask, NOW).cleared
    return send_again(museum.database, SYSTEM, ask, seen_cleared=seen, keyring=KEYRING, now=NOW)


def run_with_unknown(museum: Museum) -> int:
    """Of the first batch of two nobody knows whether they have it."""
    run_id = museum.release()
    send_all(museum, run_id, answer_to=lambda number: NO_WORD if number == 1 else OK)
    assert Counter(museum.states(run_id).values()) == {"unknown": 2, "accepted": 3}
    return run_id


def unknown_on_the_desk(museum: Museum) -> int:
    return desk(museum.database, SYSTEM, NOW).unknown


def test_unknown_ones_get_it_again_only_by_a_decision_and_nobody_else_does(museum: Museum) -> None:
    run_id = run_with_unknown(museum)
    # Another release would be for nobody: they may have it.
    cleared = museum.view().clearance
    assert cleared is not None
    assert cleared.cleared == 0
    assert unknown_on_the_desk(museum) == 2
    second = again(museum, AgainAsk(run_id=run_id, state=UNKNOWN))
    assert set(museum.states(second)) == {who for who, state in museum.states(run_id).items() if state == "unknown"}
    send_all(museum, second)
    assert Counter(museum.states(second).values()) == {"accepted": 2}
    assert unknown_on_the_desk(museum) == 0
    # What the first run says of them stays; a second decision finds nobody.
    assert Counter(museum.states(run_id).values())["unknown"] == 2
    assert again_view(museum.database, SYSTEM, AgainAsk(run_id=run_id, state=UNKNOWN), NOW).people == 0
    with pytest.raises(Conflict):
        again(museum, AgainAsk(run_id=run_id, state=UNKNOWN))


def test_unknown_ones_are_decided_one_by_one(museum: Museum) -> None:
    run_id = run_with_unknown(museum)
    one, other = (museum.delivery_id(run_id, who) for who, state in museum.states(run_id).items() if state == "unknown")
    assert leave(museum.database, SYSTEM, AgainAsk(run_id=run_id, state=UNKNOWN, delivery_ids=(one,)), NOW) == 1
    assert dispatch_view(museum.database, SYSTEM, run_id, NOW).undecided == unknown_on_the_desk(museum) == 1
    assert any("nothing more is sent" in step.words for step in trace(museum.database, SYSTEM, one).steps)
    assert leave(museum.database, SYSTEM, AgainAsk(run_id=run_id, state=UNKNOWN, delivery_ids=(one,)), NOW) == 0
    second = again(museum, AgainAsk(run_id=run_id, state=UNKNOWN))
    with museum.database.transaction() as tx:
        people = run_sql(
            tx,
            "SELECT contact_id FROM delivery WHERE id = :id OR run_id = :run ORDER BY id",
            {"id": other, "run": second},
        )
    assert len(people) == 2
    assert people[0] == people[1]


def test_every_gate_is_asked_again(museum: Museum) -> None:
    run_id = museum.release()
    send_all(museum, run_id, answer_to=lambda number: NOBODY if number == 1 else OK)
    # A hard bounce has closed their addresses since.
    ask = AgainAsk(run_id=run_id, state=REFUSED)
    view = again_view(museum.database, SYSTEM, ask, NOW)
    assert (view.people, view.cleared) == (2, 0)
    assert sum(gate.held for gate in view.gates) == 2
    with pytest.raises(Conflict):
        again(museum, ask)


def test_the_rest_of_a_stopped_run_is_sent_to_later_as_a_run_of_its_own(museum: Museum) -> None:
    run_id = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    kit = kit_of(museum, run_id)
    group = mark(museum, batch, kit, batch.delivery_ids[:1])
    ask = AgainAsk(run_id=run_id, state=STOPPED)
    with pytest.raises(Conflict, match="not over"):
        again_view(museum.database, SYSTEM, ask, NOW)
    dispatch.stop(museum.database, SYSTEM, run_id, NOW)
    settle(museum, batch, kit, group.marked, OK)
    second = again(museum, ask)
    # Two presses make one run.
    with pytest.raises(Conflict):
        send_again(museum.database, SYSTEM, ask, seen_cleared=4, keyring=KEYRING, now=NOW)
    send_all(museum, second)
    assert Counter(museum.states(second).values()) == {"accepted": 4}
    assert not set(museum.states(second)) & {who for who, state in museum.states(run_id).items() if state == "accepted"}
    with museum.database.transaction() as tx:
        sent = run_sql(tx, "SELECT count(*) AS n, count(DISTINCT address_folded) AS people FROM sent_mail")[0]
    assert (sent.n, sent.people) == (5, 5)


def test_whoever_has_it_or_is_to_get_it_gets_no_other(museum: Museum) -> None:
    run_id = museum.release()
    for state in (DeliveryState.ACCEPTED, DeliveryState.DEFERRED, DeliveryState.WAITING, DeliveryState.SENDING):
        with pytest.raises(BadInput):
            again_view(museum.database, SYSTEM, AgainAsk(run_id=run_id, state=state), NOW)
    send_all(museum, run_id, answer_to=lambda _: LATER)
    with pytest.raises(Conflict):
        again_view(museum.database, SYSTEM, AgainAsk(run_id=run_id, state=REFUSED), NOW)
