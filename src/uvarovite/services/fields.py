"""The organisation's own fields: made, renamed, retyped with a report first, removed and brought back."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.contacts import (
    Field,
    FieldType,
    Folded,
    ReadFault,
    Value,
    field_problem,
    folded_value,
    read_value,
    value_from_json,
    value_to_json,
    value_to_text,
)
from uvarovite.core.expressions import fields_in, node_from_json
from uvarovite.core.values import CURRENCIES
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.store import fields as store
from uvarovite.store.audiences import audiences
from uvarovite.store.database import Database, Transaction
from uvarovite.store.people_views import rebuild_views
from uvarovite.store.tables import ContactField

# Retyping reads every value anew; what does not fit is shown up to here, and counted beyond.
MISFITS_SHOWN = 50


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
class Misfit:
    """A value that would be lost by retyping a field."""

    contact_id: int
    name: str
    value: str
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RetypeReport:
    """What retyping a field would do: how many values fit, how many would be lost, and the first of those."""

    fits: int
    lost: int
    misfits: list[Misfit]


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovedField:
    """A field that was removed and can be brought back with its values."""

    key: str
    label: str
    removed_at: datetime


def _field(draft: FieldDraft) -> Field:
    if draft.type not in set(FieldType):
        raise BadInput("field", f"There is no type “{draft.type}”.")
    field = Field(
        key=draft.key.strip(),
        label=" ".join(draft.label.split()),
        type=FieldType(draft.type),
        currency=draft.currency if draft.type == FieldType.MONEY else None,
        choices=tuple(choice.strip() for choice in draft.choices) if draft.type == FieldType.CHOICE else (),
        parts=tuple(_field(part) for part in draft.parts) if draft.type == FieldType.LIST else (),
        help=draft.help.strip(),
    )
    if fault := field_problem(field, list(CURRENCIES)):
        raise BadInput("field", fault)
    return field


def _label_is_free(tx: Transaction, field: Field, but_for: str | None) -> None:
    for other in store.load_fields(tx).values():
        if other.key != but_for and other.label.casefold() == field.label.casefold():
            raise BadInput("field", f"There is a field “{other.label}” already.")


def make_field(database: Database, draft: FieldDraft) -> str:
    """Make a field; its key. Raises BadInput for a definition that cannot be, or a key or label that is taken."""
    field = _field(draft)
    with database.transaction() as tx:
        there = store.get_field(tx, field.key)
        if there is not None and there.removed_at is not None:
            raise BadInput("field", f"A removed field has the key “{field.key}”: bring it back, or choose another key.")
        if there is not None or field.key in store.load_fields(tx):
            raise BadInput("field", f"The key “{field.key}” is taken.")
        _label_is_free(tx, field, None)
        store.add_field(tx, field)
        rebuild_views(tx)
        return field.key


def preview_retype(database: Database, key: str, draft: FieldDraft) -> RetypeReport:
    """What changing a field would do to its values; nothing is changed. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        row = _own_field(tx, key)
        return _retype(tx, store.field_of(row), replace(_field(draft), key=key))[0]


def change_field(database: Database, key: str, draft: FieldDraft, *, lose: int, now: datetime) -> RetypeReport:
    """Rename or retype a field. `lose` is the number of values whose loss was seen and accepted.

    Raises NotFound, BadInput, and Conflict when more than `lose` values would go.
    """
    field = replace(_field(draft), key=key)
    with database.transaction() as tx:
        row = _own_field(tx, key)
        old = store.field_of(row)
        _label_is_free(tx, field, key)
        report, told = _retype(tx, old, field)
        if report.lost > lose:
            raise Conflict("lost", f"{report.lost:,} values do not fit and would be lost; look at them first.")
        retyped = (old.type, old.currency, old.parts) != (field.type, field.currency, field.parts)
        if retyped:
            store.drop_sort_index(tx, key)
        store.put_definition(row, field)
        tx.add(row)
        tx.flush()
        store.put_values(tx, key, told, now)
        if retyped:
            store.make_sort_index(tx, field)
            rebuild_views(tx)
        return report


def _own_field(tx: Transaction, key: str) -> ContactField:
    row = store.get_field(tx, key)
    if row is None or row.removed_at is not None:
        raise NotFound("field")
    return row


def _retype(tx: Transaction, old: Field, new: Field) -> tuple[RetypeReport, dict[int, tuple[Any, Folded | None]]]:
    """The report, and the stored form and folded text of each value that becomes another one."""
    told: dict[int, tuple[Any, Folded | None]] = {}
    misfits: list[Misfit] = []
    fits = lost = 0
    if (old.type, old.currency, old.choices, old.parts) == (new.type, new.currency, new.choices, new.parts):
        return RetypeReport(fits=0, lost=0, misfits=[]), told
    for row in store.values_of(tx, old.key):
        value = value_from_json(row.value, old)
        read = _as(value, old, new)
        if isinstance(read, ReadFault):
            lost += 1
            told[row.id] = (None, None)
            if len(misfits) < MISFITS_SHOWN:
                text = value_to_text(value, old)
                misfits.append(Misfit(contact_id=row.id, name=row.name, value=text, message=read.message))
            continue
        fits += 1
        stored = value_to_json(read)
        if stored != row.value:
            told[row.id] = (stored, folded_value(read))
    return RetypeReport(fits=fits, lost=lost, misfits=misfits), told


def _as(value: Value, old: Field, new: Field) -> Value | ReadFault:
    text = value_to_text(value, old)
    # An amount loses its currency on the way to a plain number, and keeps its sum.
    if old.type is FieldType.MONEY and new.type in (FieldType.NUMBER, FieldType.MONEY):
        text = text.rpartition(" ")[0]
    return read_value(text, new)


def remove_field(database: Database, key: str, *, now: datetime) -> None:
    """Remove a field from everywhere; its values stay until it is brought back. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        row = _own_field(tx, key)
        using = [one.name for one in audiences(tx) if _mentions(one.criteria, key)]
        if using:
            raise Conflict("used", f"The audience “{using[0]}” asks for {row.label}; change it first.")
        row.removed_at = now
        tx.add(row)
        store.drop_sort_index(tx, key)
        rebuild_views(tx)


def _mentions(criteria: dict[str, Any], key: str) -> bool:
    return key in fields_in(node_from_json(criteria))


def restore_field(database: Database, key: str) -> None:
    """Bring a removed field back, with its values. Raises NotFound, BadInput when its label was given to another."""
    with database.transaction() as tx:
        row = store.get_field(tx, key)
        if row is None or row.removed_at is None:
            raise NotFound("field")
        field = store.field_of(row)
        _label_is_free(tx, field, key)
        row.removed_at = None
        tx.add(row)
        tx.flush()
        store.make_sort_index(tx, field)
        rebuild_views(tx)


def removed_fields(database: Database) -> list[RemovedField]:
    """Fields that can be brought back, the latest first."""
    with database.transaction() as tx:
        return [
            RemovedField(key=row.key, label=row.label, removed_at=row.removed_at)
            for row in store.removed_fields(tx)
            if row.removed_at is not None
        ]


def order_fields(database: Database, keys: Sequence[str]) -> None:
    """Put the fields into an order. Raises BadInput unless every field is named once."""
    with database.transaction() as tx:
        own = [key for key, field in store.load_fields(tx).items() if not field.standard]
        if sorted(own) != sorted(keys):
            raise BadInput("fields", "The fields changed meanwhile; look at them again.")
        store.put_order(tx, keys)
