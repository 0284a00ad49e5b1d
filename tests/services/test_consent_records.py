"""Consent by hand needs its evidence, and what is proved afterwards: on a day, and for a data request."""

from datetime import date, datetime, timedelta

import pytest

from tests.support.museum import HASHER, NOW, Museum
from tests.support.people import DAY, undo, who
from tests.support.sending import send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import Tracked
from uvarovite.services.consent import records
from uvarovite.services.contacts import editing
from uvarovite.services.errors import BadInput
from uvarovite.services.selection import bulk


def test_who_was_subscribed_on_a_day_and_why(museum: Museum) -> None:
    contact_id = museum.contact_id("M-08")
    begin = (NOW - timedelta(days=100)).date()

    def standing(day: date) -> tuple[str, str]:
        record = records.consent_record(museum.database, SYSTEM, contact_id, as_of=day, now=NOW)
        walks = next(one for one in record.standings if one.topic == "Field walks")
        return walks.state, walks.because

    assert standing(begin - DAY) == ("never asked", "")
    state, because = standing(begin)
    assert state == "opted in"
    assert because.startswith("opted in (according to the imported list): Signed the list at the open day")
    assert standing(begin + DAY) == ("left", "left: by telephone")
    editing.record_consent(
        museum.database, SYSTEM, museum.contact_id("M-01"), topic="field_walks", kind="paused", wording="on holiday",
        until=NOW + 10 * DAY, now=NOW,
    )  # fmt: skip
    paused = next(topic for topic in who(museum, "M-01").topics if topic.key == "field_walks")
    assert (paused.state, paused.paused_until) == ("paused", NOW + 10 * DAY)
    view = museum.view()
    assert view.clearance is not None
    gate = next(gate for gate in view.clearance.gates if gate.key == "consent")
    assert "paused" in {reason.key for reason in gate.reasons}
    record = records.consent_record(museum.database, SYSTEM, contact_id, as_of=None, now=NOW)
    told = records.record_as_json(record).decode()
    for word in ("hugh@slatepost.example", "by telephone", "Signed the list at the open day"):
        assert word in told
        assert word in records.record_as_csv(record)


def test_the_record_for_a_data_request_has_everything_and_nothing_later_than_its_day(museum: Museum) -> None:
    ada = museum.contact_id("M-01")

    def record(now: datetime, day: date | None = None) -> records.ConsentRecord:
        return records.consent_record(museum.database, SYSTEM, ada, as_of=day, now=now)

    def ticked() -> bulk.Selection:
        return bulk.Selection(ids=(ada,), seen=1)

    before = record(NOW)
    send_all(museum, museum.release(), NOW + DAY)
    later = NOW + 2 * DAY
    town = before_town = next(line.value for line in before.values if line.label == "Town")
    editing.change_value(museum.database, SYSTEM, ada, key="town", before=town, text="Marlby", hasher=HASHER, now=later)
    bulk.tag(museum.database, SYSTEM, ticked(), name="walker", put=True, now=later)
    editing.add_note(museum.database, SYSTEM, ada, "Likes opals", now=later)
    editing.set_wish(museum.database, SYSTEM, ada, Tracked.OFF, now=later)
    bulk.suppress_many(museum.database, SYSTEM, ticked(), reason="asked by letter", now=later)
    after = record(later)
    assert "Marlby" in {line.value for line in after.values}
    assert (after.tags, [line.words for line in after.notes]) == (["walker"], ["Likes opals"])
    assert [(line.about, line.words) for line in after.suppression] == [
        ("what they open and follow", "not noted"),
        ("all mail", "suppressed by hand"),
    ]
    assert [(line.about, line.words) for line in after.messages] == [("Walks", "sent")]
    told = records.record_as_csv(after)
    for word in ("Marlby", "walker", "Likes opals", "suppressed by hand", "asked by letter", "Walks,sent"):
        assert word in told
        assert word.split(",")[0] in records.record_as_json(after).decode()
    # As of a day before that, it says what it said then, in every form.
    then = record(later, NOW.date())
    assert before_town in {line.value for line in then.values}
    assert (then.values, then.tags, then.notes, then.suppression, then.messages) == (before.values, [], [], [], [])
    # What was undone later stood there that day.
    done = bulk.set_field(museum.database, SYSTEM, ticked(), key="town", text="Skellbeck", now=later + DAY)
    undo(museum, done, 4 * DAY)
    assert "Marlby" in {line.value for line in record(later + 3 * DAY).values}
    assert "Skellbeck" in {line.value for line in record(later + 3 * DAY, (later + DAY).date()).values}
    # Before they were there, nothing is known.
    assert record(later, (NOW - 900 * DAY).date()).values == []


@pytest.mark.parametrize(
    ("kind", "wording", "days"), [("granted", "yes", None), ("paused", "on holiday", None), ("paused", "on holiday", -1), ("imported", "by letter", None)]
)  # fmt: skip
def test_an_entry_by_hand_needs_its_evidence(museum: Museum, kind: str, wording: str, days: int | None) -> None:
    with pytest.raises(BadInput):
        editing.record_consent(
            museum.database, SYSTEM, museum.contact_id("M-01"), topic="field_walks", kind=kind, wording=wording,
            until=None if days is None else NOW + days * DAY, now=NOW,
        )  # fmt: skip
    assert len(who(museum, "M-01").ledger) == 1


def test_who_leaves_by_hand_is_held_in_the_run_that_goes(museum: Museum) -> None:
    run_id = museum.release()
    editing.record_consent(
        museum.database, SYSTEM, museum.contact_id("M-03"), topic="field_walks", kind="withdrawn", wording="by telephone",
        until=None, now=NOW,
    )  # fmt: skip
    assert museum.states(run_id)["M-03"] == "held"
