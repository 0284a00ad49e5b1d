"""A field changed: renamed, or of another type. Every value that can be converted is; those that cannot are told first.

Nothing is lost for good: what every contact had stands in a change set, with the field as it was, and is brought back
with it. An amount keeps its currency unless somebody says what becomes of it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import ROUND_HALF_EVEN, Decimal
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import (
    Field,
    FieldType,
    Folded,
    ReadFault,
    Reading,
    Value,
    folded_value,
    read_value,
    value_from_json,
    value_to_json,
    value_to_text,
)
from uvarovite.core.contacts.acts import Act, Redefinition
from uvarovite.core.contacts.tables_out import csv_lines
from uvarovite.core.values import Money
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.fields import FieldDraft, field_of_draft, label_is_free, own_field
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.organisation.facts import typed_reading
from uvarovite.store.contacts import fields as store
from uvarovite.store.contacts.changes import new_change_set, note_contacts, restore_fields
from uvarovite.store.contacts.indexes import drop_sort_index
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions.by_hand import rebuild_views
from uvarovite.store.tables import ChangeSet

# What does not fit is shown up to here, counted beyond, and all of it in a file.
MISFITS_SHOWN = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Amounts:
    """What becomes of amounts when a field's currency changes: the same number in the new one, or multiplied first."""

    rate: Decimal = Decimal(1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Misfit:
    """A value that does not fit the new type."""

    contact_id: int
    name: str
    value: str
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RetypeReport:
    """What changing a field would do: how many values fit, how many do not and become blank, and the first of those.

    `amounts` counts the amounts whose currency would change: somebody has to say what becomes of them. `change_set_id`
    is under what it was done and can be undone; None while nothing was done.
    """

    fits: int
    lost: int
    misfits: list[Misfit]
    amounts: int
    change_set_id: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Converted:
    """One contact's value: as it was, and what it becomes, or why it becomes nothing."""

    contact_id: int
    name: str
    before: Value
    after: Value | ReadFault


@needs(Permission.SET_UP)
def preview_retype(database: Database, actor: Actor, key: str, draft: FieldDraft) -> RetypeReport:
    """What changing a field would do to its values; nothing is changed. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        old = store.field_of(own_field(tx, key))
        new = replace(field_of_draft(draft), key=key)
        return _report(_convert(tx, old, new, Amounts()), old, new)


@needs(Permission.SET_UP)
def misfits_file(database: Database, actor: Actor, key: str, draft: FieldDraft) -> str:
    """Every value that does not fit, as CSV: contact number, address, name, value, reason. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        old = store.field_of(own_field(tx, key))
        misfits = [
            one
            for one in _convert(tx, old, replace(field_of_draft(draft), key=key), Amounts())
            if isinstance(one.after, ReadFault)
        ]
        who = store.contact_keys(tx, [one.contact_id for one in misfits])
        rows = [
            [*who[one.contact_id], one.name, value_to_text(one.before, old), one.after.message]
            for one in misfits
            if isinstance(one.after, ReadFault)
        ]
        return "".join(csv_lines(["Contact no.", "E-mail address", "Name", old.label, "why it does not fit"], rows))


@needs(Permission.SET_UP)
def change_field(
    database: Database,
    actor: Actor,
    key: str,
    draft: FieldDraft,
    *,
    lose: int,
    amounts: Amounts | None = None,
    now: datetime,
) -> RetypeReport:
    """Rename or retype a field. `lose` is the number of values that were seen not to fit.

    Raises NotFound, BadInput, also when a currency changes and nobody says what becomes of the amounts, and Conflict when
    more than `lose` values do not fit.
    """
    new = replace(field_of_draft(draft), key=key)
    with database.transaction() as tx:
        row = own_field(tx, key)
        old = store.field_of(row)
        label_is_free(tx, new, key)
        converted = list(_convert(tx, old, new, amounts or Amounts()))
        report = _report(converted, old, new)
        if report.amounts and amounts is None:
            raise BadInput(
                "amounts",
                f"{report.amounts:,} amounts are in {old.currency}. Say what becomes of them in {new.currency}: the same "
                "numbers, or converted at a rate.",
            )
        if report.lost > lose:
            raise Conflict("lost", f"{report.lost:,} values do not fit and would become blank; look at them first.")
        told = _stored(converted)
        change_set = None
        if _shape(old) != _shape(new) or told:
            change_set = _note(tx, old, new, len(told), actor.user_id, now)
        _redefine(tx, key, old, new)
        if change_set is not None:
            store.put_values(tx, key, told, now, change_set_id=change_set)
        audit(tx, actor, Action.FIELD_SAVED, name=new.label)
        return replace(report, change_set_id=change_set)


def undo_retype(tx: Transaction, done: ChangeSet, *, now: datetime) -> tuple[int, int]:
    """(restored, kept): give a field back its type, and contacts what they had. Raises NotFound, Conflict."""
    assert done.redefinition is not None
    before, after = done.redefinition.before, done.redefinition.after
    current = store.field_of(own_field(tx, before.key))
    if _shape(current) != _shape(after):
        raise Conflict("changed", f"{current.label} was changed again since. Undo that first.")
    _redefine(tx, before.key, current, replace(before, label=current.label, help=current.help))
    assert done.id is not None
    return restore_fields(tx, done.id, now=now, deleted_too=True)


def _shape(field: Field) -> tuple[object, ...]:
    return field.type, field.currency, field.choices, field.parts


def _redefine(tx: Transaction, key: str, old: Field, new: Field) -> None:
    """Put another definition in place, with what depends on the type."""
    row = own_field(tx, key)
    retyped = (old.type, old.currency, old.parts) != (new.type, new.currency, new.parts)
    if retyped:
        drop_sort_index(tx, key)
    store.put_definition(row, new)
    tx.add(row)
    tx.flush()
    if retyped:
        rebuild_views(tx)


def _note(tx: Transaction, old: Field, new: Field, values: int, user_id: int | None, now: datetime) -> int:
    act, facts = Act.FIELD_RETYPED, {"before": old.type.value, "after": new.type.value}
    if old.type is new.type:
        facts = {"before": old.currency or "no currency", "after": new.currency or "no currency"}
        act = act if old.currency != new.currency else Act.FIELD_REDEFINED
    change_set = new_change_set(
        tx,
        at=now,
        user_id=user_id,
        channel="bulk",
        act=act,
        facts={"field": old.label, **facts},
        redefinition=Redefinition(before=old, after=new),
    )
    note_contacts(tx, change_set, values)
    return change_set


def _report(converted: "Iterator[_Converted] | list[_Converted]", old: Field, new: Field) -> RetypeReport:
    misfits: list[Misfit] = []
    fits = lost = amounts = 0
    foreign = old.type is FieldType.MONEY is new.type and old.currency != new.currency
    for one in converted:
        if not isinstance(one.after, ReadFault):
            fits += 1
            amounts += foreign
            continue
        lost += 1
        if len(misfits) < MISFITS_SHOWN:
            misfits.append(
                Misfit(
                    contact_id=one.contact_id,
                    name=one.name,
                    value=value_to_text(one.before, old),
                    message=one.after.message,
                )
            )
    return RetypeReport(fits=fits, lost=lost, misfits=misfits, amounts=amounts)


def _stored(converted: list[_Converted]) -> dict[int, tuple[Any, Folded | None]]:
    """The stored form and folded text of each value that becomes another one, or nothing."""
    told: dict[int, tuple[Any, Folded | None]] = {}
    for one in converted:
        if isinstance(one.after, ReadFault):
            told[one.contact_id] = (None, None)
        elif (stored := value_to_json(one.after)) != value_to_json(one.before):
            told[one.contact_id] = (stored, folded_value(one.after))
    return told


def _convert(tx: Transaction, old: Field, new: Field, amounts: Amounts) -> Iterator[_Converted]:
    """Every value that is there, of deleted contacts too: they may come back. Nothing where the type stays."""
    if _shape(old) == _shape(new):
        return
    reading = typed_reading(tx)
    for row in store.values_of(tx, old.key):
        before = value_from_json(row.value, old)
        after = convert_value(before, old, new, reading, amounts)
        yield _Converted(contact_id=row.id, name=row.name, before=before, after=after)


def convert_value(value: Value, old: Field, new: Field, reading: Reading, amounts: Amounts) -> Value | ReadFault:
    """A value of one field as one of another, where it has a meaning there."""
    match value:
        case Money() if new.type is FieldType.MONEY:
            assert new.currency is not None
            if new.currency == value.currency:
                return value
            exact = value.amount * amounts.rate
            # An amount is kept to the cent, as one would pay it.
            sum_ = exact if amounts.rate == 1 else exact.quantize(Decimal("0.01"), ROUND_HALF_EVEN)
            return Money(amount=sum_, currency=new.currency)
        case Money() if new.type is FieldType.NUMBER:
            # An amount loses its currency on the way to a plain number, and keeps its sum.
            return value.amount
        case datetime() if new.type is FieldType.DATE:
            return value.astimezone(reading.zone).date()
        case Decimal() if new.type is FieldType.TEXT:
            return format(value, "f")
        case bool() if new.type is FieldType.NUMBER:
            return Decimal(int(value))
    return read_value(value_to_text(value, old), new, reading)
