"""Deliveries: every pair of state and event, what relays' answers mean, and when to try again."""

from datetime import UTC, datetime, timedelta
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.delivery import (
    DELIVERY,
    GONE_OUT,
    RETRY_DELAYS_SECONDS,
    AnswerKind,
    DeliveryEvent,
    DeliveryState,
    classify_answer,
    next_attempt,
)
from uvarovite.core.values.state_table import IllegalStep

S, E = DeliveryState, DeliveryEvent
ALLOWED = {
    (S.WAITING, E.CLAIM): S.CLAIMED,
    (S.DEFERRED, E.CLAIM): S.CLAIMED,
    (S.CLAIMED, E.GIVE_BACK): S.WAITING,
    (S.CLAIMED, E.MARK): S.SENDING,
    (S.SENDING, E.ACCEPT): S.ACCEPTED,
    (S.SENDING, E.DEFER): S.DEFERRED,
    (S.SENDING, E.REFUSE): S.REFUSED,
    (S.SENDING, E.LOSE): S.UNKNOWN,
    **{(state, E.HOLD): S.HELD for state in (S.WAITING, S.CLAIMED, S.DEFERRED)},
    **{(state, E.STOP): S.STOPPED for state in (S.WAITING, S.CLAIMED, S.DEFERRED)},
}


@pytest.mark.parametrize(("state", "event"), list(product(S, E)))
def test_a_pair_of_state_and_event_moves_on_or_is_a_broken_promise(state: S, event: E) -> None:
    if (state, event) in ALLOWED:
        assert DELIVERY.next(state, event) is ALLOWED[state, event]
        assert state in DELIVERY.before(event)
    else:
        with pytest.raises(IllegalStep):
            DELIVERY.next(state, event)
        assert state not in DELIVERY.before(event)


def test_what_a_relay_has_or_may_have_is_never_sent_again() -> None:
    assert {S.ACCEPTED, S.REFUSED, S.UNKNOWN, S.HELD, S.STOPPED} == DELIVERY.final
    assert DELIVERY.before(E.MARK) == {S.CLAIMED}
    assert not {before for before, _ in DELIVERY.steps} & (GONE_OUT - {S.SENDING})


ANSWERS = [
    (250, "2.0.0 Ok: queued as 4E77A", AnswerKind.ACCEPTED),
    (250, "Ok", AnswerKind.ACCEPTED),
    (451, "4.7.1 Greylisted, come back in 300 seconds", AnswerKind.TRY_LATER),
    (450, "4.7.28 slow down", AnswerKind.TRY_LATER),
    (452, "4.2.2 Mailbox full", AnswerKind.TRY_LATER),
    (421, "4.3.2 Shutting down", AnswerKind.TRY_LATER),
    (451, "Try again later", AnswerKind.TRY_LATER),
    (499, "4.9.9 something new", AnswerKind.TRY_LATER),
    (550, "5.1.1 No such user", AnswerKind.REFUSED_ADDRESS),
    (550, "No such user", AnswerKind.REFUSED_ADDRESS),
    (550, "5.2.1 Mailbox disabled", AnswerKind.REFUSED_ADDRESS),
    (552, "5.2.2 Over quota", AnswerKind.TRY_LATER),
    (550, "5.7.1 Blocked by policy", AnswerKind.REFUSED_SENDER),
    (554, "5.7.1 Spam", AnswerKind.REFUSED_SENDER),
    (535, "5.7.8 Bad credentials", AnswerKind.REFUSED_SENDER),
    (530, "Log in first", AnswerKind.REFUSED_SENDER),
    (599, "whatever", AnswerKind.REFUSED_SENDER),
    # An enhanced code that contradicts its reply is not believed.
    (450, "5.1.1 confused", AnswerKind.TRY_LATER),
    (550, "4.7.1 confused", AnswerKind.REFUSED_ADDRESS),
    (0, "", AnswerKind.CONNECTION),
]


@pytest.mark.parametrize(("code", "text", "kind"), ANSWERS)
def test_an_answer_has_one_meaning(code: int, text: str, kind: AnswerKind) -> None:
    answer = classify_answer(code, text)
    assert answer.kind is kind
    assert answer.words
    assert answer.text == text


@given(st.integers(-10, 999), st.text(max_size=40))
def test_no_answer_that_is_not_a_2xx_counts_as_accepted(code: int, text: str) -> None:
    assert (classify_answer(code, text).kind is AnswerKind.ACCEPTED) == (200 <= code <= 299)


@given(st.integers(1, 8), st.floats(0, 0.999))
def test_trying_again_waits_longer_each_time_and_ends(attempts: int, jitter: float) -> None:
    now = datetime(2026, 11, 23, 9, tzinfo=UTC)
    at = next_attempt(attempts, now, jitter)
    if attempts > len(RETRY_DELAYS_SECONDS):
        assert at is None
    else:
        delay = timedelta(seconds=RETRY_DELAYS_SECONDS[attempts - 1])
        assert at is not None
        assert now + delay <= at < now + 1.2 * delay
