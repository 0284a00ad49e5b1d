"""The ledger of consent: replaying the events gives the table of current states, at any point."""

from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.support.museum import NOW, Museum
from uvarovite.core.consent import (
    NO_EVIDENCE,
    ConsentEventKind,
    ConsentStanding,
    ConsentState,
    fold_consent,
    standing_at,
    was_subscribed_sql,
)
from uvarovite.store.consent.ledger import append_for_contact, consent_of_contact, events_of, topics
from uvarovite.store.database import Transaction, run_sql

MINUTES = st.integers(0, 600)
steps = st.lists(
    st.tuples(st.sampled_from(["M-01", "M-02", "M-03"]), st.integers(0, 2), st.sampled_from(ConsentEventKind), MINUTES),
    max_size=12,
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=40)
@given(steps, MINUTES)
def test_replay_gives_the_current_state_and_that_of_any_earlier_moment(
    museum: Museum, steps: list[tuple[str, int, ConsentEventKind, int]], moment: int
) -> None:
    with museum.database.transaction() as tx:
        ids = [topic.id or 0 for topic in topics(tx)]
        people = {number: museum.contact_id(number) for number in ("M-01", "M-02", "M-03")}
        asked_for = NOW + timedelta(minutes=moment)
        then: dict[tuple[int, int], ConsentStanding] = {}
        at = NOW
        for contact_no, topic, kind, pause in steps:
            # What was current before an event that lies behind the moment is what held at it.
            at += timedelta(minutes=50)
            if at > asked_for:
                then = then or {(one, id_): current(tx, one, id_) for one in people.values() for id_ in ids}
            append_for_contact(
                tx,
                people[contact_no],
                topic_id=ids[topic],
                kind=kind,
                at=at,
                channel="by_hand",
                evidence=NO_EVIDENCE,
                until=at + timedelta(minutes=pause) if kind is ConsentEventKind.PAUSED else None,
            )
            for contact_id in people.values():
                for topic_id in ids:
                    events = events_of(tx, contact_id, topic_id)
                    assert fold_consent(events) == current(tx, contact_id, topic_id)
        for (contact_id, topic_id), standing in then.items():
            assert standing_at(events_of(tx, contact_id, topic_id), asked_for) == standing
        for topic_id in ids:
            # All at once, as criteria ask it.
            found = run_sql(
                tx,
                f"""SELECT contact_id FROM consent_event WHERE topic_id = :topic AND at <= :moment
                    GROUP BY contact_id HAVING {was_subscribed_sql("id", "kind")}""",
                {"topic": topic_id, "moment": asked_for},
            )
            subscribed = {
                one
                for one in people.values()
                if standing_at(events_of(tx, one, topic_id), asked_for).state is ConsentState.SUBSCRIBED
            }
            assert {row.contact_id for row in found} & set(people.values()) == subscribed
        tx.rollback()


def current(tx: Transaction, contact_id: int, topic_id: int) -> ConsentStanding:
    """The row of the table of current states."""
    row = next(row for row in consent_of_contact(tx, contact_id) if row.id == topic_id)
    return ConsentStanding(
        state=ConsentState(row.state or "never"),
        since=row.since,
        paused_until=row.paused_until,
        confirmed=bool(row.confirmed),
    )
