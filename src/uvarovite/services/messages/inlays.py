"""One inlay by itself: what is wrong with it, what can be done with its value, and what it is for one person."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts import FieldMap, FieldType, Item, Record
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import FORMATS, Insert, check_inlay, compile_inlay, parse_inlay, plain
from uvarovite.core.inlay.values import item_fields, resolve
from uvarovite.core.language import LanguageError, Problem
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.messages.messages import letterhead_or_first
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database


@dataclass(frozen=True, slots=True, kw_only=True)
class InlayView:
    """`formats` are those that go with the value; `example` is what the person reads there, None where nobody is asked
    about or a problem keeps it from being said.
    """

    problem: str | None
    type: FieldType | None
    formats: list[str]
    example: str | None


@needs(Permission.LOOK)
def look_at_inlay(
    database: Database,
    actor: Actor,
    *,
    source: str,
    variable: str,
    listed: str,
    contact_id: int,
    language: str,
    keyring: Keyring,
    now: datetime,
) -> InlayView:
    """One inlay; with a `variable` it stands in what is repeated for each record of the list `listed`."""
    with database.transaction() as tx:
        fields = load_fields(tx)
        seen = _within(fields, variable, listed)
        try:
            nodes = parse_inlay(source)
        except LanguageError as fault:
            return _faulty(fault.problem)
        found = check_inlay(nodes, seen)
        if found:
            return _faulty(found[0])
        value = resolve(nodes[0].value, seen) if len(nodes) == 1 and isinstance(nodes[0], Insert) else None
        type_ = None if value is None or isinstance(value, Problem) else value.type
        contact = contact_store.get_contact(tx, contact_id) if contact_id else None
        example = None
        if contact is not None:
            record = contact_store.record_of(contact, fields)
            letterhead = letterhead_or_first(tx, None, None, keyring)
            context = letterhead.context(record, Clock.at(now, letterhead.time_zone), language)
            example = compile_inlay(nodes, seen).render(_first(record, variable, listed), context, plain)
        formats = [name for name, row in FORMATS.items() if type_ in row.types]
        return InlayView(problem=None, type=type_, formats=formats, example=example)


def _faulty(problem: Problem) -> InlayView:
    return InlayView(problem=problem.message, type=None, formats=[], example=None)


def _within(fields: FieldMap, variable: str, listed: str) -> FieldMap:
    """The fields that are seen in what is repeated."""
    return {**fields, **item_fields(variable, fields[listed])} if variable and listed in fields else fields


def _first(record: Record, variable: str, listed: str) -> Record:
    """The record with the first one of its list as what is repeated sees it."""
    items = record.get(listed) if variable else None
    first: Item = items[0] if isinstance(items, tuple) and items else {}
    return {**record, **{f"{variable}.{key}": value for key, value in first.items()}}
