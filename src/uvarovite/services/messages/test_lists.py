"""Whom tests go to: colleagues, and named lists of addresses."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.exc import IntegrityError

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.addresses import require_address
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store import test_lists as store
from uvarovite.store.accounts.users import users
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import TestList

# A test is for whoever judges a letter; a larger circle is an audience.
MOST_ADDRESSES, MOST_LISTS, LONGEST_NAME = 20, 50, 80


@dataclass(frozen=True, slots=True, kw_only=True)
class Colleague:
    """Somebody with an account here."""

    name: str
    address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TestListView:
    """A named list of addresses."""

    id: int
    name: str
    addresses: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class TestReaders:
    """Whom a test can go to by name."""

    colleagues: list[Colleague]
    lists: list[TestListView]


def _readers(tx: Transaction) -> TestReaders:
    return TestReaders(
        colleagues=[Colleague(name=one.name, address=one.email) for one in users(tx) if one.left_at is None],
        lists=[TestListView(id=one.id or 0, name=one.name, addresses=one.addresses) for one in store.all_lists(tx)],
    )


@needs(Permission.WRITE)
def readers_of_tests(database: Database, actor: Actor) -> TestReaders:
    """Colleagues and lists, each by name."""
    with database.transaction() as tx:
        return _readers(tx)


@needs(Permission.WRITE)
def keep_test_list(database: Database, actor: Actor, *, name: str, addresses: list[str], now: datetime) -> TestReaders:
    """Keep addresses under a name, in the place of those that it had. Raises BadInput."""
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput("name", f"Give the list a name of at most {LONGEST_NAME} characters.")
    wanted = list(dict.fromkeys(require_address(one) for one in addresses))
    if not 1 <= len(wanted) <= MOST_ADDRESSES:
        raise BadInput("addresses", f"A list of tests has one to {MOST_ADDRESSES} addresses.")
    try:
        with database.transaction() as tx:
            kept = store.list_called(tx, name)
            if kept is None and len(store.all_lists(tx)) >= MOST_LISTS:
                raise BadInput("many_lists", f"There are {MOST_LISTS} lists already. Remove one first.")
            kept = kept or TestList(name=name, addresses=[], updated_at=now)
            kept.addresses, kept.updated_at = wanted, now
            tx.add(kept)
            tx.flush()
            audit(tx, actor, Action.TEST_LIST_SAVED, name=name)
            return _readers(tx)
    except IntegrityError as fault:
        raise BadInput(
            "taken", "Somebody made a list with this name just now. Look at it, and save yours again."
        ) from fault


@needs(Permission.WRITE)
def remove_test_list(database: Database, actor: Actor, list_id: int) -> TestReaders:
    """Forget a list; what was sent to it stays sent. Raises NotFound."""
    with database.transaction() as tx:
        kept = tx.get(TestList, list_id)
        if kept is None:
            raise NotFound("test list")
        tx.delete(kept)
        tx.flush()
        audit(tx, actor, Action.TEST_LIST_REMOVED, name=kept.name)
        return _readers(tx)
