"""Left means left: whatever is in flight, whoever has left before the mark gets nothing."""

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest

from tests.store.test_queue import OK, claim, kit_of, send
from tests.support.museum import KEYRING, NOW, SECRET, Museum
from tests.support.processes import until
from tests.support.sending import give_back, mark
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEventKind, ConsentEvidence
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.consent.by_hand import record_by_hand
from uvarovite.services.delivery import dispatch, sending
from uvarovite.services.delivery.sending import Sent
from uvarovite.services.delivery.traces import sent_message, trace
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.errors import Conflict
from uvarovite.services.responses.leaving import Visit, leave_page, leave_topic
from uvarovite.store.consent.ledger import append_for_contact
from uvarovite.store.database import instant, run_sql
from uvarovite.store.delivery import queue

VISIT = Visit(method="POST", agent="MailApp/7", origin="127.0.0.1")


def leave(museum: Museum, delivery_id: int, channel: str = "one_click") -> None:
    token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=delivery_id), KEYRING)
    assert leave_topic(museum.database, token, VISIT, channel=channel, keyring=KEYRING, now=NOW) is not None


@pytest.mark.parametrize("moment", ["waiting", "claimed"])
def test_who_leaves_before_the_mark_is_held_with_the_gates_name(museum: Museum, moment: str) -> None:
    run_id = museum.release()
    batch = claim(museum, "a") if moment == "claimed" else None
    ada = museum.delivery_id(run_id, "M-01")
    leave(museum, ada)
    batch = batch or claim(museum, "a")
    assert batch is not None
    went = send(museum, batch, kit_of(museum, run_id), OK)
    assert ada not in went
    assert museum.states(run_id)["M-01"] == "held"
    assert "held back before it went out: left the topic" in [
        step.words for step in trace(museum.database, SYSTEM, ada).steps
    ]


def test_the_mark_itself_looks_at_consent_again(museum: Museum) -> None:
    """Consent that is withdrawn in a way that holds nothing (here: straight in the ledger) still wins."""
    from uvarovite.core.consent import ConsentEventKind

    run_id = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    record_by_hand(
        museum.database,
        SYSTEM,
        contact_no="M-01",
        topic="field_walks",
        kind=ConsentEventKind.WITHDRAWN,
        at=NOW,
        wording="by telephone",
    )
    assert museum.states(run_id)["M-01"] == "claimed"
    went = send(museum, batch, kit_of(museum, run_id), OK)
    assert museum.delivery_id(run_id, "M-01") not in went
    assert museum.states(run_id)["M-01"] == "held"


def test_leaving_works_any_number_of_times_and_is_written_once(museum: Museum) -> None:
    run_id = museum.release()
    ada = museum.delivery_id(run_id, "M-01")
    token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=ada), KEYRING)
    page = leave_page(museum.database, token, VISIT, keyring=KEYRING, now=NOW)
    assert page is not None
    assert not page.left
    for _ in range(3):
        leave(museum, ada)
    page = leave_page(museum.database, token, VISIT, keyring=KEYRING, now=NOW)
    assert page is not None
    assert page.left
    with museum.database.transaction() as tx:
        events = run_sql(
            tx,
            "SELECT channel, evidence FROM consent_event WHERE kind = 'withdrawn' AND contact_id = :id",
            {"id": museum.contact_id("M-01")},
        )
    assert [row.channel for row in events] == ["one_click"]
    assert events[0].evidence["delivery"] == ada


def test_who_left_is_not_in_the_next_run(museum: Museum) -> None:
    run_id = museum.release()
    leave(museum, museum.delivery_id(run_id, "M-01"))
    dispatch.stop(museum.database, SYSTEM, run_id, NOW)
    again = museum.release(NOW + timedelta(minutes=1))
    # Ada's address is Gus's too: it was left from the mailbox itself, so nothing goes to it in his name either.
    assert set(museum.states(again)) == {"M-02", "M-03", "M-04", "M-05"}


def test_pause_marks_nobody_and_stop_is_for_good(museum: Museum) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    dispatch.pause(museum.database, SYSTEM, run_id, NOW)
    assert mark(museum, batch, kit).marked == ()
    give_back(museum, batch)
    assert claim(museum, "b") is None
    dispatch.go_on(museum.database, SYSTEM, run_id, NOW)
    batch = claim(museum, "c")
    assert batch is not None
    assert len(send(museum, batch, kit, OK)) == 2
    dispatch.stop(museum.database, SYSTEM, run_id, NOW)
    assert claim(museum, "d") is None
    view = dispatch_view(museum.database, SYSTEM, run_id, NOW)
    assert view.states == {"accepted": 2, "stopped": 3}
    assert view.state == "stopped"
    with pytest.raises(Conflict):
        dispatch.go_on(museum.database, SYSTEM, run_id, NOW)


def test_what_was_sent_is_shown_again_byte_for_byte(museum: Museum) -> None:
    import hashlib

    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    group = mark(museum, batch, kit)
    raw = {
        one.id: kit.composer.compose(
            delivery_id=one.id,
            address=one.address,
            record_json=one.record,
            consent_since=one.consent_since,
            marked_at=one.marked_at,
        ).raw
        for one in group.marked
    }
    sent = [Sent(delivery=one, outcome=OK, digest=hashlib.sha256(raw[one.id]).hexdigest()) for one in group.marked]
    sending.advance(museum.database, batch, kit, sent, (), NOW)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET first_name = 'Somebody else', folded = '{}'")
    later = NOW + timedelta(days=400)
    for id_, sent in raw.items():
        shown = sent_message(museum.database, SYSTEM, id_, keyring=KEYRING, secret=SECRET, now=later)
        assert shown.source.encode() == sent
        assert shown.identical
        assert shown.sent


@pytest.mark.parametrize("kind", list(ConsentEventKind))
def test_a_trace_can_tell_whatever_the_ledger_says(museum: Museum, kind: ConsentEventKind) -> None:
    ada = museum.delivery_id(museum.release(), "M-01")
    before = len(trace(museum.database, SYSTEM, ada).steps)
    with museum.database.transaction() as tx:
        append_for_contact(
            tx,
            museum.contact_id("M-01"),
            topic_id=museum.topic_id,
            kind=kind,
            at=NOW,
            until=NOW + timedelta(days=9) if kind == ConsentEventKind.PAUSED else None,
            channel="by_hand",
            evidence=ConsentEvidence(wording="at the desk"),
        )
    steps = trace(museum.database, SYSTEM, ada).steps
    assert len(steps) == before + 1
    assert any("Field walks" in step.words and step.at == NOW for step in steps)


def test_the_recorded_instant_lies_behind_whatever_was_marked_before(museum: Museum) -> None:
    """Leaving waits while a group is being marked; it is not dated back to when the button was pressed."""
    run_id = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=museum.delivery_id(run_id, "M-01")), KEYRING)
    waiting = "SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
    with ThreadPoolExecutor(1) as pressing:
        with museum.database.transaction() as marking:
            queue.mark_sending(marking, batch, batch.delivery_ids, instant(marking))
            left = pressing.submit(leave_topic, museum.database, token, VISIT, channel="link", keyring=KEYRING)

            def waits() -> bool:
                # Who is active is looked up once for a transaction.
                with museum.database.transaction() as tx:
                    return bool(run_sql(tx, waiting)[0][0])

            until(waits, "the one who leaves to wait")
            with museum.database.transaction() as tx:
                marked = instant(tx)
        assert left.result() is not None
    with museum.database.transaction() as tx:
        event = run_sql(tx, "SELECT at FROM consent_event WHERE kind = 'withdrawn' AND channel = 'link'")
    assert event[0].at > marked


def test_two_presses_at_once_are_one_entry_of_the_ledger(museum: Museum) -> None:
    token = sign_token(
        Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=museum.delivery_id(museum.release(), "M-01")), KEYRING
    )
    with ThreadPoolExecutor(6) as many:
        pages = list(
            many.map(
                lambda _: leave_topic(museum.database, token, VISIT, channel="link", keyring=KEYRING, now=NOW),
                range(6),
            )
        )
    assert all(page is not None and page.left for page in pages)
    with museum.database.transaction() as tx:
        assert (
            run_sql(tx, "SELECT count(*) FROM consent_event WHERE kind = 'withdrawn' AND channel = 'link'")[0][0] == 1
        )
