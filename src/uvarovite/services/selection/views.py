"""Saved views of the contact table: criteria, columns and order under a name, shared by all who work here."""

from dataclasses import dataclass, replace
from datetime import datetime

from sqlmodel import col, select

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts.table_columns import TableColumn
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.expressions.criteria import criteria_sql
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.selection import table as store
from uvarovite.store.tables import ContactView

NARROWEST, WIDEST = 60, 800


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedView:
    """A view; `revision` goes back with a change."""

    id: int
    name: str
    criteria: str
    columns: list[TableColumn]
    sort: str
    revision: int


def _view(row: ContactView) -> SavedView:
    return SavedView(
        id=row.id or 0,
        name=row.name,
        criteria=row.criteria,
        columns=list(row.columns),
        sort=row.sort,
        revision=row.revision,
    )


@needs(Permission.LOOK)
def view_list(database: Database, actor: Actor) -> list[SavedView]:
    """All views by name."""
    with database.transaction() as tx:
        return [_view(row) for row in tx.exec(select(ContactView).order_by(col(ContactView.name))).all()]


@needs(Permission.WRITE)
def save_view(
    database: Database,
    actor: Actor,
    *,
    view_id: int | None,
    name: str,
    criteria: str,
    columns: list[TableColumn],
    sort: str,
    revision: int | None,
    now: datetime,
) -> SavedView:
    """Make or change a view. Raises BadInput, NotFound, Conflict when it changed meanwhile."""
    name = " ".join(name.split())
    if not name or len(name) > 80:
        raise BadInput("name", "Give the view a name of at most 80 characters.")
    if not columns or len(columns) > 60:
        raise BadInput("columns", "A view has 1 to 60 columns.")
    with database.transaction() as tx:
        if criteria.strip() not in ("", "everyone"):
            criteria_sql(tx, criteria, now)
        if store.order_by(sort, load_fields(tx)) is None:
            raise BadInput("sort", "The table cannot be sorted like this.")
        others = tx.exec(select(ContactView).where(ContactView.name == name, col(ContactView.id) != (view_id or 0)))
        if others.first() is not None:
            raise BadInput("taken", f"There is a view “{name}” already.")
        row = tx.get(ContactView, view_id, with_for_update=True) if view_id else None
        if view_id and row is None:
            raise NotFound("view")
        if row is not None and row.revision != revision:
            raise Conflict("changed", "Somebody else changed this view meanwhile; look at it again.")
        kept = tuple(replace(one, width=min(max(one.width, NARROWEST), WIDEST)) for one in columns)
        if row is None:
            row = ContactView(name=name, criteria=criteria, columns=kept, sort=sort, updated_at=now)
        else:
            row.name, row.criteria, row.columns, row.sort = name, criteria, kept, sort
            row.revision += 1
        row.updated_by, row.updated_at = actor.user_id, now
        tx.add(row)
        tx.flush()
        return _view(row)


@needs(Permission.WRITE)
def delete_view(database: Database, actor: Actor, view_id: int) -> None:
    """Remove a view. Raises NotFound."""
    with database.transaction() as tx:
        row = tx.get(ContactView, view_id)
        if row is None:
            raise NotFound("view")
        tx.delete(row)
