"""No hot statement lost its index: what is asked for every message, visit, page or row reads no large table whole."""

from collections.abc import Callable

import pytest

from tests.support.importing import import_people
from tests.support.museum import HASHER, NOW, Museum
from tests.support.plans import read_whole
from tests.support.sending import send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEventKind
from uvarovite.services.consent.by_hand import record_by_hand
from uvarovite.services.contacts.editing import change_value, record_consent
from uvarovite.services.contacts.people import person
from uvarovite.services.delivery.traces import trace
from uvarovite.services.selection.table import Wanted, contact_page

Act = Callable[[Museum], object]


def page(**told: str) -> Act:
    wanted = Wanted(search=told.pop("search", ""))
    return lambda museum: contact_page(museum.database, SYSTEM, wanted=wanted, now=NOW, **told)  # type: ignore[arg-type]


HOT: dict[str, Act] = {
    "the first page": page(),
    "a page by address": page(sort="address"),
    "a page by number": page(sort="-contact_no"),
    "a page by when they were added": page(sort="-added"),
    "one person": lambda museum: person(museum.database, SYSTEM, 1, NOW),
    "a changed value": lambda museum: change_value(
        museum.database, SYSTEM, 1, key="school", before=None, text="Marlby", hasher=HASHER,
        now=NOW,
    ),
    "a recorded leaving": lambda museum: record_consent(
        museum.database, SYSTEM, 1, topic="field_walks", kind="withdrawn", wording="said so", until=None, now=NOW
    ),
    "what is entered by number": lambda museum: record_by_hand(
        museum.database, SYSTEM, contact_no="M-01", topic="field_walks", kind=ConsentEventKind.WITHDRAWN, at=NOW, wording="x"
    ),
    "a trace": lambda museum: trace(museum.database, SYSTEM, 1),
}  # fmt: skip


@pytest.mark.parametrize("what", HOT)
def test_what_is_done_at_every_step_reads_no_large_table_whole(museum: Museum, what: str) -> None:
    send_all(museum, museum.release(), NOW)
    with read_whole(museum.database) as found:
        HOT[what](museum)
    assert found == set()


def test_a_delivery_is_claimed_looked_at_and_marked_by_indexes(museum: Museum) -> None:
    run = museum.release()
    with read_whole(museum.database) as found:
        send_all(museum, run, NOW)
    assert found == set()


def test_a_row_of_an_import_is_looked_up_by_number_and_by_address(museum: Museum) -> None:
    with read_whole(museum.database) as found:
        import_people(
            museum, "Contact no.,E-mail address,Town\nM-01,ada@slatepost.example,Skarn\nN-1,n@slatepost.example,Skarn\n"
        )
    assert found == set()
