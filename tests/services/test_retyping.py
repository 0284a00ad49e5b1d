"""A field of another type: what fits is converted, what does not is told and kept, and all of it comes back."""

import csv
import io
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any
from zoneinfo import ZoneInfo

import pytest

from tests.services.test_fields import value
from tests.support.importing import import_people
from tests.support.museum import NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts import Field, FieldType, Reading
from uvarovite.core.values import Money
from uvarovite.services.contacts import retyping
from uvarovite.services.contacts.fields import FieldDraft
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.services.selection.table import Wanted, contact_page, count_contacts


def change(museum: Museum, key: str, draft: FieldDraft, **said: Any) -> retyping.RetypeReport:
    return retyping.change_field(museum.database, SYSTEM, key, draft, now=NOW, **{"lose": 0, **said})


def test_another_type_loses_nothing_that_was_not_seen(museum: Museum) -> None:
    import_people(museum, "Contact no.,Town\nM-01,12\nM-02,3.5\n")
    draft = FieldDraft(key="town", label="Town", type="number")
    report = retyping.preview_retype(museum.database, SYSTEM, "town", draft)
    assert (report.fits, report.lost) == (2, 8)
    assert {one.value for one in report.misfits} == {"Skarn", "Breccia"}
    assert value(museum, "M-03", "town") == "Skarn"
    with pytest.raises(Conflict, match="8 values"):
        change(museum, "town", draft)
    assert value(museum, "M-01", "town") == "12"
    file = list(csv.reader(io.StringIO(retyping.misfits_file(museum.database, SYSTEM, "town", draft).lstrip("\ufeff"))))
    assert len(file) == 1 + 8
    assert ["M-03", "zoe@slatepost.example", "Ζωή Καλλέργη", "Skarn"] in [row[:4] for row in file]
    done = change(museum, "town", draft, lose=8)
    assert (value(museum, "M-02", "town"), value(museum, "M-03", "town")) == ("3.5", None)
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria="town > 10"), now=NOW) == 1
    first = contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW, sort="town", limit=1)
    assert first.rows[0].contact_no == "M-02"
    # All of it comes back, with the field: of somebody who was deleted meanwhile as well.
    some = Selection(ids=(museum.contact_id("M-03"),), seen=1)
    gone = bulk.delete(museum.database, SYSTEM, some, now=NOW)
    assert done.change_set_id is not None
    assert any(
        line.id == done.change_set_id and line.undoable for line in bulk.latest_changes(museum.database, SYSTEM, NOW)
    )
    assert bulk.undo(museum.database, SYSTEM, done.change_set_id, now=NOW).contacts == 8
    bulk.undo(museum.database, SYSTEM, gone.change_set_id or 0, now=NOW)
    town = next(field for field in vocabulary(museum.database, SYSTEM).fields if field.key == "town")
    assert town.type == "text"
    assert [value(museum, no, "town") for no in ("M-01", "M-02", "M-03", "M-04")] == ["12", "3.5", "Skarn", "Breccia"]
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria='town is "breccia"'), now=NOW) == 1


def test_a_currency_changes_only_with_a_word_about_the_amounts(museum: Museum) -> None:
    money = FieldDraft(key="pledge", label="Promise", type="money", currency="GBP")
    with pytest.raises(BadInput, match=r"9 amounts are in EUR\. Say what becomes of them in GBP"):
        change(museum, "pledge", money)
    assert value(museum, "M-01", "pledge") == {"amount": "750.50", "currency": "EUR"}
    done = change(museum, "pledge", money, amounts=retyping.Amounts(rate=Decimal("0.8567")))
    assert value(museum, "M-01", "pledge") == {"amount": "642.95", "currency": "GBP"}
    bulk.undo(museum.database, SYSTEM, done.change_set_id or 0, now=NOW)
    change(museum, "pledge", money, amounts=retyping.Amounts())
    assert value(museum, "M-01", "pledge") == {"amount": "750.50", "currency": "GBP"}
    with pytest.raises(Conflict, match="undone"):
        bulk.undo(museum.database, SYSTEM, done.change_set_id or 0, now=NOW)


def test_a_type_is_given_back_only_while_the_field_is_as_it_was_left(museum: Museum) -> None:
    first = change(museum, "visits_last_year", FieldDraft(key="visits_last_year", label="Visits", type="text"))
    change(museum, "visits_last_year", FieldDraft(key="visits_last_year", label="Visits", type="number"))
    with pytest.raises(Conflict, match="changed again since"):
        bulk.undo(museum.database, SYSTEM, first.change_set_id or 0, now=NOW)


READ_IN_SKARN = Reading(decimal_comma=True, zone=ZoneInfo("Pacific/Auckland"))
CONVERTED = [
    ("date_time", "date", datetime(2026, 5, 31, 14, tzinfo=UTC), date(2026, 6, 1)),
    ("date", "date_time", date(2026, 6, 1), datetime(2026, 5, 31, 12, tzinfo=UTC)),
    ("number", "text", Decimal("1.234"), "1.234"),
    ("text", "number", "1.234", Decimal(1234)),
    ("text", "number", "1,5", Decimal("1.5")),
    ("text", "date", "14 June 2026", date(2026, 6, 14)),
    ("yes_no", "number", True, Decimal(1)),
    ("yes_no", "text", True, "yes"),
    ("text", "yes_no", "ja", True),
    ("money", "number", Money(amount=Decimal("12.345"), currency="EUR"), Decimal("12.345")),
    ("number", "money", Decimal("12.50"), Money(amount=Decimal("12.50"), currency="EUR")),
]  # fmt: skip


@pytest.mark.parametrize(("before", "after", "given", "wanted"), CONVERTED)
def test_what_can_be_converted_is(before: str, after: str, given: Any, wanted: Any) -> None:
    old, new = (
        Field(key="x", label="X", type=FieldType(one), currency="EUR" if one == "money" else None)
        for one in (before, after)
    )
    assert retyping.convert_value(given, old, new, READ_IN_SKARN, retyping.Amounts()) == wanted


def test_a_choice_that_goes_is_reported_with_those_who_have_it(museum: Museum) -> None:
    draft = FieldDraft(key="membership", label="Membership", type="choice", choices=("Friend", "Fellow", "Angel"))
    report = retyping.preview_retype(museum.database, SYSTEM, "membership", draft)
    assert (report.lost, report.misfits[0].name, report.misfits[0].value) == (1, "Ada Thwaite-Gray", "Patron")
