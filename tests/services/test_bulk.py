"""What is done to many: those who were seen or nobody, with an undo, or for good."""

from datetime import timedelta

import pytest

from tests.support.importing import import_people, preview
from tests.support.museum import HASHER, NOW, Museum
from tests.support.people import DAY, change, found, some, undo, who
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.audiences.clearance import people_behind
from uvarovite.services.consent import suppressions
from uvarovite.services.contacts import duplicates, editing
from uvarovite.services.contacts.people import person
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.services.selection.table import Wanted, contact_page
from uvarovite.store.database import run_sql


def test_a_bulk_action_happens_to_those_who_were_seen_or_to_nobody(museum: Museum) -> None:
    with pytest.raises(BadInput, match="Nobody is ticked"):
        bulk.tag(museum.database, SYSTEM, Selection(ids=(), seen=0), name="x", put=True, now=NOW)
    matching = Selection(wanted=Wanted(criteria='membership is "Friend"'), seen=5)
    with pytest.raises(Conflict, match="now there are 7"):
        bulk.tag(museum.database, SYSTEM, matching, name="x", put=True, now=NOW)
    assert found(museum) == 10
    done = bulk.tag(
        museum.database, SYSTEM, Selection(wanted=Wanted(criteria='membership is "Friend"'), seen=7),
        name="  lamp   owner ", put=True, now=NOW,
    )  # fmt: skip
    assert (done.contacts, done.words) == (7, "Tagged “lamp owner”: 7 people.")
    assert who(museum, "M-02").tags == ["lamp owner"]
    off = bulk.tag(museum.database, SYSTEM, some(museum, "M-02", "M-01"), name="Lamp Owner", put=False, now=NOW)
    assert off.contacts == 1
    undo(museum, off)
    assert who(museum, "M-02").tags == ["lamp owner"]
    undo(museum, done)
    assert who(museum, "M-04").tags == []
    with pytest.raises(Conflict, match="undone already"):
        undo(museum, done)


def test_a_field_is_set_for_many_and_undone_but_for_what_changed_since(museum: Museum) -> None:
    people = some(museum, "M-01", "M-02", "M-03")
    done = bulk.set_field(museum.database, SYSTEM, people, key="town", text="Marlby", now=NOW)
    assert (done.contacts, found(museum, "marlby")) == (3, 3)
    change(museum, "M-02", "town", "Marlby", "Breccia")
    back = undo(museum, done)
    assert "1 person changed since" in back.words
    assert [who(museum, number).record["town"] for number in ("M-01", "M-02", "M-03")] == ["Skarn", "Breccia", "Skarn"]
    assert (found(museum, "marlby"), found(museum, "ada patron skarn")) == (0, 1)
    blank = bulk.set_field(museum.database, SYSTEM, people, key="pledge", text="", now=NOW)
    assert "pledge" not in who(museum, "M-01").record
    undo(museum, blank)
    assert who(museum, "M-01").record["pledge"] == {"amount": "750.50", "currency": "EUR"}
    for key, text in (("address", "x@y.example"), ("membership", "Emperor"), ("nothing", "x")):
        with pytest.raises(BadInput):
            bulk.set_field(museum.database, SYSTEM, people, key=key, text=text, now=NOW)


def test_many_are_subscribed_with_evidence_but_never_who_has_left(museum: Museum) -> None:
    people = some(museum, "M-01", "M-06", "M-08")
    with pytest.raises(BadInput, match="how these people opted in"):
        bulk.subscribe(museum.database, SYSTEM, people, topic="field_walks", legal_basis=" ", now=NOW)
    done = bulk.subscribe(
        museum.database, SYSTEM, people, topic="museum_news", legal_basis="Ticked at the desk", now=NOW
    )
    assert done.contacts == 3
    walks = bulk.subscribe(
        museum.database, SYSTEM, people, topic="field_walks", legal_basis="Ticked at the desk", now=NOW
    )
    assert walks.words == "Subscribed to Field walks: 0 people. 2 people were already. 1 person had left and stay out."
    editing.record_consent(
        museum.database, SYSTEM, museum.contact_id("M-06"), topic="museum_news", kind="granted", wording="by telephone",
        until=None, now=NOW,
    )  # fmt: skip
    undo(museum, done)
    states = {
        number: next(t.state for t in who(museum, number).topics if t.key == "museum_news")
        for number in ("M-01", "M-06")
    }
    assert states == {"M-01": "never", "M-06": "subscribed"}


def test_the_deleted_come_back_within_thirty_days_and_get_nothing_meanwhile(museum: Museum) -> None:
    run_id = museum.release()
    done = bulk.delete(museum.database, SYSTEM, some(museum, "M-01", "M-02"), now=NOW)
    assert (found(museum), found(museum, "benoît")) == (8, 0)
    assert museum.states(run_id)["M-01"] == "held"
    assert contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW).rows[0].contact_no != "M-01"
    with pytest.raises(Conflict, match="30 days"):
        undo(museum, done, 31 * DAY)
    undo(museum, done, 29 * DAY)
    assert (found(museum), found(museum, "benoît")) == (10, 1)


def test_the_erased_leave_no_word_and_do_not_come_back_by_a_file(museum: Museum) -> None:
    run_id = museum.release()
    import_people(museum, "E-mail address,Membership\nBenoit@slatepost.example,Emperor\n")
    editing.add_note(museum.database, SYSTEM, museum.contact_id("M-02"), "Likes opals", now=NOW)
    change(museum, "M-02", "town", "Skellbeck", "Marlby")
    contact_id = museum.contact_id("M-02")
    done = bulk.erase(museum.database, SYSTEM, some(museum, "M-02"), hasher=HASHER, now=NOW)
    assert done.change_set_id is None
    with museum.database.transaction() as tx:
        everything = "".join(
            str(run_sql(tx, f"SELECT * FROM {table}"))
            for table in (
                "contact",
                "contact_search",
                "contact_note",
                "contact_change",
                "change_set",
                "delivery",
                "suppression",
                "import_refusal",
                "import_file",
                "import_piece",
            )
        ).lower()
        ledger = run_sql(tx, "SELECT kind FROM consent_event WHERE contact_id = :id", {"id": contact_id})
    for word in ("benoit", "benoît", "ardoise", "opals"):
        assert word not in everything
    assert [row.kind for row in ledger] == ["imported"]
    with museum.database.transaction() as tx:
        held = run_sql(
            tx, "SELECT state FROM delivery WHERE run_id = :run AND contact_id = :id", {"run": run_id, "id": contact_id}
        )
    assert [row.state for row in held] == ["held"]
    again = preview(museum, "E-mail address,First name\nBENOIT@slatepost.example,Benoît\n")
    assert [row.code for row in again.refusals] == ["erased"]
    with pytest.raises(BadInput, match="asked to be forgotten"):
        change(museum, "M-01", "address", "ada@slatepost.example", "benoit@slatepost.example")
    with pytest.raises(NotFound):
        person(museum.database, SYSTEM, contact_id, NOW)


def test_what_the_erased_shared_stays_closed_and_their_merged_records_go_with_them(museum: Museum) -> None:
    # Gus has Ada's address; it complained.
    suppressions.suppress_by_text(museum.database, SYSTEM, "ada@slatepost.example", reason="complained", now=NOW)
    done = bulk.erase(museum.database, SYSTEM, some(museum, "M-01"), hasher=HASHER, now=NOW)
    assert done.words == ("1 person erased for good. 1 person with the same address will get nothing at it any more.")
    entry = suppressions.suppression_page(museum.database, SYSTEM, search="ada@").entries[0]
    assert (entry.reason, entry.liftable) == ("erased", False)
    outcome = people_behind(
        museum.database, SYSTEM, text="everyone", topic_id=museum.topic_id, gate="suppressed", after_id=0, now=NOW
    )
    assert "Gus Thwaite-Gray" in {one.name for one in outcome}
    # Benoît became Zoe, who became Edda: one person, whose every record goes.
    for kept, gone in (("M-03", "M-02"), ("M-05", "M-03")):
        duplicates.merge(
            museum.database, SYSTEM, kept_id=museum.contact_id(kept), gone_ids=[museum.contact_id(gone)], choices={},
            now=NOW,
        )  # fmt: skip
    bulk.erase(museum.database, SYSTEM, some(museum, "M-05"), hasher=HASHER, now=NOW)
    with museum.database.transaction() as tx:
        everything = str(run_sql(tx, "SELECT * FROM contact")) + str(run_sql(tx, "SELECT * FROM contact_search"))
    for word in ("benoit@", "zoe@", "edda@", "Öttinger"):
        assert word not in everything
    again = preview(museum, "E-mail address\nbenoit@slatepost.example\nedda@slatepost.example\n")
    assert [row.code for row in again.refusals] == ["erased", "erased"]


def test_what_was_done_to_many_is_listed_with_what_can_still_be_undone(museum: Museum) -> None:
    bulk.erase(museum.database, SYSTEM, some(museum, "M-10"), hasher=HASHER, now=NOW)
    tagged = bulk.tag(museum.database, SYSTEM, some(museum, "M-01"), name="x", put=True, now=NOW)
    bulk.subscribe(
        museum.database, SYSTEM, some(museum, "M-01", "M-02"), topic="museum_news", legal_basis="at the desk", now=NOW
    )
    bulk.delete(museum.database, SYSTEM, some(museum, "M-09"), now=NOW)
    undo(museum, tagged)

    def listed(after: timedelta) -> list[tuple[str, int, bool, bool]]:
        lines = bulk.latest_changes(museum.database, SYSTEM, NOW + after)
        return [(line.what, line.contacts, line.undoable, line.undone) for line in lines[:4]]

    subscribed = ("Subscribed to Museum news", 2, True, False)
    rest = [subscribed, ("Tagged “x”", 1, False, True), ("Erased 1 person for good", 1, False, False)]
    assert listed(DAY) == [("Deleted", 1, True, False), *rest]
    assert listed(31 * DAY) == [("Deleted", 1, False, False), *rest]
    with museum.database.transaction() as tx:
        erased = run_sql(tx, "SELECT id FROM change_set WHERE act = 'erased'")[0].id
    with pytest.raises(NotFound):
        bulk.undo(museum.database, SYSTEM, erased, now=NOW)


def test_who_is_left_out_gets_nothing_until_it_is_undone(museum: Museum) -> None:
    run_id = museum.release()
    with pytest.raises(BadInput):
        bulk.suppress_many(museum.database, SYSTEM, some(museum, "M-01"), reason="", now=NOW)
    done = bulk.suppress_many(museum.database, SYSTEM, some(museum, "M-01", "M-07"), reason="asked by letter", now=NOW)
    # Two people share one address.
    assert done.words == "1 address put on the suppression list."
    assert museum.states(run_id)["M-01"] == "held"
    assert [entry.reason for entry in who(museum, "M-07").suppressions] == ["by_hand"]
    assert undo(museum, done).words == "Undone: suppressed: asked by letter."
    assert who(museum, "M-07").suppressions == []
