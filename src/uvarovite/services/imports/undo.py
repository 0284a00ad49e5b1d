"""What comes after an import: taking it back as a whole, and the refused rows as a file to mend."""

from dataclasses import replace
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts.faults import fault_words
from uvarovite.core.contacts.import_report import ImportReport, UndoneView
from uvarovite.core.contacts.import_states import ImportEvent, ImportState
from uvarovite.core.contacts.tables_out import csv_lines
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import Conflict, NotFound
from uvarovite.services.imports.standing import move_on
from uvarovite.store.audiences.members import unpick_change_set
from uvarovite.store.contacts.changes import mark_undone, restore_fields
from uvarovite.store.database import Database
from uvarovite.store.imports import staging
from uvarovite.store.imports import undo as store
from uvarovite.store.tables import Import


@needs(Permission.CONTACTS)
def undo_import(database: Database, actor: Actor, import_id: int, *, now: datetime) -> UndoneView:
    """Take an import back: its new people go, changed ones get back what they had, its stated consent is retracted.

    What somebody changed since stays as it is and is counted; a person who has answered since is no longer the
    import's to take away. Raises NotFound, Conflict.
    """
    with database.transaction() as tx:
        done = tx.get(Import, import_id, with_for_update=True)
        if done is None or done.written_at is None or done.change_set_id is None or done.id is None:
            raise NotFound("import")
        if done.state == ImportState.UNDONE:
            raise Conflict("undone", "This import was taken back already.")
        store.retract_consent(tx, import_id, at=now, recorded_by=actor.user_id)
        removed, kept_new = store.remove_new(tx, import_id, written_at=done.written_at, now=now)
        restored, kept = restore_fields(tx, done.change_set_id, now=now)
        unpick_change_set(tx, done.change_set_id)
        move_on(done, ImportEvent.UNDO)
        mark_undone(tx, done.change_set_id, now)
        undone = UndoneView(removed=removed, restored=restored, kept=kept_new + kept)
        done.report = replace(done.report or ImportReport(), undone=undone)
        tx.add(done)
        audit(tx, actor, Action.IMPORT_UNDONE, import_id, file=done.filename)
        return undone


@needs(Permission.CONTACTS)
def refused_file(database: Database, actor: Actor, import_id: int) -> tuple[str, str]:
    """(file name, CSV) of the refused rows with their reasons, to mend and import again. Raises NotFound."""
    with database.transaction() as tx:
        done = tx.get(Import, import_id)
        if done is None:
            raise NotFound("import")
        delimiter = done.form.delimiter or ","
        width = len(done.headers)
        rows = (
            [*[*row.cells, *[""] * (width - len(row.cells))][:width], fault_words(row.faults)]
            for row in staging.refusals(tx, import_id, limit=10_000_000)
        )
        text = "".join(csv_lines([*done.headers, "refused because"], rows, delimiter=delimiter))
        return f"refused from {done.filename.rpartition('.')[0] or done.filename}.csv", text
