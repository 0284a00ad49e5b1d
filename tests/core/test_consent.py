"""The ledger's laws: what can open, what only the person can open, pauses, and merging to the narrower."""

from datetime import UTC, datetime, timedelta
from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.consent import (
    TRANSITIONS,
    ConsentEvent,
    ConsentEventKind,
    ConsentEvidence,
    ConsentState,
    SuppressionReason,
    evidence_words,
    fold_consent,
    may_be_lifted_by_user,
    narrower,
    standing_at,
)

BEGIN = datetime(2026, 1, 1, tzinfo=UTC)
K, S = ConsentEventKind, ConsentState
# What somebody other than the person can record about them.
BY_OTHERS = [K.ASKED, K.IMPORTED, K.PAUSED, K.RETRACTED]


def ledger(*kinds: K, pause_days: int = 30) -> list[ConsentEvent]:
    """Events a day apart."""
    return [
        ConsentEvent(
            kind=kind,
            at=BEGIN + timedelta(days=day),
            until=BEGIN + timedelta(days=day + pause_days) if kind is K.PAUSED else None,
        )
        for day, kind in enumerate(kinds)
    ]


def test_every_event_has_a_meaning_in_every_state() -> None:
    assert set(TRANSITIONS) == set(product(S, K))


@given(st.lists(st.sampled_from(K), max_size=8), st.lists(st.sampled_from(BY_OTHERS), max_size=8))
def test_what_a_person_closed_only_they_open(before: list[K], after: list[K]) -> None:
    closed = [*before, K.WITHDRAWN]
    assert fold_consent(ledger(*closed, *after)).state is S.LEFT
    assert fold_consent(ledger(*closed, *after, K.GRANTED)).state is S.SUBSCRIBED


@given(st.lists(st.sampled_from(K), max_size=8))
def test_who_answered_from_the_mailbox_has_confirmed_for_as_long_as_they_are_subscribed(kinds: list[K]) -> None:
    standing = fold_consent(ledger(*kinds))
    states = [fold_consent(ledger(*kinds[: count + 1])).state for count in range(len(kinds))]
    # Since they were subscribed without a break, up to now.
    since = max((place + 1 for place, state in enumerate(states) if state is not S.SUBSCRIBED), default=0)
    assert standing.confirmed == (standing.state is S.SUBSCRIBED and K.CONFIRMED in kinds[since:])


@given(st.lists(st.sampled_from([K.ASKED, K.IMPORTED]), max_size=6))
def test_a_pause_holds_until_it_ends_or_the_person_says_otherwise(others: list[K]) -> None:
    events = ledger(K.GRANTED, K.PAUSED, *others)
    standing = fold_consent(events)
    end = BEGIN + timedelta(days=31)
    assert standing.paused_until == end
    assert standing.state is S.SUBSCRIBED
    assert fold_consent([*events, *ledger(K.CONFIRMED)]).paused_until is None
    assert fold_consent(ledger(K.ASKED, K.PAUSED)).paused_until is None


@given(st.lists(st.sampled_from(K), max_size=10), st.integers(-1, 12))
def test_the_standing_at_a_moment_is_what_was_known_then(kinds: list[K], day: int) -> None:
    events = ledger(*kinds)
    assert standing_at(events, BEGIN + timedelta(days=day)) == fold_consent(events[: day + 1])


def test_since_is_when_the_state_began() -> None:
    standing = fold_consent(ledger(K.ASKED, K.GRANTED, K.CONFIRMED, K.IMPORTED))
    assert standing.since == BEGIN + timedelta(days=1)
    assert fold_consent([]).since is None


@given(st.sampled_from(S), st.sampled_from(S))
def test_a_merge_can_close_but_never_open(one: S, other: S) -> None:
    merged = narrower(one, other)
    assert merged is narrower(other, one)
    assert merged in (one, other)
    if S.LEFT in (one, other):
        assert merged is S.LEFT
    if merged is S.SUBSCRIBED:
        assert one is other is S.SUBSCRIBED


def test_complaints_and_erasures_are_lifted_by_the_person_alone() -> None:
    liftable = {reason for reason in SuppressionReason if may_be_lifted_by_user(reason)}
    assert liftable == {SuppressionReason.HARD_BOUNCE, SuppressionReason.BY_HAND}


def test_what_stands_behind_an_entry_is_told_in_order_and_nothing_else_is() -> None:
    known = ConsentEvidence(row=7, file="people.csv", wording="", why="moved away", agent="LinkScan/3.1", delivery=4)
    assert evidence_words(known) == "moved away; from the file people.csv; row 7"
    assert evidence_words(ConsentEvidence()) == ""
