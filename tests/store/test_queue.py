"""The queue: batches, gaps, leases, and what a dead worker leaves behind."""

from datetime import timedelta

import pytest

from tests.support.museum import NOW, Museum, make_museum
from tests.support.sending import BROKE, LATER, NOBODY, OK, claim, give_back, kit_of, mark, send, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import Pace
from uvarovite.core.delivery.troubles import relay_trouble
from uvarovite.services.delivery import dispatch, sending
from uvarovite.services.delivery.sending import LEASE, LeaseLost, Sent
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.selection import bulk
from uvarovite.store.database import Database, run_sql
from uvarovite.store.delivery import permits


def test_a_batch_is_claimed_once_and_the_next_after_the_gap(database: Database) -> None:
    museum = make_museum(database, batch_size=2, gap_seconds=60)
    museum.release()
    first = claim(museum, "one")
    assert first is not None
    assert first.number == 1
    assert len(first.delivery_ids) == 2
    assert claim(museum, "two") is None
    assert sending.next_due(database, NOW) == timedelta(seconds=60)
    second = claim(museum, "two", NOW + timedelta(seconds=60))
    assert second is not None
    assert second.number == 2
    assert not set(first.delivery_ids) & set(second.delivery_ids)


def test_a_run_ends_when_everybody_stands_in_a_final_state(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    answers = [OK, NOBODY, OK]
    sent = []
    for place, answer in enumerate(answers):
        batch = claim(museum, f"token {place}")
        assert batch is not None
        sent += send(museum, batch, kit, answer)
    assert claim(museum, "none left") is None
    states = museum.states(run_id)
    assert sorted(states.values()) == ["accepted", "accepted", "accepted", "refused", "refused"]
    assert len(sent) == len(set(sent)) == len(states) == 5
    with museum.database.transaction() as tx:
        run = run_sql(tx, "SELECT state, planned, ended_at FROM run WHERE id = :id", {"id": run_id})[0]
        suppressed = run_sql(tx, "SELECT address_folded FROM suppression WHERE reason = 'hard_bounce'")
    assert (run.state, run.planned, run.ended_at) == ("ended", 5, NOW)
    assert len(suppressed) == 2


def test_those_told_to_come_back_get_a_batch_of_their_own_and_give_up_in_the_end(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    first = claim(museum, "first")
    assert first is not None
    went = send(museum, first, kit, LATER)
    now = NOW
    for attempt, delay in enumerate(kit.retry_delays_seconds, start=2):
        early = claim(museum, f"early {attempt}", now)
        assert early is None or not set(early.delivery_ids) & set(went)
        if early is not None:
            send(museum, early, kit, OK, now)
        now += timedelta(seconds=delay)
        again = claim(museum, f"again {attempt}", now)
        assert again is not None
        assert sorted(again.delivery_ids) == sorted(went)
        send(museum, again, kit, LATER, now)
    states = list(museum.states(run_id).values())
    assert states.count("refused") == 2
    with museum.database.transaction() as tx:
        tries = run_sql(tx, "SELECT count(*) AS n FROM attempt WHERE delivery_id = :id", {"id": went[0]})
        suppressed = run_sql(tx, "SELECT 1 FROM suppression WHERE reason = 'hard_bounce'")
    assert tries[0].n == 1 + len(kit.retry_delays_seconds)
    assert not suppressed


def test_a_dead_workers_messages_in_hand_become_unknown_and_the_rest_goes_on(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "dies")
    assert batch is not None
    mark(museum, batch, kit, batch.delivery_ids[:1], NOW)
    assert sending.recover(museum.database, NOW + LEASE - timedelta(seconds=1)) == 0
    late = NOW + LEASE + timedelta(seconds=1)
    with museum.database.transaction() as tx:
        permits.open_permits(tx, dict.fromkeys(kit.scopes, 1), "lives")
    assert sending.recover(museum.database, late) == 1
    assert sending.recover(museum.database, late) == 0
    again = claim(museum, "goes on", late)
    assert again is not None
    assert again.delivery_ids == batch.delivery_ids[1:]
    with museum.database.transaction() as tx:
        still_open = run_sql(tx, "SELECT DISTINCT lease_token FROM send_open")
        assert [row.lease_token for row in still_open] == ["lives"]
        # What the dead worker had in hand may have gone out until it was found dead.
        assert permits.used_in(tx, permits.relay_scope(museum.relay_id), 3_600, late) == 2


def test_a_worker_that_stalled_cannot_finish_anothers_work(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "stalls")
    assert batch is not None
    group = mark(museum, batch, kit)
    late = NOW + 2 * LEASE
    sending.recover(museum.database, late)
    with pytest.raises(LeaseLost):
        settle(museum, batch, kit, group.marked, OK, late)
    with pytest.raises(LeaseLost):
        mark(museum, batch, kit, now=late)
    with pytest.raises(LeaseLost):
        give_back(museum, batch, late)
    assert list(museum.states(run_id).values()).count("unknown") == 2
    with museum.database.transaction() as tx:
        sent = run_sql(tx, "SELECT accepted, count(*) AS n FROM sent_mail GROUP BY 1")
    # They may have it: whatever asks who had mail counts them, marked as not certain.
    assert {row.accepted: row.n for row in sent}.get(False) == 2


def test_the_relays_limit_holds_over_the_hour(museum: Museum) -> None:
    run_id = museum.release()
    with museum.database.transaction() as tx:
        permits.set_limits(tx, permits.relay_scope(museum.relay_id), {3_600: 3})
    kit = kit_of(museum, run_id)
    first = claim(museum, "a")
    assert first is not None
    assert len(send(museum, first, kit, OK)) == 2
    second = claim(museum, "b")
    assert second is not None
    group = mark(museum, second, kit)
    assert (len(group.marked), len(group.left)) == (1, 1)
    settle(museum, second, kit, group.marked, OK, NOW)
    refused = mark(museum, second, kit, second.delivery_ids[1:], NOW)
    assert (refused.marked, refused.left) == ((), second.delivery_ids[1:])
    assert refused.wait is not None
    assert timedelta(hours=1) < refused.wait <= timedelta(hours=1, seconds=30)
    give_back(museum, second, wait=refused.wait)
    third = claim(museum, "c")
    assert third is not None
    assert third.number == 3
    assert not mark(museum, third, kit).marked
    hour = NOW + refused.wait
    give_back(museum, third)
    later = claim(museum, "d", hour)
    assert later is not None
    assert mark(museum, later, kit, now=hour).marked


def test_whoever_goes_between_claim_and_mark_is_held_and_no_attempt_is_counted(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    gone, stays = batch.delivery_ids
    with museum.database.transaction() as tx:
        contact = run_sql(tx, "SELECT contact_id FROM delivery WHERE id = :id", {"id": gone})[0].contact_id
    bulk.delete(museum.database, SYSTEM, bulk.Selection(ids=(contact,), seen=1), now=NOW)
    group = mark(museum, batch, kit)
    assert [one.id for one in group.marked] == [stays]
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT id, state, held_gate, attempts, settled_at FROM delivery WHERE id = ANY(:ids)",
                       {"ids": list(batch.delivery_ids)})  # fmt: skip
    told = {row.id: (row.state, row.held_gate, row.attempts, row.settled_at) for row in rows}
    assert told == {gone: ("held", "address", 0, NOW), stays: ("sending", None, 1, None)}


def test_after_a_pause_the_gap_is_kept(database: Database) -> None:
    museum = make_museum(database, batch_size=2, gap_seconds=60)
    run_id = museum.release()
    assert claim(museum, "a") is not None
    dispatch.pause(database, SYSTEM, run_id, NOW)
    assert claim(museum, "b", NOW + timedelta(hours=1)) is None
    assert sending.next_due(database, NOW) is None
    dispatch.go_on(database, SYSTEM, run_id, NOW + timedelta(seconds=20))
    assert claim(museum, "b", NOW + timedelta(seconds=59)) is None
    assert claim(museum, "b", NOW + timedelta(seconds=60)) is not None


def test_nobody_is_marked_while_the_run_is_paused(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    dispatch.pause(museum.database, SYSTEM, run_id, NOW)
    assert mark(museum, batch, kit).marked == ()
    assert set(museum.states(run_id).values()) == {"waiting", "claimed"}


def test_a_lease_that_is_not_over_is_left_alone(museum: Museum) -> None:
    kit = kit_of(museum, museum.release())
    batch = claim(museum, "a")
    assert batch is not None
    assert sending.recover(museum.database, NOW + LEASE) == 0
    mark(museum, batch, kit, (), NOW + LEASE)
    sending.recover(museum.database, NOW + 2 * LEASE)
    # Renewed, it is its worker's still; a moment later it is anybody's.
    mark(museum, batch, kit, (), NOW + LEASE)
    sending.recover(museum.database, NOW + 2 * LEASE + timedelta(seconds=1))
    with pytest.raises(LeaseLost):
        mark(museum, batch, kit, (), NOW + LEASE)
    again = claim(museum, "b", NOW + 3 * LEASE)
    assert again is not None
    assert set(again.delivery_ids) == set(batch.delivery_ids)


def test_batches_of_those_told_to_come_back_are_no_larger_than_others(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    while (batch := claim(museum, f"{NOW}")) is not None:
        send(museum, batch, kit, LATER)
    with museum.database.transaction() as tx:
        rows = run_sql(tx, """SELECT batch.number, size, due_at, count(*) AS n, max(next_at) AS due FROM batch
            JOIN delivery ON delivery.run_id = batch.run_id AND batch_number = batch.number
            WHERE retry_of IS NOT NULL GROUP BY 1, 2, 3 ORDER BY 1""")  # fmt: skip
    assert [row.n for row in rows] == [row.size for row in rows]
    assert sum(row.n for row in rows) == 5
    assert all(row.n <= 2 and row.due_at == row.due for row in rows)
    assert len(rows) == 3


@pytest.mark.parametrize(
    ("later_of_first", "later_of_second", "seconds", "sizes"),
    [
        # One and two fill a batch of three.
        (1, 2, 0, [3]),
        (2, 2, 0, [2, 2]),
        # Whoever came first is put off by two gaps at most.
        (1, 1, 120, [2]),
        (1, 1, 121, [1, 1]),
    ],
)
def test_those_told_to_come_back_share_a_batch_while_there_is_room_and_nobody_waits_for_long(
    museum: Museum, later_of_first: int, later_of_second: int, seconds: int, sizes: list[int]
) -> None:
    museum.change(pace=Pace(batch_size=3, gap_seconds=60))
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET retry_delays_seconds = '{600, 600}'")
    kit = kit_of(museum, museum.release())
    for later, now in ((later_of_first, NOW), (later_of_second, NOW + timedelta(seconds=max(60, seconds)))):
        batch = claim(museum, f"{now}", now)
        assert batch is not None
        # What is told of both is told when the second is.
        at = now if seconds else NOW + timedelta(seconds=60)
        group = mark(museum, batch, kit, now=at)
        settle(museum, batch, kit, group.marked[:later], LATER, at)
        settle(museum, batch, kit, group.marked[later:], OK, at)
        give_back(museum, batch, at)
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT size FROM batch WHERE retry_of IS NOT NULL ORDER BY number")
    assert [row.size for row in rows] == sizes


def test_answers_that_are_written_again_change_nothing(museum: Museum) -> None:
    """The worker did not hear that its answers were written, since the connection broke just then."""
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    marked = mark(museum, batch, kit).marked
    assert {one.id for one in sending.pick_up(museum.database, batch, batch.delivery_ids)} == {one.id for one in marked}

    def told() -> list[object]:
        with museum.database.transaction() as tx:
            return [
                *run_sql(tx, "SELECT id, state, attempts, settled_at, next_at FROM delivery ORDER BY id"),
                *run_sql(tx, "SELECT delivery_id, relay_id, number, code FROM attempt ORDER BY id"),
                *run_sql(tx, "SELECT lease_token, scope, n FROM send_open ORDER BY 1, 2"),
                *run_sql(tx, "SELECT scope, seconds, sum(n) FROM send_count GROUP BY 1, 2 ORDER BY 1, 2"),
            ]

    settle(museum, batch, kit, marked[:1], OK)
    settle(museum, batch, kit, marked[1:], LATER)
    before = told()
    settle(museum, batch, kit, marked[:1], OK, NOW + timedelta(seconds=3))
    settle(museum, batch, kit, marked[1:], LATER, NOW + timedelta(seconds=3))
    assert told() == before
    assert sending.pick_up(museum.database, batch, batch.delivery_ids) == ()
    # Another answer than the one that was written is not taken for it.
    with pytest.raises(LeaseLost):
        settle(museum, batch, kit, marked[:1], NOBODY)


def test_what_broke_before_it_can_have_been_taken_is_no_attempt_and_uses_no_limit(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    marked = mark(museum, batch, kit).marked
    settle(museum, batch, kit, marked, BROKE)
    settle(museum, batch, kit, marked, BROKE)
    with museum.database.transaction() as tx:
        assert permits.used_in(tx, permits.relay_scope(museum.relay_id), 3_600, NOW) == 0
        assert run_sql(tx, "SELECT count(*) FROM attempt")[0][0] == 0
    again = mark(museum, batch, kit).marked
    assert [(one.id, one.attempt) for one in again] == [(one.id, 1) for one in marked]
    settle(museum, batch, kit, again, BROKE)
    give_back(museum, batch)
    assert set(museum.states(run_id).values()) == {"waiting"}
    later = claim(museum, "b")
    assert later is not None
    assert later.delivery_ids == batch.delivery_ids
    # One that breaks its line time after time is an attempt of its own in the end.
    sent = [Sent(delivery=one, outcome=BROKE, counts=True) for one in mark(museum, later, kit).marked]
    sending.advance(museum.database, later, kit, sent, (), NOW)
    assert list(museum.states(run_id).values()).count("deferred") == 2


def test_nothing_is_claimed_of_a_relay_that_rests_and_it_rests_longer_each_time(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    trouble = relay_trouble("nothing_listens", where="127.0.0.1:25")
    now = NOW
    for seconds in (15, 30, 60, 120, 300, 600, 600):
        assert claim(museum, f"before {now}", now + timedelta(seconds=-1)) is None or now == NOW
        sending.recover(museum.database, now + LEASE)
        sending.rest_relay(museum.database, museum.relay_id, trouble, now)
        # Another worker finds out the same; that is no second rest.
        sending.rest_relay(museum.database, museum.relay_id, trouble, now)
        assert claim(museum, f"{now}", now + timedelta(seconds=seconds - 1)) is None
        assert sending.next_due(museum.database, now) == timedelta(seconds=seconds)
        now += timedelta(seconds=seconds)
    assert dispatch_view(museum.database, SYSTEM, run_id, now).trouble == trouble.message
    batch = claim(museum, "at last", now)
    assert batch is not None
    send(museum, batch, kit, OK, now)
    assert dispatch_view(museum.database, SYSTEM, run_id, now).trouble is None
    sending.rest_relay(museum.database, museum.relay_id, trouble, now)
    assert sending.next_due(museum.database, now) == timedelta(seconds=15)
