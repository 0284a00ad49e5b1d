"""The number on screen is the number that is sent: clearance, drift, and releasing twice."""

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from hypothesis import HealthCheck, given, settings

from tests.support.fields import trees_of
from tests.support.museum import MESSAGE, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.expressions import Node, print_criteria
from uvarovite.core.messages import MessageContent, Paragraph
from uvarovite.core.messages.document import OtherWords
from uvarovite.demo.story import founding
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.audiences.clearance import clearance, cleared_without, people_behind
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal
from uvarovite.services.expressions.criteria import read_criteria
from uvarovite.services.messages.messages import save_message
from uvarovite.store.database import run_sql


@pytest.mark.parametrize("many", [0, 150_000])
def test_each_gate_holds_whom_it_should_and_the_sum_agrees(
    museum: Museum, many: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Who shares an address is found in two ways, by how many are cleared.
    monkeypatch.setattr("uvarovite.store.audiences.clearance.MANY", many)
    taken = clearance(museum.database, SYSTEM, text="everyone", topic_id=museum.topic_id, now=NOW)
    assert (taken.matched, taken.cleared) == (10, 5)
    told = {(gate.key, reason.key): (reason.held, reason.names) for gate in taken.gates for reason in gate.reasons}
    assert told == {
        ("address", "no_address"): (1, ["Fenwick Quill"]),
        ("consent", "left"): (1, ["Hugh Garth"]),
        ("suppressed", "by_hand"): (2, ["Ivy Cragg", "Jude Lowick"]),
        ("duplicate", "same_address"): (1, ["Gus Thwaite-Gray"]),
    }
    assert [gate.left for gate in taken.gates] == [9, 9, 8, 6, 6, 5]


def test_a_gate_that_is_a_matter_of_care_tells_what_lifting_it_would_change(museum: Museum) -> None:
    def without(gate: str) -> int:
        return cleared_without(museum.database, SYSTEM, text="everyone", topic_id=museum.topic_id, gate=gate, now=NOW)

    # Nobody is held by a gate that may be lifted. That Gus shares Ada's address is no matter of care: nobody gets it twice.
    assert (without("undeliverable"), without("left_out"), without("recent")) == (5, 5, 5)
    for gate in ("consent", "suppressed", "address", "duplicate", "none"):
        with pytest.raises(BadInput):
            without(gate)


def test_a_topic_that_nobody_was_asked_about_clears_nobody(museum: Museum) -> None:
    taken = clearance(museum.database, SYSTEM, text="everyone", topic_id=museum.topic_id + 1, now=NOW)
    assert taken.cleared == 0
    consent = next(gate for gate in taken.gates if gate.key == "consent")
    assert [(reason.words, reason.held) for reason in consent.reasons] == [("never asked", 9)]


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=60)
@given(trees_of(founding(smtp_host="", smtp_port=0).fields, 5))
def test_matched_is_always_held_plus_cleared_and_the_people_are_those_counted(museum: Museum, tree: Node) -> None:
    text = print_criteria(tree)
    taken = clearance(museum.database, SYSTEM, text=text, topic_id=museum.topic_id, now=NOW)
    read = read_criteria(museum.database, SYSTEM, text=text, now=NOW)
    assert read.matched == taken.matched == sum(gate.held for gate in taken.gates) + taken.cleared
    people: list[int] = []
    for gate in (*(gate.key for gate in taken.gates), None):
        found = people_behind(
            museum.database, SYSTEM, text=text, topic_id=museum.topic_id, gate=gate, after_id=0, now=NOW
        )
        held = next((one.held for one in taken.gates if one.key == gate), taken.cleared)
        assert len(found) == held
        people += [person.id for person in found]
    assert len(people) == len(set(people)) == taken.matched


def test_what_is_released_is_who_was_cleared(museum: Museum) -> None:
    view = museum.view()
    assert [check for check in view.checks if check.blocking] == []
    assert "goes to 5 people of Everyone who chose Field walks" in view.summary
    run_id = museum.release()
    assert museum.states(run_id) == dict.fromkeys(["M-01", "M-02", "M-03", "M-04", "M-05"], "waiting")
    with museum.database.transaction() as tx:
        sizes = run_sql(tx, "SELECT number, size FROM batch WHERE run_id = :run ORDER BY 1", {"run": run_id})
    assert [(row.number, row.size) for row in sizes] == [(1, 2), (2, 2), (3, 1)]


def test_releasing_twice_makes_one_run(museum: Museum) -> None:
    def attempt(_: int) -> str:
        try:
            return f"run {museum.release()}"
        except (Conflict, ServiceRefusal) as fault:
            return fault.code

    with ThreadPoolExecutor(4) as pool:
        told = sorted(pool.map(attempt, range(4)))
    assert told[0] == "run 1"
    assert set(told[1:]) <= {"running", "blocked"}
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM delivery")[0][0] == 5


def test_a_number_that_moved_since_it_was_seen_stops_the_release(museum: Museum) -> None:
    with pytest.raises(Conflict, match="5 people are cleared now; it was 7") as fault:
        museum.release(seen_cleared=7)
    assert fault.value.code == "drift"
    with pytest.raises(Conflict) as fault:
        museum.release(revision=99)
    assert fault.value.code == "changed"
    with pytest.raises(Conflict) as fault:
        museum.release(seen_message_number=99)
    assert fault.value.code == "changed"
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT (SELECT count(*) FROM run) + (SELECT count(*) FROM delivery)")[0][0] == 0


def test_a_hole_for_one_cleared_person_blocks_the_release_and_names_them(museum: Museum) -> None:
    content = MESSAGE.model_copy(update={"blocks": (Paragraph(text="Dear @{first_name},"), *MESSAGE.blocks)})
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=1, now=NOW
    )
    blocking = [check.message for check in museum.view().checks if check.blocking]
    assert blocking == [
        "1 person has no first name and would see a hole: Wren. "
        'Add a fallback: @{first_name else "…"}, or name it under Required fields: then they do not get the message.'
    ]
    with pytest.raises(ServiceRefusal) as fault:
        museum.release()
    assert fault.value.code == "blocked"


def test_a_hole_in_a_field_of_ones_own_is_found_too(museum: Museum) -> None:
    content = MESSAGE.model_copy(update={"blocks": (Paragraph(text="Your pledge is @{pledge}."), *MESSAGE.blocks)})
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=1, now=NOW
    )
    (blocking,) = [check.message for check in museum.view().checks if check.blocking]
    assert blocking.startswith("1 person has no pledge and would see a hole: Edda Öttinger.")


@pytest.mark.parametrize(
    ("words", "other", "told"),
    [
        # Only Edda, who reads German, lacks a pledge; only Wren, who reads English, a first name.
        ("@{pledge}", "Nichts", []),
        ("Nothing", "@{pledge}", ["1 person has no pledge and would see a hole: Edda Öttinger"]),
        (
            "@{first_name}",
            "@{pledge}",
            [
                "1 person has no first name and would see a hole: Wren",
                "1 person has no pledge and would see a hole: Edda Öttinger",
            ],
        ),
        ("Nothing", "@{first_name}", []),
    ],
)
def test_a_hole_in_the_words_in_one_language_is_one_for_its_readers_alone(
    museum: Museum, words: str, other: str, told: list[str]
) -> None:
    german = OtherWords(language="de", subject="Zwei Wege", blocks=(Paragraph(text=other),))
    content = MessageContent(subject="Two walks", blocks=(Paragraph(text=words),), others=(german,))
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=1, now=NOW
    )
    blocking = [check.message for check in museum.view().checks if check.blocking]
    assert [message.split(".")[0] for message in blocking] == told


def test_what_is_wrong_in_another_language_is_said_with_the_language(museum: Museum) -> None:
    german = OtherWords(language="de", subject="", blocks=(Paragraph(text="Kommt @{frist_name}"),))
    content = MESSAGE.model_copy(update={"others": (german,)})
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=1, now=NOW
    )
    told = [check.message for check in museum.view().checks if check.blocking]
    assert told[0] == "In the subject in German: The subject is empty."
    assert told[1].startswith("In block 1 in German: There is no field “frist_name”")


def test_words_with_an_unknown_field_can_be_saved_and_not_released(museum: Museum) -> None:
    content = MESSAGE.model_copy(update={"subject": "Dear @{firstname}"})
    saved = save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=1, now=NOW
    )
    assert [(one.problem.use, one.problem.suggestion) for one in saved.problems] == [
        ("first_name", "Dear @{first_name}")
    ]
    blocking = [check for check in museum.view().checks if check.blocking]
    assert "Did you mean “first_name”?" in blocking[0].message
    with pytest.raises(ServiceRefusal):
        museum.release()


def test_two_who_edit_the_same_lose_nothing(museum: Museum) -> None:
    database = museum.database
    save_message(database, SYSTEM, message_id=museum.message_id, name="Walks", content=MESSAGE, revision=1, now=NOW)
    changed = MESSAGE.model_copy(update={"subject": "mine"})
    save_message(database, SYSTEM, message_id=museum.message_id, name="Walks", content=changed, revision=1, now=NOW)
    theirs = MESSAGE.model_copy(update={"subject": "theirs"})
    with pytest.raises(Conflict):
        save_message(database, SYSTEM, message_id=museum.message_id, name="Walks", content=theirs, revision=1, now=NOW)

    def save(revision: int) -> None:
        save_audience(
            database,
            SYSTEM,
            audience_id=museum.audience_id,
            name="Everyone",
            text='town is "Skarn"',
            revision=revision,
            now=NOW + timedelta(minutes=1),
        )

    save(1)
    with pytest.raises(Conflict):
        save(1)


def test_criteria_with_a_fault_are_refused_with_their_place(museum: Museum) -> None:
    with pytest.raises(BadInput) as fault:
        clearance(museum.database, SYSTEM, text='twon is "Skarn"', topic_id=museum.topic_id, now=NOW)
    assert fault.value.place is not None
    assert (fault.value.place.line, fault.value.place.column, fault.value.place.length) == (1, 1, 4)
