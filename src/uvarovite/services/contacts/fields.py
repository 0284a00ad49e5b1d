"""The organisation's own fields: made, removed and brought back; a field's change is in retyping."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import (
    Field,
    FieldType,
    field_problem,
)
from uvarovite.core.expressions import Node, fields_in
from uvarovite.core.values import CURRENCIES
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.store.audiences.audiences import audiences
from uvarovite.store.contacts import fields as store
from uvarovite.store.contacts.indexes import drop_sort_index
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions.by_hand import rebuild_views
from uvarovite.store.tables import ContactField


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldDraft:
    """A field as edited. `parts` are those of a list's records."""

    key: str
    label: str
    type: str
    currency: str | None = None
    choices: tuple[str, ...] = ()
    parts: tuple["FieldDraft", ...] = ()
    help: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovedField:
    """A field that was removed and can be brought back with its values."""

    key: str
    label: str
    removed_at: datetime


def field_of_draft(draft: FieldDraft) -> Field:
    """The definition that a draft gives. Raises BadInput for one that cannot be."""
    if draft.type not in set(FieldType):
        raise BadInput("field", f"There is no type “{draft.type}”.")
    field = Field(
        key=draft.key.strip(),
        label=" ".join(draft.label.split()),
        type=FieldType(draft.type),
        currency=draft.currency if draft.type == FieldType.MONEY else None,
        choices=tuple(choice.strip() for choice in draft.choices) if draft.type == FieldType.CHOICE else (),
        parts=tuple(field_of_draft(part) for part in draft.parts) if draft.type == FieldType.LIST else (),
        help=draft.help.strip(),
    )
    if fault := field_problem(field, list(CURRENCIES)):
        raise BadInput("field", fault)
    return field


def label_is_free(tx: Transaction, field: Field, but_for: str | None) -> None:
    """Raises BadInput where another field than `but_for` is called so."""
    for other in store.load_fields(tx).values():
        if other.key != but_for and other.label.casefold() == field.label.casefold():
            raise BadInput("field", f"There is a field “{other.label}” already.")


@needs(Permission.SET_UP)
def make_field(database: Database, actor: Actor, draft: FieldDraft) -> str:
    """Make a field; its key. Raises BadInput for a definition that cannot be, or a key or label that is taken."""
    field = field_of_draft(draft)
    with database.transaction() as tx:
        there = store.get_field(tx, field.key)
        if there is not None and there.removed_at is not None:
            raise BadInput("field", f"A removed field has the key “{field.key}”: bring it back, or choose another key.")
        if there is not None or field.key in store.load_fields(tx):
            raise BadInput("field", f"The key “{field.key}” is taken.")
        label_is_free(tx, field, None)
        store.add_field(tx, field)
        rebuild_views(tx)
        audit(tx, actor, Action.FIELD_SAVED, name=field.label)
        return field.key


def own_field(tx: Transaction, key: str) -> ContactField:
    """A field of the organisation that was not removed. Raises NotFound."""
    row = store.get_field(tx, key)
    if row is None or row.removed_at is not None:
        raise NotFound("field")
    return row


@needs(Permission.SET_UP)
def remove_field(database: Database, actor: Actor, key: str, *, now: datetime) -> None:
    """Remove a field from everywhere; its values stay until it is brought back. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        row = own_field(tx, key)
        using = [one.name for one in audiences(tx) if _mentions(one.criteria, key)]
        if using:
            raise Conflict("used", f"The audience “{using[0]}” asks for {row.label}; change it first.")
        row.removed_at = now
        tx.add(row)
        drop_sort_index(tx, key)
        rebuild_views(tx)
        audit(tx, actor, Action.FIELD_REMOVED, name=row.label)


def _mentions(criteria: Node, key: str) -> bool:
    return key in fields_in(criteria)


@needs(Permission.SET_UP)
def restore_field(database: Database, actor: Actor, key: str) -> None:
    """Bring a removed field back, with its values. Raises NotFound, BadInput when its label was given to another."""
    with database.transaction() as tx:
        row = store.get_field(tx, key)
        if row is None or row.removed_at is None:
            raise NotFound("field")
        field = store.field_of(row)
        label_is_free(tx, field, key)
        row.removed_at = None
        tx.add(row)
        tx.flush()
        rebuild_views(tx)
        audit(tx, actor, Action.FIELD_RESTORED, name=row.label)


@needs(Permission.LOOK)
def removed_fields(database: Database, actor: Actor) -> list[RemovedField]:
    """Fields that can be brought back, the latest first."""
    with database.transaction() as tx:
        return [
            RemovedField(key=row.key, label=row.label, removed_at=row.removed_at)
            for row in store.removed_fields(tx)
            if row.removed_at is not None
        ]


@needs(Permission.SET_UP)
def order_fields(database: Database, actor: Actor, keys: Sequence[str]) -> None:
    """Put the fields into an order. Raises BadInput unless every field is named once."""
    with database.transaction() as tx:
        own = [key for key, field in store.load_fields(tx).items() if not field.standard]
        if sorted(own) != sorted(keys):
            raise BadInput("fields", "The fields changed meanwhile; look at them again.")
        store.put_order(tx, keys)
