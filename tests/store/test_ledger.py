"""The ledger of consent: replaying the events gives the table of current states, at any point."""

from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.support.museum import NOW, Museum
from uvarovite.core.consent import ConsentEventKind, ConsentState, fold_consent
from uvarovite.store.consent import append_for_contact, consent_of_contact, topics
from uvarovite.store.database import run_sql

steps = st.lists(
    st.tuples(st.sampled_from(["M-01", "M-02", "M-03"]), st.integers(0, 2), st.sampled_from(ConsentEventKind)),
    max_size=12,
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=40)
@given(steps)
def test_replay_gives_the_current_state(museum: Museum, steps: list[tuple[str, int, ConsentEventKind]]) -> None:
    with museum.database.transaction() as tx:
        ids = [topic.id or 0 for topic in topics(tx)]
        for place, (contact_no, topic, kind) in enumerate(steps):
            append_for_contact(
                tx,
                museum.contact_id(contact_no),
                topic_id=ids[topic],
                kind=kind,
                at=NOW + timedelta(minutes=place),
                way="by_hand",
                evidence={},
            )
            for contact in ("M-01", "M-02", "M-03"):
                _compare(tx, museum.contact_id(contact), ids)
        tx.rollback()


def _compare(tx, contact_id: int, topic_ids: list[int]) -> None:  # type: ignore[no-untyped-def]
    current = [row.state or ConsentState.NEVER for row in consent_of_contact(tx, contact_id)]
    for topic_id, state in zip(topic_ids, current, strict=False):
        events = run_sql(
            tx,
            "SELECT kind FROM consent_event WHERE contact_id = :contact AND topic_id = :topic ORDER BY id",
            {"contact": contact_id, "topic": topic_id},
        )
        assert fold_consent(ConsentEventKind(row.kind) for row in events) == state
