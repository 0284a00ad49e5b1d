"""Deliveries: every pair of state and event, what relays' answers mean, and when to try again."""

from datetime import UTC, datetime, timedelta
from itertools import product

import pytest
from hypothesis import example, given
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
from uvarovite.core.delivery.answers import LONGEST_SAID, MEANING_WORDS, Meaning, Stage, as_kept, meaning_words
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
    (S.SENDING, E.BREAK): S.CLAIMED,
    (S.CLAIMED, E.POSTPONE): S.DEFERRED,
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


K, M = AnswerKind, Meaning

ANSWERS = [
    (250, "2.0.0 Ok: queued as 4E77A", K.ACCEPTED, M.ACCEPTED),
    (250, "Ok", K.ACCEPTED, M.ACCEPTED),
    # By the enhanced code: the address, or what stands before it, is not there.
    (550, "5.1.1 No such user", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (550, "5.1.2 No such domain", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (553, "5.1.3 Bad syntax", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (550, "5.1.10 Null MX", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (551, "5.1.6 Moved away", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (550, "5.2.1 Mailbox disabled", K.REFUSED_ADDRESS, M.MAILBOX_DISABLED),
    (552, "5.2.2 Over quota", K.TRY_LATER, M.MAILBOX_FULL),
    (552, "5.3.4 Too big", K.REFUSED_SENDER, M.CANNOT_TAKE_IT),
    (500, "5.5.1 What?", K.REFUSED_SENDER, M.NOT_UNDERSTOOD),
    (553, "5.6.7 No SMTPUTF8", K.REFUSED_ADDRESS, M.NEEDS_SMTPUTF8),
    (550, "5.7.1 Blocked by policy", K.REFUSED_SENDER, M.POLICY),
    (535, "5.7.8 Bad credentials", K.REFUSED_SENDER, M.LOG_IN_REFUSED),
    (530, "5.7.0 Authentication required", K.REFUSED_SENDER, M.WANTS_LOG_IN),
    (452, "4.2.2 Mailbox full", K.TRY_LATER, M.MAILBOX_FULL),
    (451, "4.7.1 Greylisted, come back in 300 seconds", K.TRY_LATER, M.GREYLISTED),
    (450, "4.7.28 slow down", K.TRY_LATER, M.SLOW_DOWN),
    (421, "4.3.2 Shutting down", K.TRY_LATER, M.BUSY),
    # A detail is matched whole: 5.2.22 is no full mailbox, 4.7.10 no greylisting.
    (550, "5.2.22 something new", K.REFUSED_ADDRESS, M.MAILBOX_DISABLED),
    (450, "4.7.10 something new", K.TRY_LATER, M.SLOW_DOWN),
    # By the reply code, where there is no enhanced one, or none that is known.
    (421, "Bye", K.TRY_LATER, M.CLOSING),
    (450, "Not now", K.TRY_LATER, M.NOT_NOW),
    (451, "Try again later", K.TRY_LATER, M.BUSY),
    (452, "Too many", K.TRY_LATER, M.TOO_MANY),
    (530, "Log in first", K.REFUSED_SENDER, M.WANTS_LOG_IN),
    (535, "Wrong", K.REFUSED_SENDER, M.LOG_IN_REFUSED),
    (550, "No such user", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (551, "Moved", K.REFUSED_ADDRESS, M.GONE),
    (552, "Full", K.TRY_LATER, M.MAILBOX_FULL),
    (553, "Not that", K.REFUSED_ADDRESS, M.NOT_ALLOWED),
    (554, "No", K.REFUSED_SENDER, M.POLICY),
    (499, "4.9.9 something new", K.TRY_LATER, M.LATER),
    (599, "whatever", K.REFUSED_SENDER, M.REFUSED),
    # An enhanced code that contradicts its reply is not believed, nor one in the midst of the text.
    (450, "5.1.1 confused", K.TRY_LATER, M.NOT_NOW),
    (550, "4.7.1 confused", K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (554, "see 5.1.1 in the manual", K.REFUSED_SENDER, M.POLICY),
    (354, "go on", K.CONNECTION, M.NO_ANSWER),
    (0, "", K.CONNECTION, M.NO_ANSWER),
]


@pytest.mark.parametrize(("code", "text", "kind", "meaning"), ANSWERS)
def test_an_answer_has_one_meaning(code: int, text: str, kind: AnswerKind, meaning: Meaning) -> None:
    answer = classify_answer(code, text)
    assert (answer.kind, answer.meaning, answer.text) == (kind, meaning, text)


@pytest.mark.parametrize(("code", "text", "stage", "kind", "meaning"), [
    # Who it is from was refused: that is about us, whatever the number says of addresses.
    (550, "No such user", Stage.MAIL, K.REFUSED_SENDER, M.SENDER_REFUSED),
    (550, "5.1.1 No such user", Stage.MAIL, K.REFUSED_SENDER, M.SENDER_REFUSED),
    (550, "5.7.1 You are not allowed", Stage.MAIL, K.REFUSED_SENDER, M.SENDER_REFUSED),
    (530, "Log in first", Stage.MAIL, K.REFUSED_SENDER, M.WANTS_LOG_IN),
    (552, "Too big", Stage.MAIL, K.REFUSED_SENDER, M.CANNOT_TAKE_IT),
    (451, "4.7.1 Later", Stage.MAIL, K.TRY_LATER, M.GREYLISTED),
    # The message was refused, and the address had been agreed to.
    (550, "Not that", Stage.TEXT, K.REFUSED_SENDER, M.POLICY),
    (552, "Too big", Stage.TEXT, K.REFUSED_SENDER, M.CANNOT_TAKE_IT),
    (550, "5.1.1 No such user after all", Stage.TEXT, K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (550, "5.1.8 Your domain does not exist", Stage.RCPT, K.REFUSED_SENDER, M.SENDER_ADDRESS),
    (550, "5.4.4 No such domain", Stage.RCPT, K.REFUSED_ADDRESS, M.UNKNOWN_ADDRESS),
    (550, "5.4.1 No answer from there", Stage.RCPT, K.REFUSED_SENDER, M.NOT_ROUTED),
])  # fmt: skip
def test_what_was_refused_decides_whose_matter_it_is(code: int, text: str, stage: Stage, kind: K, meaning: M) -> None:
    answer = classify_answer(code, text, stage)
    assert (answer.kind, answer.meaning) == (kind, meaning)


@given(st.integers(400, 599), st.sampled_from(["", "5.1.1 who", "5.2.1 off", "5.1.10 null", "4.2.2 full"]))
def test_no_refusal_of_the_sender_is_held_against_an_address(code: int, text: str) -> None:
    assert classify_answer(code, text, Stage.MAIL).kind is not AnswerKind.REFUSED_ADDRESS


def test_every_meaning_has_its_own_words_and_an_unknown_one_is_said_by_its_code() -> None:
    assert len(set(MEANING_WORDS.values())) == len(Meaning) == len(MEANING_WORDS)
    assert meaning_words(Meaning.GREYLISTED) == "greylisted: told to come back later"
    assert meaning_words("of_another_version") == "of another version"


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


@given(st.binary(max_size=200))
@example(b"Gone\0 away\xff")
def test_whatever_bytes_a_relay_answers_with_can_be_kept(said: bytes) -> None:
    kept = classify_answer(550, said.decode("utf-8", "surrogateescape")).text
    assert kept.encode().decode() == kept
    assert "\0" not in kept
    assert as_kept(kept) == kept


@given(st.text(st.characters(exclude_categories=["Cc", "Cs"]) | st.sampled_from("\t\n"), max_size=200))
def test_what_a_relay_says_in_characters_is_kept_as_it_is(said: str) -> None:
    assert as_kept(said) == said


def test_a_relay_that_does_not_stop_talking_is_cut_short() -> None:
    assert as_kept("x" * 9000) == "x" * LONGEST_SAID
