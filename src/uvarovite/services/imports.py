"""Bringing people in: look first, then write as a whole or not at all."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlmodel import col, select

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.judging import judge_rows
from uvarovite.core.contacts.matching import match_columns
from uvarovite.core.contacts.sheets import FileFault, Sheet, read_sheet
from uvarovite.services.errors import BadInput, Conflict, NotFound
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


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnMatch:
    """A column of the file and the field it goes into (None: left out), with its first values."""

    header: str
    field: str | None
    type: str | None
    samples: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Refusal:
    """A refused row; rows count from 1 for the first record."""

    row: int
    code: str
    message: str
    cells: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldChange:
    """One field of a changed row, in stored form."""

    field: str
    before: Any
    after: Any


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedRow:
    """A row that changes a contact."""

    row: int
    name: str
    changes: list[FieldChange]


@dataclass(frozen=True, slots=True, kw_only=True)
class NewRow:
    """A row that makes a contact."""

    row: int
    record: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class ConsentOutlook:
    """What stating consent does: newly subscribed, subscribed already, had left and stay out."""

    subscribed: int
    already: int
    left: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportView:
    """An import: what it would do, or, once `written_at` is set, what it did. Samples are the first of each kind."""

    id: int
    filename: str
    encoding: str
    guessed_encoding: bool
    delimiter: str
    columns: list[ColumnMatch]
    new: int
    changed: int
    same: int
    refused: int
    refusals: list[Refusal]
    changed_rows: list[ChangedRow]
    new_rows: list[NewRow]
    outlook: ConsentOutlook | None
    topic: str | None
    ground: str | None
    written_at: datetime | None


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


def _columns(draft: Import, sheet: Sheet | None, fields: FieldMap) -> list[ColumnMatch]:
    samples: list[list[str]] = [[] for _ in draft.headers]
    if sheet is not None:
        for row, cells in sheet.rows():
            for found, cell in zip(samples, cells, strict=False):
                if cell.strip() and len(found) < 3:
                    found.append(cell.strip()[:60])
            if row >= 20:
                break
    return [
        ColumnMatch(
            header=header,
            field=key,
            type=fields[key].type if key is not None and key in fields else None,
            samples=found,
        )
        for header, key, found in zip(draft.headers, draft.columns, samples, strict=True)
    ]


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
        return _view(draft, sheet, fields, {"new": 0, "changed": 0, "same": 0, "refused": 0})
    counts = _stage(tx, draft, sheet, fields)
    cells = _cells_of(sheet, {row.row for row in store.refusals(tx, refusals_shown)})
    outlook = None
    if topic is not None:
        found = consent_store.topic_by_key(tx, topic)
        if found is None or found.id is None:
            raise BadInput("topic", f"There is no topic “{topic}”.")
        outlook = ConsentOutlook(**store.consent_outlook(tx, found.id))
    samples = _Samples(
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
    return _view(draft, sheet, fields, counts, samples, outlook, topic)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Samples:
    """What is shown of the rows."""

    refusals: list[Refusal]
    changed_rows: list[ChangedRow]
    new_rows: list[NewRow]


_NO_SAMPLES = _Samples(refusals=[], changed_rows=[], new_rows=[])


def _view(
    draft: Import,
    sheet: Sheet | None,
    fields: FieldMap,
    counts: dict[str, int],
    samples: _Samples = _NO_SAMPLES,
    outlook: ConsentOutlook | None = None,
    topic: str | None = None,
) -> ImportView:
    return ImportView(
        id=draft.id or 0,
        filename=draft.filename,
        encoding=draft.encoding,
        guessed_encoding=draft.encoding != "utf-8",
        delimiter=draft.delimiter,
        columns=_columns(draft, sheet, fields),
        new=counts["new"],
        changed=counts["changed"],
        same=counts["same"],
        refused=counts["refused"],
        refusals=samples.refusals,
        changed_rows=samples.changed_rows,
        new_rows=samples.new_rows,
        outlook=outlook,
        topic=topic,
        ground=draft.ground,
        written_at=draft.written_at,
    )


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
        samples = _Samples(refusals=refused, changed_rows=[], new_rows=[])
        return _view(draft, None, fields, counts, samples, ConsentOutlook(**outlook) if outlook else None, topic)


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


def report_json(view: ImportView) -> dict[str, Any]:
    """The shape that scripts rely on."""
    return {
        "new": view.new,
        "changed": view.changed,
        "same": view.same,
        "refused": [{"row": row.row, "reason": row.code, "message": row.message} for row in view.refusals],
        "columns": [{"header": one.header, "field": one.field, "type": one.type} for one in view.columns],
    }
