"""One person and many: edits that lose nothing, bulk actions with their undo, erasure, and what is proved afterwards."""

import csv
import io
from datetime import date, datetime, timedelta

import pytest
from python_calamine import CalamineWorkbook

from tests.support.bringing import bring_in, preview
from tests.support.museum import HASHER, NOW, Museum
from tests.support.sending import send_all
from uvarovite.services import bulk, consent_records, duplicates, editing, suppressions
from uvarovite.services.bulk import BulkResult, Selection
from uvarovite.services.clearance import people_behind
from uvarovite.services.contacts import Wanted, contact_page, count_contacts
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.exports import export
from uvarovite.services.people import Person, look_at_address, person
from uvarovite.store.database import run_sql

DAY = timedelta(days=1)


def who(museum: Museum, contact_no: str) -> Person:
    return person(museum.database, museum.contact_id(contact_no), NOW)


def some(museum: Museum, *numbers: str) -> Selection:
    return Selection(ids=tuple(museum.contact_id(number) for number in numbers), seen=len(numbers))


def change(museum: Museum, number: str, key: str, before: object, text: str) -> None:
    editing.change_value(
        museum.database, museum.contact_id(number), key=key, before=before, text=text, hasher=HASHER, user_id=None, now=NOW
    )  # fmt: skip


def undo(museum: Museum, done: BulkResult, later: timedelta = DAY) -> BulkResult:
    assert done.change_set_id is not None
    return bulk.undo(museum.database, done.change_set_id, user_id=None, now=NOW + later)


def found(museum: Museum, search: str = "", criteria: str = "") -> int:
    return count_contacts(museum.database, wanted=Wanted(search=search, criteria=criteria), now=NOW)


def test_an_edit_is_typed_found_and_in_the_history(museum: Museum) -> None:
    change(museum, "M-01", "town", "Skarn", "Marlby")
    change(museum, "M-01", "pledge", {"amount": "750.50", "currency": "EUR"}, "1,000.00")
    change(museum, "M-01", "address", "ada@slatepost.example", "ada@ünder.example")
    change(museum, "M-01", "first_name", "Ada", "")
    ada = who(museum, "M-01")
    assert ada.record["pledge"] == {"amount": "1000.00", "currency": "EUR"}
    assert "first_name" not in ada.record
    assert [list(line.changes) for line in ada.history] == [["first_name"], ["address"], ["pledge"], ["town"]]
    assert ada.history[3].changes["town"] == {"before": "Skarn", "after": "Marlby"}
    assert (found(museum, "marlby"), found(museum, "gray ada@ünder"), found(museum, criteria='town is "MARLBY"')) == (
        1,
        1,
        1,
    )
    with museum.database.transaction() as tx:
        folded = run_sql(tx, "SELECT address_folded FROM contact WHERE contact_no = 'M-01'")[0][0]
    assert folded == "ada@xn--nder-zra.example"


@pytest.mark.parametrize(
    ("key", "before", "text", "code"),
    [
        ("renews_on", "2026-12-01", "03/04/2026", "two_readings"),
        ("membership", "Patron", "Emperor", "no_such_choice"),
        ("address", "ada@slatepost.example", "nobody", "malformed"),
        ("contact_no", "M-01", "M-02", "number_taken"),
        ("pledge", {"amount": "750.50", "currency": "EUR"}, "12 USD", "other_currency"),
    ],
)
def test_an_edit_that_cannot_be_is_refused_and_nothing_lost(
    museum: Museum, key: str, before: object, text: str, code: str
) -> None:
    record = who(museum, "M-01").record
    with pytest.raises(BadInput) as fault:
        change(museum, "M-01", key, before, text)
    assert fault.value.code == code
    assert who(museum, "M-01").record == record


def test_two_people_editing_one_person_lose_nothing(museum: Museum) -> None:
    change(museum, "M-01", "town", "Skarn", "Marlby")
    with pytest.raises(Conflict, match="Nothing was overwritten"):
        change(museum, "M-01", "town", "Skarn", "Breccia")
    # Another field is no conflict, and who wrote the same has what they wanted.
    change(museum, "M-01", "language", "en", "de")
    change(museum, "M-01", "town", "Skarn", "Marlby")
    assert (who(museum, "M-01").record["town"], who(museum, "M-01").record["language"]) == ("Marlby", "de")


def test_a_person_keeps_an_address_or_a_number(museum: Museum) -> None:
    with pytest.raises(BadInput, match="nobody can tell"):
        change(museum, "M-06", "contact_no", "M-06", "")
    added = editing.add_person(
        museum.database, {"first_name": "Nia", "address": "nia@slatepost.example"}, hasher=HASHER, user_id=None, now=NOW
    )  # fmt: skip
    assert found(museum, "nia@slatepost") == 1
    assert person(museum.database, added, NOW).history[0].what == "Added by hand"
    for values in ({"first_name": "Nia"}, {"address": "x"}, {"contact_no": "M-01"}):
        with pytest.raises(BadInput):
            editing.add_person(museum.database, values, hasher=HASHER, user_id=None, now=NOW)


def test_a_bulk_action_happens_to_those_who_were_seen_or_to_nobody(museum: Museum) -> None:
    with pytest.raises(BadInput, match="Nobody is ticked"):
        bulk.tag(museum.database, Selection(ids=(), seen=0), name="x", put=True, user_id=None, now=NOW)
    matching = Selection(wanted=Wanted(criteria='membership is "Friend"'), seen=5)
    with pytest.raises(Conflict, match="now there are 7"):
        bulk.tag(museum.database, matching, name="x", put=True, user_id=None, now=NOW)
    assert found(museum) == 10
    done = bulk.tag(
        museum.database, Selection(wanted=Wanted(criteria='membership is "Friend"'), seen=7),
        name="  lamp   owner ", put=True, user_id=None, now=NOW,
    )  # fmt: skip
    assert (done.contacts, done.words) == (7, "Tagged “lamp owner”: 7 people.")
    assert who(museum, "M-02").tags == ["lamp owner"]
    off = bulk.tag(museum.database, some(museum, "M-02", "M-01"), name="Lamp Owner", put=False, user_id=None, now=NOW)
    assert off.contacts == 1
    undo(museum, off)
    assert who(museum, "M-02").tags == ["lamp owner"]
    undo(museum, done)
    assert who(museum, "M-04").tags == []
    with pytest.raises(Conflict, match="undone already"):
        undo(museum, done)


def test_a_field_is_set_for_many_and_undone_but_for_what_changed_since(museum: Museum) -> None:
    people = some(museum, "M-01", "M-02", "M-03")
    done = bulk.set_field(museum.database, people, key="town", text="Marlby", user_id=None, now=NOW)
    assert (done.contacts, found(museum, "marlby")) == (3, 3)
    change(museum, "M-02", "town", "Marlby", "Breccia")
    back = undo(museum, done)
    assert "1 person changed since" in back.words
    assert [who(museum, number).record["town"] for number in ("M-01", "M-02", "M-03")] == ["Skarn", "Breccia", "Skarn"]
    assert (found(museum, "marlby"), found(museum, "ada patron skarn")) == (0, 1)
    blank = bulk.set_field(museum.database, people, key="pledge", text="", user_id=None, now=NOW)
    assert "pledge" not in who(museum, "M-01").record
    undo(museum, blank)
    assert who(museum, "M-01").record["pledge"] == {"amount": "750.50", "currency": "EUR"}
    for key, text in (("address", "x@y.example"), ("membership", "Emperor"), ("nothing", "x")):
        with pytest.raises(BadInput):
            bulk.set_field(museum.database, people, key=key, text=text, user_id=None, now=NOW)


def test_many_are_subscribed_with_evidence_but_never_who_has_left(museum: Museum) -> None:
    people = some(museum, "M-01", "M-06", "M-08")
    with pytest.raises(BadInput, match="ground"):
        bulk.subscribe(museum.database, people, topic="field_walks", ground=" ", user_id=None, now=NOW)
    done = bulk.subscribe(
        museum.database, people, topic="museum_news", ground="Ticked at the desk", user_id=None, now=NOW
    )
    assert done.contacts == 3
    walks = bulk.subscribe(
        museum.database, people, topic="field_walks", ground="Ticked at the desk", user_id=None, now=NOW
    )
    assert walks.words == "Subscribed to Field walks: 0 people. 2 people were already. 1 person had left and stay out."
    editing.record_consent(
        museum.database, museum.contact_id("M-06"), topic="museum_news", kind="granted", wording="by telephone",
        until=None, user_id=None, now=NOW,
    )  # fmt: skip
    undo(museum, done)
    states = {
        number: next(t.state for t in who(museum, number).topics if t.key == "museum_news")
        for number in ("M-01", "M-06")
    }
    assert states == {"M-01": "never", "M-06": "subscribed"}


def test_the_deleted_come_back_within_thirty_days_and_get_nothing_meanwhile(museum: Museum) -> None:
    run_id = museum.release()
    done = bulk.delete(museum.database, some(museum, "M-01", "M-02"), user_id=None, now=NOW)
    assert (found(museum), found(museum, "benoît")) == (8, 0)
    assert museum.states(run_id)["M-01"] == "held"
    assert contact_page(museum.database, wanted=Wanted(), now=NOW).rows[0].contact_no != "M-01"
    with pytest.raises(Conflict, match="30 days"):
        undo(museum, done, 31 * DAY)
    undo(museum, done, 29 * DAY)
    assert (found(museum), found(museum, "benoît")) == (10, 1)


def test_the_erased_leave_no_word_and_do_not_come_back_by_a_file(museum: Museum) -> None:
    run_id = museum.release()
    bring_in(museum, "E-mail address,Membership\nBenoit@slatepost.example,Emperor\n")
    editing.add_note(museum.database, museum.contact_id("M-02"), "Likes opals", user_id=None, now=NOW)
    change(museum, "M-02", "town", "Skellbeck", "Marlby")
    contact_id = museum.contact_id("M-02")
    done = bulk.erase(museum.database, some(museum, "M-02"), hasher=HASHER, user_id=None, now=NOW)
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
        person(museum.database, contact_id, NOW)


def test_what_the_erased_shared_stays_closed_and_their_merged_records_go_with_them(museum: Museum) -> None:
    # Gus has Ada's address; it complained.
    suppressions.suppress_by_text(museum.database, "ada@slatepost.example", reason="complained", user_id=None, now=NOW)
    done = bulk.erase(museum.database, some(museum, "M-01"), hasher=HASHER, user_id=None, now=NOW)
    assert done.words == ("1 person erased for good. 1 person with the same address will get nothing at it any more.")
    entry = suppressions.suppression_page(museum.database, search="ada@").entries[0]
    assert (entry.reason, entry.liftable) == ("erased", False)
    outcome = people_behind(
        museum.database, text="everyone", topic_id=museum.topic_id, gate="suppressed", after_id=0, now=NOW
    )
    assert "Gus Thwaite-Gray" in {one.name for one in outcome}
    # Benoît became Zoe, who became Edda: one person, whose every record goes.
    for kept, gone in (("M-03", "M-02"), ("M-05", "M-03")):
        duplicates.merge(
            museum.database, kept_id=museum.contact_id(kept), gone_ids=[museum.contact_id(gone)], choices={},
            user_id=None, now=NOW,
        )  # fmt: skip
    bulk.erase(museum.database, some(museum, "M-05"), hasher=HASHER, user_id=None, now=NOW)
    with museum.database.transaction() as tx:
        everything = str(run_sql(tx, "SELECT * FROM contact")) + str(run_sql(tx, "SELECT * FROM contact_search"))
    for word in ("benoit@", "zoe@", "edda@", "Öttinger"):
        assert word not in everything
    again = preview(museum, "E-mail address\nbenoit@slatepost.example\nedda@slatepost.example\n")
    assert [row.code for row in again.refusals] == ["erased", "erased"]


def test_what_was_done_to_many_is_listed_with_what_can_still_be_undone(museum: Museum) -> None:
    bulk.erase(museum.database, some(museum, "M-10"), hasher=HASHER, user_id=None, now=NOW)
    tagged = bulk.tag(museum.database, some(museum, "M-01"), name="x", put=True, user_id=None, now=NOW)
    bulk.subscribe(
        museum.database, some(museum, "M-01", "M-02"), topic="museum_news", ground="at the desk", user_id=None, now=NOW
    )
    bulk.delete(museum.database, some(museum, "M-09"), user_id=None, now=NOW)
    undo(museum, tagged)

    def listed(after: timedelta) -> list[tuple[str, int, bool, bool]]:
        lines = bulk.latest_changes(museum.database, NOW + after)
        return [(line.what, line.contacts, line.undoable, line.undone) for line in lines[:4]]

    subscribed = ("Subscribed to Museum news", 2, True, False)
    rest = [subscribed, ("Tagged “x”", 1, False, True), ("Erased 1 person for good", 1, False, False)]
    assert listed(DAY) == [("Deleted", 1, True, False), *rest]
    assert listed(31 * DAY) == [("Deleted", 1, False, False), *rest]
    with museum.database.transaction() as tx:
        erased = run_sql(tx, "SELECT id FROM change_set WHERE what LIKE 'Erased%'")[0].id
    with pytest.raises(NotFound):
        bulk.undo(museum.database, erased, user_id=None, now=NOW)


def test_who_is_left_out_gets_nothing_until_it_is_undone(museum: Museum) -> None:
    run_id = museum.release()
    with pytest.raises(BadInput):
        bulk.suppress_many(museum.database, some(museum, "M-01"), reason="", user_id=None, now=NOW)
    done = bulk.suppress_many(
        museum.database, some(museum, "M-01", "M-07"), reason="asked by letter", user_id=None, now=NOW
    )
    # Two people share one address.
    assert done.words == "1 address put on the suppression list."
    assert museum.states(run_id)["M-01"] == "held"
    assert [entry.reason for entry in who(museum, "M-07").suppressions] == ["by_hand"]
    assert undo(museum, done).words == "Undone: suppressed: asked by letter."
    assert who(museum, "M-07").suppressions == []


def test_a_whole_domain_and_a_single_topic_are_suppressed(museum: Museum) -> None:
    def cleared() -> int:
        view = museum.view()
        assert view.clearance is not None
        return view.clearance.cleared

    before = cleared()
    editing.suppress_person(
        museum.database,
        museum.contact_id("M-01"),
        topic="field_walks",
        reason="walks only by post",
        user_id=None,
        now=NOW,
    )
    # Gus has Ada's address, so neither gets it.
    assert cleared() == before - 1
    assert suppressions.suppress_by_text(
        museum.database, "@slatepost.example", reason="their request", user_id=None, now=NOW
    )
    assert cleared() == 0
    page = suppressions.suppression_page(museum.database)
    domain = next(entry for entry in page.entries if entry.domain)
    assert (domain.what, domain.liftable) == ("slatepost.example", True)
    editing.lift_suppression(museum.database, domain.id, reason="they called again", user_id=None, now=NOW)
    assert cleared() == before - 1


def test_a_suppression_list_comes_in_and_goes_out(museum: Museum) -> None:
    content = b"E-mail;Reason\nx@y.example;complained\n@bad.example;\nnot one;\nx@y.example;by hand\n"
    report = suppressions.bring_in_list(museum.database, content, filename="old.csv", user_id=None, now=NOW)
    assert (report.added, report.already, len(report.refused)) == (2, 0, 1)
    rows = list(csv.reader(io.StringIO(suppressions.list_as_csv(museum.database).lstrip("\ufeff"))))
    assert {row[0] for row in rows[1:]} == {
        "x@y.example", "'@bad.example", "ivy@slatepost.example", "jude@slatepost.example",
    }  # fmt: skip
    told = suppressions.list_as_csv(museum.database).encode()
    again = suppressions.bring_in_list(museum.database, told, filename="out.csv", user_id=None, now=NOW)
    assert (again.added, again.already) == (0, 4)
    with pytest.raises(BadInput):
        suppressions.bring_in_list(museum.database, b"", filename="x", user_id=None, now=NOW)


PLAIN_LISTS = [
    b"x@y.example\nz@y.example\n",
    b"bad.example\nx@y.example\n",
    b"*@bad.example\n",
    "\ufeffx@y.example;complained\n".encode(),
]


@pytest.mark.parametrize("content", PLAIN_LISTS)
def test_a_list_without_a_line_of_names_loses_nobody(museum: Museum, content: bytes) -> None:
    report = suppressions.bring_in_list(museum.database, content, filename="plain.txt", user_id=None, now=NOW)
    assert (report.added, report.refused) == (content.count(b"\n"), [])


def test_a_list_keeps_its_topics_its_own_reasons_and_where_it_said_so(museum: Museum) -> None:
    content = (
        b"Address,Topic,Reason\nx@y.example,Field walks,moved away\n*@bad.example,,complained\n"
        b"z@y.example,Gardening,\n@bad.example,field_walks,\n"
    )
    report = suppressions.bring_in_list(museum.database, content, filename="old.csv", user_id=None, now=NOW)
    assert report.refused == [
        "row 4: There is no topic “Gardening”.",
        "row 5: A whole domain is suppressed for everything, not for one topic.",
    ]
    domain, person = suppressions.suppression_page(museum.database).entries[:2]
    assert (domain.what, domain.domain, domain.reason) == ("bad.example", True, "complaint")
    assert (person.what, person.topic, person.reason) == ("x@y.example", "Field walks", "by_hand")
    assert person.evidence == {"file": "old.csv", "row": 2, "why": "moved away"}


def test_only_the_person_lifts_what_they_closed(museum: Museum) -> None:
    suppressions.bring_in_list(
        museum.database, b"E-mail,Reason\nada@slatepost.example,complaint\n", filename="x", user_id=None, now=NOW
    )
    entry = who(museum, "M-01").suppressions[0]
    assert not entry.liftable
    with pytest.raises(Conflict, match="Only the person"):
        editing.lift_suppression(museum.database, entry.id, reason="they said so", user_id=None, now=NOW)


def test_who_was_subscribed_on_a_day_and_why(museum: Museum) -> None:
    contact_id = museum.contact_id("M-08")
    begin = (NOW - timedelta(days=100)).date()

    def standing(day: date) -> tuple[str, str]:
        record = consent_records.consent_record(museum.database, contact_id, as_of=day, now=NOW)
        walks = next(one for one in record.standings if one.topic == "Field walks")
        return walks.state, walks.because

    assert standing(begin - DAY) == ("never asked", "")
    state, because = standing(begin)
    assert state == "opted in"
    assert because.startswith("opted in (according to the imported list): Signed the list at the open day")
    assert standing(begin + DAY) == ("left", "left: by telephone")
    editing.record_consent(
        museum.database, museum.contact_id("M-01"), topic="field_walks", kind="paused", wording="on holiday",
        until=NOW + 10 * DAY, user_id=None, now=NOW,
    )  # fmt: skip
    paused = next(topic for topic in who(museum, "M-01").topics if topic.key == "field_walks")
    assert (paused.state, paused.paused_until) == ("paused", NOW + 10 * DAY)
    view = museum.view()
    assert view.clearance is not None
    gate = next(gate for gate in view.clearance.gates if gate.key == "consent")
    assert "paused" in {reason.key for reason in gate.reasons}
    record = consent_records.consent_record(museum.database, contact_id, as_of=None, now=NOW)
    told = consent_records.record_as_json(record).decode()
    for word in ("hugh@slatepost.example", "by telephone", "Signed the list at the open day"):
        assert word in told
        assert word in consent_records.record_as_csv(record)


def test_the_record_for_a_data_request_has_everything_and_nothing_later_than_its_day(museum: Museum) -> None:
    ada = museum.contact_id("M-01")

    def record(now: datetime, day: date | None = None) -> consent_records.ConsentRecord:
        return consent_records.consent_record(museum.database, ada, as_of=day, now=now)

    def ticked() -> bulk.Selection:
        return bulk.Selection(ids=(ada,), seen=1)

    before = record(NOW)
    send_all(museum, museum.release(), NOW + DAY)
    later = NOW + 2 * DAY
    town = before_town = next(line.value for line in before.values if line.label == "Town")
    editing.change_value(
        museum.database, ada, key="town", before=town, text="Marlby", hasher=HASHER, user_id=None, now=later
    )
    bulk.tag(museum.database, ticked(), name="walker", put=True, user_id=None, now=later)
    editing.add_note(museum.database, ada, "Likes opals", user_id=None, now=later)
    bulk.suppress_many(museum.database, ticked(), reason="asked by letter", user_id=None, now=later)
    after = record(later)
    assert "Marlby" in {line.value for line in after.values}
    assert (after.tags, [line.words for line in after.notes]) == (["walker"], ["Likes opals"])
    assert [(line.about, line.evidence) for line in after.suppression] == [("all mail", "asked by letter")]
    assert [(line.about, line.words) for line in after.messages] == [("Walks", "sent")]
    told = consent_records.record_as_csv(after)
    for word in ("Marlby", "walker", "Likes opals", "suppressed by hand", "asked by letter", "Walks,sent"):
        assert word in told
        assert word.split(",")[0] in consent_records.record_as_json(after).decode()
    # As of a day before that, it says what it said then, in every form.
    then = record(later, NOW.date())
    assert before_town in {line.value for line in then.values}
    assert (then.values, then.tags, then.notes, then.suppression, then.messages) == (before.values, [], [], [], [])
    # What was undone later stood there that day.
    done = bulk.set_field(museum.database, ticked(), key="town", text="Skellbeck", user_id=None, now=later + DAY)
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
            museum.database, museum.contact_id("M-01"), topic="field_walks", kind=kind, wording=wording,
            until=None if days is None else NOW + days * DAY, user_id=None, now=NOW,
        )  # fmt: skip
    assert len(who(museum, "M-01").ledger) == 1


def test_who_leaves_by_hand_is_held_in_the_run_that_goes(museum: Museum) -> None:
    run_id = museum.release()
    editing.record_consent(
        museum.database, museum.contact_id("M-03"), topic="field_walks", kind="withdrawn", wording="by telephone",
        until=None, user_id=None, now=NOW,
    )  # fmt: skip
    assert museum.states(run_id)["M-03"] == "held"


def test_what_is_taken_out_is_harmless_and_comes_back_the_same(museum: Museum) -> None:
    change(museum, "M-01", "town", "Skarn", "=1+1")
    columns = ["contact_no", "address", "name", "membership", "pledge", "renews_on", "volunteer", "town", "topics"]
    told = export(museum.database, some(museum, "M-01", "M-03"), columns=columns, form="csv", now=NOW)
    rows = list(csv.DictReader(io.StringIO(b"".join(told.pieces).decode("utf-8-sig"))))
    assert [row["Contact no."] for row in rows] == ["M-01", "M-03"]
    assert (rows[0]["Town"], rows[0]["Pledge"], rows[0]["Topics"]) == ("'=1+1", "750.50 EUR", "Field walks")
    book = export(museum.database, some(museum, "M-01"), columns=columns, form="xlsx", now=NOW)
    grid = CalamineWorkbook.from_filelike(io.BytesIO(b"".join(book.pieces))).get_sheet_by_index(0).to_python()
    assert grid[0][:3] == ["Contact no.", "E-mail address", "Name"]
    assert grid[1][7] == "=1+1"
    change(museum, "M-01", "town", "=1+1", "Skarn")
    everybody = Selection(wanted=Wanted(), seen=10)
    keys = ["contact_no", "address", "first_name", "last_name", "language", "membership", "pledge", "renews_on", "town"]
    whole = b"".join(export(museum.database, everybody, columns=keys, form="csv", now=NOW).pieces)
    view = bring_in(museum, whole)
    assert (view.same, view.changed, view.new, view.refused) == (10, 0, 0, 0)
    for form, chosen in (("pdf", columns), ("csv", []), ("csv", ["shoe_size"])):
        with pytest.raises(BadInput):
            list(export(museum.database, everybody, columns=chosen, form=form, now=NOW).pieces)


def test_a_mistyped_domain_is_pointed_out_and_changed_only_by_hand(museum: Museum) -> None:
    people = "".join(f"p{number}@quartzmail.example\n" for number in range(12))
    view = bring_in(museum, f"E-mail address\n{people}info@quartzmial.example\n", dry_run=True)
    assert [(one.domain, one.usual, one.rows) for one in view.odd_domains] == [
        ("quartzmial.example", "quartzmail.example", 1)
    ]
    numbered = "".join(f",{line}\n" for line in people.splitlines())
    bring_in(museum, f"Contact no.,E-mail address\nX-1,info@quartzmial.example\n{numbered}")
    odd = who(museum, "X-1")
    assert {hint.code: hint.suggestion for hint in odd.hints} == {"role": None, "typo": "info@quartzmail.example"}
    assert odd.address == "info@quartzmial.example"
    assert who(museum, "M-01").hints == []


def test_what_is_odd_about_an_address_is_said_before_somebody_is_added(museum: Museum) -> None:
    bring_in(museum, "E-mail address\n" + "".join(f"p{n}@slatepost.example\n" for n in range(20)))
    looked = look_at_address(museum.database, "Ada@SlatePost.example")
    assert (looked.fault, [one.name for one in looked.same_address]) == ("", ["Ada Thwaite-Gray", "Gus Thwaite-Gray"])
    [hint] = look_at_address(museum.database, "new@slatepsot.example").hints
    assert hint.suggestion == "new@slatepost.example"
    assert [one.code for one in look_at_address(museum.database, "info@slatepost.example").hints] == ["role"]
    assert "is not an e-mail address" in look_at_address(museum.database, "nobody").fault
