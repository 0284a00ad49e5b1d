"""Bringing people in: what is new, changed and refused before it is written, and nothing half-written."""

import pytest

from tests.support.museum import NOW, Museum
from uvarovite.services.contacts import contact_page, person
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.import_views import report_json
from uvarovite.services.imports import (
    discard_import,
    import_file,
    look_again,
    look_at_file,
    refused_file,
    write_import,
)
from uvarovite.store.database import run_sql

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


def look(museum: Museum, text: str = FILE):  # type: ignore[no-untyped-def]
    return look_at_file(museum.database, filename="more.csv", content=text.encode(), user_id=None, now=NOW)


def test_looking_tells_what_would_happen_and_writes_nothing(museum: Museum) -> None:
    before = rows_of(museum, "contact")
    view = look(museum)
    assert (view.new, view.changed, view.same, view.refused) == (1, 2, 1, 2)
    changes = {row.row: [(one.field, one.before, one.after) for one in row.changes] for row in view.changed_rows}
    assert changes == {
        1: [("town", "Skarn", "Marlby")],
        3: [("first_name", "Ζωή", "Zoë")],
    }
    assert [(row.row, row.code) for row in view.refusals] == [(4, "ambiguous"), (6, "address_malformed")]
    assert view.refusals[0].cells[1] == "ada@slatepost.example"
    assert rows_of(museum, "contact") == before
    discard_import(museum.database, view.id)
    assert rows_of(museum, "import_file") == 1


def test_writing_does_what_was_told_and_once(museum: Museum) -> None:
    view = look(museum)
    done = write_import(museum.database, view.id, topic=None, ground="", user_id=None, now=NOW)
    assert (done.new, done.changed, done.same, done.refused) == (view.new, view.changed, view.same, view.refused)
    ada = person(museum.database, museum.contact_id("M-01"))
    assert ada.record["town"] == "Marlby"
    assert ada.record["pledge"] == {"amount": "750.50", "currency": "EUR"}
    benoit = person(museum.database, museum.contact_id("M-02"))
    assert benoit.record["town"] == "Skellbeck"
    assert contact_page(museum.database, search="MARLBY gray").total == 1
    with pytest.raises(Conflict):
        write_import(museum.database, view.id, topic=None, ground="", user_id=None, now=NOW)
    assert look(museum).same == 4


def test_the_refused_rows_come_back_as_a_file_that_can_be_mended(museum: Museum) -> None:
    view = look(museum)
    write_import(museum.database, view.id, topic=None, ground="", user_id=None, now=NOW)
    name, text = refused_file(museum.database, view.id)
    assert name == "refused from more.csv"
    lines = text.lstrip("\ufeff").splitlines()
    assert lines[0] == "Contact no.,E-mail address,First name,Last name,Town,refused because"
    assert lines[2].startswith("N-02,broken,Nia,Wren,Skarn,")
    mended = "\n".join(lines).replace("N-02,broken", "N-02,nia@slatepost.example")
    assert look(museum, mended).new == 1


def test_consent_is_stated_with_its_ground_and_never_opens_what_was_closed(museum: Museum) -> None:
    numbers = "Contact no.\nM-01\nM-08\nM-06\n"
    view = look(museum, numbers)
    with pytest.raises(BadInput, match="on what ground"):
        write_import(museum.database, view.id, topic="field_walks", ground=" ", user_id=None, now=NOW)
    again = look_again(museum.database, view.id, topic="field_walks")
    assert again.outlook is not None
    assert (again.outlook.subscribed, again.outlook.already, again.outlook.left) == (0, 2, 1)
    news = look_again(museum.database, view.id, topic="museum_news")
    assert news.outlook is not None
    assert news.outlook.subscribed == 3
    write_import(museum.database, view.id, topic="field_walks", ground="Said so at the desk", user_id=None, now=NOW)
    hugh = person(museum.database, museum.contact_id("M-08"))
    assert next(topic.state for topic in hugh.topics if topic.key == "field_walks") == "left"
    ada = person(museum.database, museum.contact_id("M-01"))
    assert [line.evidence["ground"] for line in ada.ledger] == ["Signed the list at the open day"]


def test_a_dry_run_and_a_refused_import_leave_nothing_behind(museum: Museum) -> None:
    before = [rows_of(museum, table) for table in ("contact", "import_file", "consent_event", "import_refusal")]
    view = import_file(
        museum.database, filename="x.csv", content=FILE.encode(), topic=None, ground="", now=NOW, dry_run=True
    )
    report = report_json(view)
    assert report["new"] == 1
    assert {row["row"]: row["reason"] for row in report["refused"]} == {4: "ambiguous", 6: "address_malformed"}
    assert report["columns"][1] == {"header": "E-mail address", "field": "address", "type": "text"}
    for topic, ground in (("field_walks", ""), ("no such topic", "a good ground")):
        with pytest.raises(BadInput):
            import_file(museum.database, filename="x.csv", content=FILE.encode(), topic=topic, ground=ground, now=NOW)
    with pytest.raises(BadInput) as fault:
        import_file(museum.database, filename="x.csv", content=b"", topic=None, ground="", now=NOW)
    assert fault.value.code == "file_empty"
    broken = FILE + 'N-03,"open,Nia,Wren,Skarn\n'
    with pytest.raises(BadInput, match="quote"):
        import_file(museum.database, filename="x.csv", content=broken.encode(), topic=None, ground="", now=NOW)
    assert [rows_of(museum, table) for table in ("contact", "import_file", "consent_event", "import_refusal")] == before


def test_columns_can_be_chosen_by_hand(museum: Museum) -> None:
    view = look(museum, "who,where\nkim@slatepost.example,Skarn\n")
    assert [column.field for column in view.columns] == [None, None]
    assert view.new == 0
    chosen = look_again(museum.database, view.id, columns=["address", "town"])
    assert chosen.new == 1
    for columns in (["address"], ["address", "shoe_size"], ["town", "town"]):
        with pytest.raises(BadInput):
            look_again(museum.database, view.id, columns=columns)
    with pytest.raises(NotFound):
        look_again(museum.database, 999, columns=["address", "town"])


def test_another_encoding_reads_the_same_file_anew(museum: Museum) -> None:
    content = "E-mail,First name\nkim@slatepost.example,Łukasz\n".encode("iso-8859-2")
    view = look_at_file(museum.database, filename="x.csv", content=content, user_id=None, now=NOW)
    assert view.guessed_encoding
    assert view.new_rows[0].record["first_name"] == "£ukasz"
    mended = look_again(museum.database, view.id, encoding="iso-8859-2")
    assert mended.new_rows[0].record["first_name"] == "Łukasz"


def test_two_rows_for_one_person_are_told(museum: Museum) -> None:
    view = look(museum, "Contact no.,E-mail address,Town\nM-03,,Marlby\n,zoe@slatepost.example,Skarn\n")
    assert [(row.row, row.code) for row in view.refusals] == [(2, "repeated")]
    assert view.changed == 1


def test_the_contact_table_pages_through_everybody_once(museum: Museum) -> None:
    seen: list[int] = []
    after = None
    while True:
        page = contact_page(museum.database, after=after, limit=3)
        assert page.total == 10
        seen += [row.id for row in page.rows]
        after = page.after
        if after is None:
            break
    assert len(seen) == len(set(seen)) == 10
    with pytest.raises(BadInput):
        contact_page(museum.database, after="nonsense")
