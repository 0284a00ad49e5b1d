"""One person: edits that lose nothing, what is taken out, and what is odd about an address."""

import csv
import io

import pytest
from python_calamine import CalamineWorkbook

from tests.support.importing import import_people
from tests.support.museum import HASHER, NOW, Museum
from tests.support.people import change, found, some, who
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.contacts import editing
from uvarovite.services.contacts.people import look_at_address, person
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.selection.bulk import Selection
from uvarovite.services.selection.exports import export
from uvarovite.services.selection.table import Wanted
from uvarovite.store.database import run_sql


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
        museum.database, SYSTEM, {"first_name": "Nia", "address": "nia@slatepost.example"}, hasher=HASHER, now=NOW
    )  # fmt: skip
    assert found(museum, "nia@slatepost") == 1
    assert person(museum.database, SYSTEM, added, NOW).history[0].what == "Added by hand"
    for values in ({"first_name": "Nia"}, {"address": "x"}, {"contact_no": "M-01"}):
        with pytest.raises(BadInput):
            editing.add_person(museum.database, SYSTEM, values, hasher=HASHER, now=NOW)


def test_what_is_taken_out_is_harmless_and_comes_back_the_same(museum: Museum) -> None:
    change(museum, "M-01", "town", "Skarn", "=1+1")
    columns = ["contact_no", "address", "name", "membership", "pledge", "renews_on", "volunteer", "town", "topics"]
    told = export(museum.database, SYSTEM, some(museum, "M-01", "M-03"), columns=columns, form="csv", now=NOW)
    rows = list(csv.DictReader(io.StringIO(b"".join(told.pieces).decode("utf-8-sig"))))
    assert [row["Contact no."] for row in rows] == ["M-01", "M-03"]
    assert (rows[0]["Town"], rows[0]["Pledge"], rows[0]["Topics"]) == ("'=1+1", "750.50 EUR", "Field walks")
    book = export(museum.database, SYSTEM, some(museum, "M-01"), columns=columns, form="xlsx", now=NOW)
    grid = CalamineWorkbook.from_filelike(io.BytesIO(b"".join(book.pieces))).get_sheet_by_index(0).to_python()
    assert grid[0][:3] == ["Contact no.", "E-mail address", "Name"]
    assert grid[1][7] == "=1+1"
    change(museum, "M-01", "town", "=1+1", "Skarn")
    everybody = Selection(wanted=Wanted(), seen=10)
    keys = ["contact_no", "address", "first_name", "last_name", "language", "membership", "pledge", "renews_on", "town"]
    whole = b"".join(export(museum.database, SYSTEM, everybody, columns=keys, form="csv", now=NOW).pieces)
    view = import_people(museum, whole)
    assert (view.same, view.changed, view.new, view.refused) == (10, 0, 0, 0)
    for form, chosen in (("pdf", columns), ("csv", []), ("csv", ["shoe_size"])):
        with pytest.raises(BadInput):
            list(export(museum.database, SYSTEM, everybody, columns=chosen, form=form, now=NOW).pieces)


def test_a_mistyped_domain_is_pointed_out_and_changed_only_by_hand(museum: Museum) -> None:
    people = "".join(f"p{number}@quartzmail.example\n" for number in range(12))
    view = import_people(museum, f"E-mail address\n{people}info@quartzmial.example\n", dry_run=True)
    assert [(one.domain, one.usual, one.rows) for one in view.odd_domains] == [
        ("quartzmial.example", "quartzmail.example", 1)
    ]
    numbered = "".join(f",{line}\n" for line in people.splitlines())
    import_people(museum, f"Contact no.,E-mail address\nX-1,info@quartzmial.example\n{numbered}")
    odd = who(museum, "X-1")
    assert {hint.code: hint.suggestion for hint in odd.hints} == {"role": None, "typo": "info@quartzmail.example"}
    assert odd.address == "info@quartzmial.example"
    assert who(museum, "M-01").hints == []


def test_what_is_odd_about_an_address_is_said_before_somebody_is_added(museum: Museum) -> None:
    import_people(museum, "E-mail address\n" + "".join(f"p{n}@slatepost.example\n" for n in range(20)))
    looked = look_at_address(museum.database, SYSTEM, "Ada@SlatePost.example")
    assert (looked.fault, [one.name for one in looked.same_address]) == ("", ["Ada Thwaite-Gray", "Gus Thwaite-Gray"])
    [hint] = look_at_address(museum.database, SYSTEM, "new@slatepsot.example").hints
    assert hint.suggestion == "new@slatepost.example"
    assert [one.code for one in look_at_address(museum.database, SYSTEM, "info@slatepost.example").hints] == ["role"]
    assert "is not an e-mail address" in look_at_address(museum.database, SYSTEM, "nobody").fault
