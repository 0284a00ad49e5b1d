"""The contact table: pages in any order, found by words and by criteria."""

import base64
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

import orjson

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.expressions import SqlFragment
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.expressions.criteria import criteria_sql
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.indexes import note_sort
from uvarovite.store.database import Database, Transaction
from uvarovite.store.selection import table as store
from uvarovite.store.selection.table import After, Asked

LARGEST_PAGE = 200
BY_NAME = "name"


@dataclass(frozen=True, slots=True, kw_only=True)
class TopicMark:
    """A topic that somebody was asked about: state is asked, subscribed, paused or left."""

    key: str
    state: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactRow:
    """One line of the table; `record` is the stored form of the custom fields."""

    id: int
    contact_no: str | None
    address: str | None
    first_name: str | None
    last_name: str | None
    language: str | None
    record: dict[str, Any]
    topics: list[TopicMark]
    tags: list[str]
    suppressed: str | None
    created_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactPage:
    """`after` fetches the next page; it is None at the end. `preparing`: this order takes long still, and soon will not."""

    rows: list[ContactRow]
    after: str | None
    preparing: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Which contacts: words to be found, and criteria as text ("" for everyone)."""

    search: str = ""
    criteria: str = ""


def asked_of(tx: Transaction, wanted: Wanted, now: datetime) -> Asked:
    """What is asked for, as the store takes it. Raises BadInput with the place of what is wrong in the criteria."""
    criteria = SqlFragment(text="TRUE", parameters={})
    if wanted.criteria.strip() not in ("", "everyone"):
        criteria = criteria_sql(tx, wanted.criteria, now)
    return Asked(criteria=criteria, search=wanted.search[:200])


@needs(Permission.LOOK)
def contact_page(
    database: Database,
    actor: Actor,
    *,
    wanted: Wanted,
    now: datetime,
    sort: str = BY_NAME,
    after: str | None = None,
    limit: int = 100,
) -> ContactPage:
    """A page of contacts. `sort` is name, added or a field's key, with - before it for descending; blank comes last.

    Raises BadInput for a sort, an `after` or criteria that are none.
    """
    limit = min(max(limit, 1), LARGEST_PAGE)
    with database.transaction() as tx:
        fields = load_fields(tx)
        order = store.order_by(sort, fields)
        if order is None:
            raise BadInput("sort", f"The table cannot be sorted by “{sort.removeprefix('-')}”.")
        field = fields.get(sort.removeprefix("-"))
        quick = note_sort(tx, field, now) if field else True
        begin = _read_key(after) if after else None
        found = store.contact_page(tx, asked_of(tx, wanted, now), order, after=begin, limit=limit)
        rows = [
            ContactRow(
                id=row.id,
                contact_no=row.contact_no,
                address=row.address,
                first_name=row.first_name,
                last_name=row.last_name,
                language=row.language,
                record=row.own,
                topics=[_topic_mark(key, state, until, now) for key, state, until in row.topics],
                tags=row.tags,
                suppressed=row.suppressed,
                created_at=row.created_at,
            )
            for row in found
        ]
        last = found[-1] if len(found) == limit else None
        return ContactPage(rows=rows, after=_key_text(last.sort_key, last.id) if last else None, preparing=not quick)


def _topic_mark(key: str, state: str, until: str | None, now: datetime) -> TopicMark:
    paused = state == "subscribed" and until is not None and datetime.fromisoformat(until) > now
    return TopicMark(key=key, state="paused" if paused else state)


@needs(Permission.LOOK)
def count_contacts(database: Database, actor: Actor, *, wanted: Wanted, now: datetime) -> int:
    """How many contacts there are of those wanted. Raises BadInput."""
    with database.transaction() as tx:
        return store.count_contacts(tx, asked_of(tx, wanted, now))


# The kinds that a sort key can have, each with its way back from text.
_KINDS: dict[str, Any] = {
    "s": str,
    "d": Decimal,
    "i": int,
    "t": datetime.fromisoformat,
}


def _key_text(key: Any, contact_id: int) -> str:
    kind = next(
        (sign for sign, type_ in (("s", str), ("d", Decimal), ("i", int), ("t", datetime)) if isinstance(key, type_)),
        "",
    )
    text = key.isoformat() if isinstance(key, datetime) else None if key is None else str(key)
    return base64.urlsafe_b64encode(orjson.dumps([kind, text, contact_id])).decode("ascii")


def _read_key(text: str) -> After:
    try:
        kind, key, contact_id = orjson.loads(base64.urlsafe_b64decode(text))
        return After(key=_KINDS[kind](key) if kind else None, contact_id=int(contact_id))
    except (ValueError, TypeError, KeyError, ArithmeticError) as fault:
        raise BadInput("bad_page", "This page of the table is not there; begin at the top again.") from fault
