"""What is shown of an import, before and after it is written."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.sheets import Sheet
from uvarovite.store.tables import Import


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


def column_matches(draft: Import, sheet: Sheet | None, fields: FieldMap) -> list[ColumnMatch]:
    """The columns of a file with their fields and first values; without the sheet, without values."""
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


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportSamples:
    """What is shown of the rows."""

    refusals: list[Refusal]
    changed_rows: list[ChangedRow]
    new_rows: list[NewRow]


NO_SAMPLES = ImportSamples(refusals=[], changed_rows=[], new_rows=[])


def import_view(
    draft: Import,
    sheet: Sheet | None,
    fields: FieldMap,
    counts: dict[str, int],
    samples: ImportSamples = NO_SAMPLES,
    outlook: ConsentOutlook | None = None,
    topic: str | None = None,
) -> ImportView:
    """An import as it is shown."""
    return ImportView(
        id=draft.id or 0,
        filename=draft.filename,
        encoding=draft.encoding,
        guessed_encoding=draft.encoding != "utf-8",
        delimiter=draft.delimiter,
        columns=column_matches(draft, sheet, fields),
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


def report_json(view: ImportView) -> dict[str, Any]:
    """The shape that scripts rely on."""
    return {
        "new": view.new,
        "changed": view.changed,
        "same": view.same,
        "refused": [{"row": row.row, "reason": row.code, "message": row.message} for row in view.refusals],
        "columns": [{"header": one.header, "field": one.field, "type": one.type} for one in view.columns],
    }
