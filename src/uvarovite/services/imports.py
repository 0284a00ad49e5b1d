"""Bringing people in: look first, then write as a whole or not at all."""

import csv
import io
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlmodel import col, select

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.judging import judge_rows
from uvarovite.core.contacts.matching import match_columns
from uvarovite.core.contacts.sheets import FileFault, Sheet, read_sheet
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.import_views import (
    ChangedRow,
    ConsentOutlook,
    FieldChange,
    ImportSamples,
    ImportView,
    NewRow,
    Refusal,
    import_view,
)
from uvarovite.store import consent as consent_store
from uvarovite.store import imports as store
from uvarovite.store.contacts import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Import, ImportRefusal

# What a browser sends in one go; a larger file goes through the command line, which reads it in place.
LARGEST_UPLOAD_BYTES = 32 * 1024 * 1024
SAMPLES = 50
# Enough to read on a screen; the command line asks for all of them.
REFUSALS_SHOWN = 200


def _bad_file(fault: FileFault) -> BadInput:
    return BadInput(f"file_{fault.code}", fault.message)


def look_at_file(
    database: Database,
    *,
    filename: str,
    content: bytes,
    user_id: int | None,
    now: datetime,
    encoding: str | None = None,
    refusals_shown: int = REFUSALS_SHOWN,
) -> ImportView:
    """Read a file, match its columns and say what it would do; nothing of it is written yet. Raises BadInput."""
    try:
        sheet = read_sheet(content, encoding=encoding)
    except FileFault as fault:
        raise _bad_file(fault) from fault
    with database.transaction() as tx:
        store.forget_old_drafts(tx, now)
        fields = load_fields(tx)
        draft = Import(
            filename=filename[:200] or "contacts.csv",
            content=content,
            encoding=sheet.encoding,
            delimiter=sheet.delimiter,
            headers=list(sheet.headers),
            columns=match_columns(sheet.headers, fields),
            created_by=user_id,
            created_at=now,
        )
        tx.add(draft)
        tx.flush()
        return _look(tx, draft, sheet, fields, refusals_shown=refusals_shown)


def look_again(
    database: Database,
    import_id: int,
    *,
    columns: Sequence[str | None] | None = None,
    encoding: str | None = None,
    topic: str | None = None,
) -> ImportView:
    """The same file with other columns, another encoding or a topic. Raises NotFound, Conflict, BadInput."""
    with database.transaction() as tx:
        draft = _draft(tx, import_id)
        fields = load_fields(tx)
        if encoding is not None and encoding != draft.encoding:
            draft.encoding = encoding
            sheet = _sheet(draft)
            draft.headers, draft.columns = list(sheet.headers), match_columns(sheet.headers, fields)
        if columns is not None:
            draft.columns = _judged_columns(columns, draft, fields)
        tx.add(draft)
        return _look(tx, draft, _sheet(draft), fields, topic=topic)


def _draft(tx: Transaction, import_id: int) -> Import:
    draft = tx.exec(select(Import).where(col(Import.id) == import_id).with_for_update()).first()
    if draft is None:
        raise NotFound("import")
    if draft.written_at is not None or draft.content is None:
        raise Conflict("written", "This file has been brought in already.")
    return draft


def _sheet(draft: Import) -> Sheet:
    try:
        return read_sheet(draft.content or b"", encoding=draft.encoding, delimiter=draft.delimiter)
    except FileFault as fault:
        raise _bad_file(fault) from fault


def _judged_columns(columns: Sequence[str | None], draft: Import, fields: FieldMap) -> list[str | None]:
    used: list[str] = [key for key in columns if key is not None]
    if len(columns) != len(draft.headers) or any(key not in fields for key in used):
        raise BadInput("columns", "These columns do not go with this file; bring it in again.")
    for key in used:
        if used.count(key) > 1:
            raise BadInput("columns", f"Two columns go into {fields[key].label}; choose one of them.")
    return list(columns)


def _stage(tx: Transaction, draft: Import, sheet: Sheet, fields: FieldMap) -> dict[str, int]:
    try:
        store.stage_rows(tx, draft.id or 0, judge_rows(sheet, draft.columns, fields))
    except FileFault as fault:
        raise _bad_file(fault) from fault
    return store.resolve_rows(tx)


def _look(
    tx: Transaction,
    draft: Import,
    sheet: Sheet,
    fields: FieldMap,
    *,
    topic: str | None = None,
    refusals_shown: int = REFUSALS_SHOWN,
) -> ImportView:
    key_missing = not {"address", "contact_no"} & set(draft.columns)
    if key_missing:
        # No column tells people apart yet; the screen offers to choose one.
        return import_view(draft, sheet, fields, {"new": 0, "changed": 0, "same": 0, "refused": 0})
    counts = _stage(tx, draft, sheet, fields)
    cells = _cells_of(sheet, {row.row for row in store.refusals(tx, refusals_shown)})
    outlook = None
    if topic is not None:
        found = consent_store.topic_by_key(tx, topic)
        if found is None or found.id is None:
            raise BadInput("topic", f"There is no topic “{topic}”.")
        outlook = ConsentOutlook(**store.consent_outlook(tx, found.id))
    samples = ImportSamples(
        refusals=[
            Refusal(row=row.row, code=row.code, message=row.message, cells=cells.get(row.row, []))
            for row in store.refusals(tx, refusals_shown)
        ],
        changed_rows=[
            ChangedRow(row=row.row, name=row.name, changes=_changes(row.before, row.after))
            for row in store.changed_samples(tx, SAMPLES)
        ],
        new_rows=[NewRow(row=row.row, record=row.record) for row in store.new_samples(tx, SAMPLES)],
    )
    return import_view(draft, sheet, fields, counts, samples, outlook, topic)


def _changes(before: dict[str, Any], after: dict[str, Any]) -> list[FieldChange]:
    return [
        FieldChange(field=key, before=before.get(key), after=value)
        for key, value in after.items()
        if before.get(key) != value
    ]


def _cells_of(sheet: Sheet, rows: set[int]) -> dict[int, list[str]]:
    if not rows:
        return {}
    found: dict[int, list[str]] = {}
    for row, cells in sheet.rows():
        if row in rows:
            found[row] = cells
        if len(found) == len(rows):
            break
    return found


def write_import(
    database: Database,
    import_id: int,
    *,
    topic: str | None,
    ground: str,
    user_id: int | None,
    now: datetime,
    refusals_shown: int = REFUSALS_SHOWN,
) -> ImportView:
    """Write a file that was looked at, in one transaction. Raises NotFound, Conflict, BadInput; then nothing is written.

    With a topic, the ground on which these people opted in is stated and becomes evidence in the ledger.
    """
    if topic is not None and len(ground.strip()) < 5:
        raise BadInput("ground", "Say on what ground these people opted in, such as “signed the list at the open day”.")
    with database.transaction() as tx:
        draft = _draft(tx, import_id)
        fields = load_fields(tx)
        sheet = _sheet(draft)
        counts = _stage(tx, draft, sheet, fields)
        _fill_refused_cells(tx, sheet)
        store.write_rows(tx, import_id, now)
        outlook: dict[str, int] | None = None
        if topic is not None:
            found = consent_store.topic_by_key(tx, topic)
            if found is None or found.id is None:
                raise BadInput("topic", f"There is no topic “{topic}”.")
            outlook = store.consent_outlook(tx, found.id)
            evidence = {"ground": ground.strip(), "file": draft.filename}
            consent_store.append_for_import(tx, topic_id=found.id, at=now, evidence=evidence, recorded_by=user_id)
            draft.topic_id, draft.ground = found.id, ground.strip()
        draft.written_at, draft.content = now, None
        draft.report = {**counts, "outlook": outlook}
        tx.add(draft)
        refused = [
            Refusal(row=row.row, code=row.code, message=row.message, cells=list(row.cells))
            for row in store.refusals(tx, refusals_shown)
        ]
        samples = ImportSamples(refusals=refused, changed_rows=[], new_rows=[])
        return import_view(draft, None, fields, counts, samples, ConsentOutlook(**outlook) if outlook else None, topic)


def _fill_refused_cells(tx: Transaction, sheet: Sheet) -> None:
    """Rows refused by comparison have no cells yet; the report needs them."""
    lacking = {row.row for row in store.refusals(tx, 1_000_000) if not row.cells}
    if lacking:
        store.set_refused_cells(tx, _cells_of(sheet, lacking))


def import_file(
    database: Database,
    *,
    filename: str,
    content: bytes,
    topic: str | None,
    ground: str,
    now: datetime,
    dry_run: bool = False,
    user_id: int | None = None,
    refusals_shown: int = REFUSALS_SHOWN,
) -> ImportView:
    """Look at a file and, unless it is a dry run, write it. Raises BadInput; then nothing is left behind."""
    view = look_at_file(
        database, filename=filename, content=content, user_id=user_id, now=now, refusals_shown=refusals_shown
    )
    if dry_run:
        discard_import(database, view.id)
        return view
    try:
        return write_import(
            database, view.id, topic=topic, ground=ground, user_id=user_id, now=now, refusals_shown=refusals_shown
        )
    except BadInput:
        discard_import(database, view.id)
        raise


def discard_import(database: Database, import_id: int) -> None:
    """Forget a file that was looked at and not written."""
    with database.transaction() as tx:
        tx.delete(_draft(tx, import_id))


def refused_file(database: Database, import_id: int) -> tuple[str, str]:
    """(file name, CSV) of the refused rows with their reasons, to mend and bring in again. Raises NotFound."""
    with database.transaction() as tx:
        done = tx.get(Import, import_id)
        if done is None:
            raise NotFound("import")
        rows = tx.exec(
            select(ImportRefusal).where(col(ImportRefusal.import_id) == import_id).order_by(col(ImportRefusal.row))
        ).all()
        out = io.StringIO()
        writer = csv.writer(out, delimiter=done.delimiter)
        writer.writerow([*done.headers, "refused because"])
        for row in rows:
            padded = [*row.cells, *[""] * (len(done.headers) - len(row.cells))][: len(done.headers)]
            writer.writerow([*padded, row.message])
        return f"refused from {done.filename}", "\ufeff" + out.getvalue()
