"""Gates where there is more than one of something: campaigns, runs, topics, audiences, entries of the suppression list."""

from collections.abc import Callable
from datetime import datetime, timedelta

import pytest

from tests.services.test_gates import CLEARED, another, cleared, held, limit, new_words
from tests.support.museum import NOW, Museum
from tests.support.sending import OK, claim, kit_of, mark, send_all, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.audiences.clearance import clearance, people_behind
from uvarovite.services.audiences.members import pick_one
from uvarovite.services.contacts.editing import record_consent, suppress_person
from uvarovite.services.contacts.people import person
from uvarovite.services.delivery import dispatch
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import run_sql
from uvarovite.store.tables import MemberKind


def mark_first_batch(museum: Museum, run_id: int, now: datetime = NOW) -> Callable[[datetime], None]:
    """Let a worker have the first two people in hand; what is returned settles them."""
    kit, batch = kit_of(museum, run_id), claim(museum, "w1", now)
    assert batch is not None
    group = mark(museum, batch, kit, now=now)
    assert len(group.marked) == 2

    return lambda at: settle(museum, batch, kit, group.marked, OK, at)


# ---------------------------------------------------------------- two campaigns with one message


def test_a_message_on_its_way_is_on_its_way_for_every_campaign(museum: Museum) -> None:
    run_id = museum.release()
    second = another(museum)
    assert {held(second)[one] for one in CLEARED} == {"again: got this message already"}
    # A run that rests is on its way still, and so is who is in hand when it is.
    mark_first_batch(museum, run_id)
    dispatch.pause(museum.database, SYSTEM, run_id, NOW)
    assert cleared(second) == set()
    # Whoever was in hand may have it; the others will not get it from a run that was stopped.
    dispatch.stop(museum.database, SYSTEM, run_id, NOW)
    assert {museum.states(run_id)[one] for one in ("M-01", "M-02")} == {"sending"}
    assert cleared(second) == CLEARED - {"M-01", "M-02"}


def test_caps_count_what_is_in_hand_and_what_rests(museum: Museum) -> None:
    limit(museum, week=1)
    run_id = museum.release()
    second = another(museum, message_id=new_words(museum), again=Again.EVERYBODY)
    mark_first_batch(museum, run_id)
    assert cleared(second) == set()
    dispatch.pause(museum.database, SYSTEM, run_id, NOW)
    assert {held(second)[one] for one in CLEARED} == {"recent: has had as much as is allowed within 7 days"}
    dispatch.stop(museum.database, SYSTEM, run_id, NOW)
    assert cleared(second) == CLEARED - {"M-01", "M-02"}


def test_a_run_that_was_released_to_everybody_goes_to_everybody(museum: Museum) -> None:
    run_id = museum.release()
    second = another(museum, again=Again.EVERYBODY)
    other = second.release()
    second.change(again=Again.NEW_TO_MESSAGE)
    send_all(museum, run_id)
    send_all(second, other)
    assert set(museum.states(run_id).values()) == {"accepted"}
    # What was released decides, not the campaign as it is by now.
    assert set(museum.states(other).values()) == {"accepted"}
    assert cleared(second) == set()


@pytest.mark.parametrize("days", [7, 30])
def test_what_was_settled_long_after_the_stop_counts_from_then_on(museum: Museum, days: int) -> None:
    limit(museum, week=1 if days == 7 else None, month=1 if days == 30 else None)
    run_id = museum.release()
    settle = mark_first_batch(museum, run_id)
    dispatch.stop(museum.database, SYSTEM, run_id, NOW)
    late = timedelta(hours=23)
    settle(NOW + late)
    second = another(museum, message_id=new_words(museum), again=Again.EVERYBODY)
    over = NOW + late + timedelta(days=days)
    assert cleared(second, over - timedelta(minutes=1)) == CLEARED - {"M-01", "M-02"}
    assert cleared(second, over) == CLEARED


# ---------------------------------------------------------------- two topics


def cleared_for(museum: Museum, topic_id: int, **asked: object) -> set[int]:
    ask = {"text": "everyone", "topic_id": topic_id, "now": NOW, **asked}
    return {one.id for one in people_behind(museum.database, SYSTEM, gate=None, after_id=0, **ask)}  # type: ignore[arg-type]


def test_each_topic_of_a_person_stands_for_itself(museum: Museum) -> None:
    walks, other = vocabulary(museum.database, SYSTEM).topics[:2]
    ada, zoe = museum.contact_id("M-01"), museum.contact_id("M-03")

    def say(contact_id: int, topic: str, kind: str) -> None:
        record_consent(
            museum.database, SYSTEM, contact_id, topic=topic, kind=kind, wording="at the desk", until=None,
            for_address=None, now=NOW,
        )  # fmt: skip

    assert cleared_for(museum, other.id) == set()
    say(ada, other.key, "granted")
    say(zoe, other.key, "granted")
    say(zoe, walks.key, "withdrawn")
    assert cleared_for(museum, other.id) == {ada, zoe}
    assert {ada, zoe} & cleared_for(museum, walks.id) == {ada}
    say(ada, other.key, "withdrawn")
    assert cleared_for(museum, other.id) == {zoe}
    assert ada in cleared_for(museum, walks.id)


def test_a_suppression_for_a_topic_stands_beside_one_for_all(museum: Museum) -> None:
    walks, other = vocabulary(museum.database, SYSTEM).topics[:2]
    ada = museum.contact_id("M-01")
    record_consent(
        museum.database, SYSTEM, ada, topic=other.key, kind="granted", wording="at the desk", until=None,
        for_address=None, now=NOW,
    )  # fmt: skip
    suppress_person(museum.database, SYSTEM, ada, topic=walks.key, reason="too many walks", now=NOW)
    assert (ada in cleared_for(museum, walks.id), ada in cleared_for(museum, other.id)) == (False, True)
    suppress_person(museum.database, SYSTEM, ada, topic=None, reason="wants nothing", now=NOW)
    assert (ada in cleared_for(museum, walks.id), ada in cleared_for(museum, other.id)) == (False, False)
    entries = person(museum.database, SYSTEM, ada, NOW).suppressions
    assert [one.topic for one in entries] == [None, walks.name]
    # What holds for all is told first; without it the topic's own goes on to hold.
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE suppression SET lifted_at = now() WHERE id = :id", {"id": entries[0].id})
    assert (ada in cleared_for(museum, walks.id), ada in cleared_for(museum, other.id)) == (False, True)


# ---------------------------------------------------------------- two audiences


def test_who_is_picked_by_hand_is_picked_for_that_audience_alone(museum: Museum) -> None:
    database = museum.database
    skarn, breccia = (
        save_audience(
            database, SYSTEM, audience_id=None, name=town, text=f'town is "{town}"', revision=None, now=NOW
        ).id
        for town in ("Skarn", "Breccia")
    )
    dai, edda = museum.contact_id("M-04"), museum.contact_id("M-05")
    pick_one(database, SYSTEM, breccia, edda, kind=MemberKind.ADDED, now=NOW)
    pick_one(database, SYSTEM, breccia, dai, kind=MemberKind.LEFT_OUT, now=NOW)

    def of(town: str, audience_id: int) -> set[int]:
        return cleared_for(museum, museum.topic_id, text=f'town is "{town}"', audience_id=audience_id)

    assert of("Breccia", breccia) == {edda}
    # The same conditions for another audience, where nobody was picked.
    assert of("Breccia", skarn) == {dai}
    assert edda in of("Skarn", skarn)
    both = 'in audience "Skarn" and in audience "Breccia"'
    assert clearance(database, SYSTEM, text=both, topic_id=museum.topic_id, now=NOW).matched == 1
