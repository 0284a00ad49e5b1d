"""The queue: batches, gaps, leases, and what a dead worker leaves behind."""

from datetime import timedelta

import pytest

from tests.support.museum import NOW, Museum, make_museum
from tests.support.sending import LATER, NOBODY, OK, claim, kit_of, send
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import Pace
from uvarovite.services.delivery import dispatch
from uvarovite.services.delivery.dispatch import LEASE, LeaseLost, Told
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
    assert dispatch.next_due(database) == NOW + timedelta(seconds=60)
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
    dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids[:1], NOW)
    assert dispatch.recover(museum.database, NOW + LEASE - timedelta(seconds=1)) == 0
    late = NOW + LEASE + timedelta(seconds=1)
    with museum.database.transaction() as tx:
        permits.take_permits(
            tx, relay_id=museum.relay_id, run_id=run_id, lease_token="lives", wanted=1, relay_limit=None, run_limit=None,
            now=late,
        )  # fmt: skip
    assert dispatch.recover(museum.database, late) == 1
    assert dispatch.recover(museum.database, late) == 0
    again = claim(museum, "goes on", late)
    assert again is not None
    assert again.delivery_ids == batch.delivery_ids[1:]
    with museum.database.transaction() as tx:
        still_open = run_sql(tx, "SELECT lease_token FROM send_permit WHERE closed_at IS NULL")
    assert [row.lease_token for row in still_open] == ["lives"]


def test_a_worker_that_stalled_cannot_finish_anothers_work(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "stalls")
    assert batch is not None
    group = dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids, NOW)
    late = NOW + 2 * LEASE
    dispatch.recover(museum.database, late)
    told = [Told(delivery=one, answer=OK, digest="d", jitter=0.0) for one in group.marked]
    with pytest.raises(LeaseLost):
        dispatch.settle_group(museum.database, batch, kit, told, late)
    with pytest.raises(LeaseLost):
        dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids, late)
    with pytest.raises(LeaseLost):
        dispatch.give_back(museum.database, batch, now=late)
    assert list(museum.states(run_id).values()).count("unknown") == 2
    with museum.database.transaction() as tx:
        sent = run_sql(tx, "SELECT accepted, count(*) AS n FROM sent_mail GROUP BY 1")
    # They may have it: whatever asks who had mail counts them, marked as not certain.
    assert {row.accepted: row.n for row in sent}.get(False) == 2


def test_the_relays_limit_holds_over_the_hour(museum: Museum) -> None:
    run_id = museum.release()
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET hourly_limit = 3")
    kit = kit_of(museum, run_id)
    first = claim(museum, "a")
    assert first is not None
    assert len(send(museum, first, kit, OK)) == 2
    second = claim(museum, "b")
    assert second is not None
    group = dispatch.mark_group(museum.database, second, kit, second.delivery_ids, NOW)
    assert len(group.marked) == group.permitted == 1
    told = [Told(delivery=one, answer=OK, digest="d", jitter=0.0) for one in group.marked]
    dispatch.settle_group(museum.database, second, kit, told, NOW)
    refused = dispatch.mark_group(museum.database, second, kit, second.delivery_ids[1:], NOW)
    assert (refused.marked, refused.permitted, refused.later) == ((), 0, NOW + timedelta(hours=1))
    dispatch.give_back(museum.database, second, now=NOW, again_at=refused.later)
    third = claim(museum, "c")
    assert third is not None
    assert third.number == 3
    assert dispatch.mark_group(museum.database, third, kit, third.delivery_ids, NOW).permitted == 0
    hour = NOW + timedelta(hours=1, seconds=1)
    dispatch.give_back(museum.database, third, now=NOW)
    later = claim(museum, "d", hour)
    assert later is not None
    assert dispatch.mark_group(museum.database, later, kit, later.delivery_ids, hour).permitted >= 1


def test_whoever_goes_between_claim_and_mark_is_held_and_no_attempt_is_counted(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    gone, stays = batch.delivery_ids
    with museum.database.transaction() as tx:
        contact = run_sql(tx, "SELECT contact_id FROM delivery WHERE id = :id", {"id": gone})[0].contact_id
    bulk.delete(museum.database, SYSTEM, bulk.Selection(ids=(contact,), seen=1), now=NOW)
    group = dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids, NOW)
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
    assert dispatch.next_due(database) is None
    dispatch.go_on(database, SYSTEM, run_id, NOW + timedelta(seconds=20))
    assert claim(museum, "b", NOW + timedelta(seconds=59)) is None
    assert claim(museum, "b", NOW + timedelta(seconds=60)) is not None


def test_nobody_is_marked_while_the_run_is_paused(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    dispatch.pause(museum.database, SYSTEM, run_id, NOW)
    assert dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids, NOW).marked == ()
    assert set(museum.states(run_id).values()) == {"waiting", "claimed"}


def test_a_lease_that_is_not_over_is_left_alone(museum: Museum) -> None:
    museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    assert dispatch.recover(museum.database, NOW + LEASE) == 0
    dispatch.keep_lease(museum.database, batch, NOW + LEASE)
    dispatch.recover(museum.database, NOW + 2 * LEASE)
    # Renewed, it is its worker's still; a moment later it is anybody's.
    dispatch.keep_lease(museum.database, batch, NOW + LEASE)
    dispatch.recover(museum.database, NOW + 2 * LEASE + timedelta(seconds=1))
    with pytest.raises(LeaseLost):
        dispatch.keep_lease(museum.database, batch, NOW + LEASE)
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
        group = dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids, at)
        told = [
            Told(delivery=one, answer=LATER if place < later else OK, digest="d", jitter=0.0)
            for place, one in enumerate(group.marked)
        ]
        dispatch.settle_group(museum.database, batch, kit, told, at)
        dispatch.give_back(museum.database, batch, now=at)
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT size FROM batch WHERE retry_of IS NOT NULL ORDER BY number")
    assert [row.size for row in rows] == sizes
