"""What is asked of people and done to them, in short."""

from datetime import timedelta

from tests.support.museum import HASHER, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.contacts import editing
from uvarovite.services.contacts.people import Person, person
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import BulkResult, Selection
from uvarovite.services.selection.table import Wanted, count_contacts

DAY = timedelta(days=1)


def who(museum: Museum, contact_no: str) -> Person:
    return person(museum.database, SYSTEM, museum.contact_id(contact_no), NOW)


def some(museum: Museum, *numbers: str) -> Selection:
    return Selection(ids=tuple(museum.contact_id(number) for number in numbers), seen=len(numbers))


def change(museum: Museum, number: str, key: str, before: object, text: str) -> None:
    editing.change_value(
        museum.database, SYSTEM, museum.contact_id(number), key=key, before=before, text=text, hasher=HASHER, now=NOW
    )  # fmt: skip


def undo(museum: Museum, done: BulkResult, later: timedelta = DAY) -> BulkResult:
    assert done.change_set_id is not None
    return bulk.undo(museum.database, SYSTEM, done.change_set_id, now=NOW + later)


def found(museum: Museum, search: str = "", criteria: str = "") -> int:
    return count_contacts(museum.database, SYSTEM, wanted=Wanted(search=search, criteria=criteria), now=NOW)
