"""How an import stands: its state, its progress and what it found, read back from what was stored."""

from dataclasses import replace

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts.faults import fault_words
from uvarovite.core.contacts.import_faults import ImportFault
from uvarovite.core.contacts.import_report import ImportReport
from uvarovite.core.contacts.import_states import IMPORT, UNDER_WAY, ImportEvent, ImportState
from uvarovite.core.values.state_table import IllegalStep
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import Conflict, NotFound
from uvarovite.services.imports.views import ImportLine, ImportView, Progress, Refusal, view_of
from uvarovite.store.database import Database, Transaction, run_sql
from uvarovite.store.imports import staging
from uvarovite.store.tables import Import

# Enough to read on a screen; the command line asks for all of them.
REFUSALS_SHOWN = 200


def locked_draft(tx: Transaction, import_id: int) -> Import:
    """An import that is not written yet, locked. Raises NotFound, Conflict."""
    # Its progress refers to the row and is told from outside meanwhile, which FOR UPDATE would keep waiting.
    draft = tx.get(Import, import_id, with_for_update={"key_share": True})
    if draft is None:
        raise NotFound("import")
    if draft.written_at is not None:
        raise Conflict("written", "This file has been imported already.")
    return draft


def refusals_of(tx: Transaction, import_id: int, limit: int) -> list[Refusal]:
    """The first refused rows of an import."""
    return [
        Refusal(row=row.row, record=row.record, code=row.code, message=fault_words(row.faults), cells=list(row.cells))
        for row in staging.refusals(tx, import_id, limit=limit)
    ]


@needs(Permission.LOOK)
def get_import(database: Database, actor: Actor, import_id: int) -> ImportView:
    """An import as it stands, with its progress while it is under way. Raises NotFound."""
    with database.transaction() as tx:
        found = tx.get(Import, import_id)
        if found is None:
            raise NotFound("import")
        view = view_of(found, found.report or ImportReport(), refusals_of(tx, import_id, REFUSALS_SHOWN))
        rows = run_sql(tx, "SELECT phase, done, total FROM import_progress WHERE import_id = :id", {"id": import_id})
        return replace(view, progress=Progress(**rows[0]._mapping) if rows and found.state in UNDER_WAY else None)


def move_on(draft: Import, event: ImportEvent) -> None:
    """What happens to an import. Raises Conflict where somebody else was quicker: it is not there where this begins."""
    try:
        draft.state = IMPORT.next(draft.state, event)
    except IllegalStep as fault:
        raise Conflict(
            "state", _BUSY.get(draft.state, "This import has moved on meanwhile; look at it again.")
        ) from fault


def note(database: Database, import_id: int, event: ImportEvent, fault: ImportFault | None = None) -> None:
    """Note that a job has begun, or that it failed and why. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        move_on(draft, event)
        draft.fault = fault
        tx.add(draft)


_BUSY: dict[str, str] = {
    ImportState.READING: "This file is being read; wait until it is done.",
    ImportState.WRITING: "This file is being written already.",
}


@needs(Permission.LOOK)
def import_list(database: Database, actor: Actor, limit: int = 50) -> list[ImportLine]:
    """The imports that were written, latest first."""
    with database.transaction() as tx:
        rows = run_sql(
            tx,
            """SELECT import_file.id, filename, state, written_at, user_account.name AS by,
                    coalesce(CAST(report->>'new' AS integer), 0) AS new,
                    coalesce(CAST(report->>'changed' AS integer), 0) AS changed,
                    coalesce(CAST(report->>'refused' AS integer), 0) AS refused
                FROM import_file LEFT JOIN user_account ON user_account.id = created_by
                WHERE written_at IS NOT NULL ORDER BY import_file.id DESC LIMIT :limit""",
            {"limit": limit},
        )
        return [ImportLine(**{**row._mapping, "state": ImportState(row.state)}) for row in rows]
