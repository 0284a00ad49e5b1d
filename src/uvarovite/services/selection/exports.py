"""Selected contacts as a file: CSV or XLSX with the columns of choice, in the order of the table."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import FieldMap, value_from_json, value_to_text
from uvarovite.core.contacts.tables_out import MOST_SHEET_ROWS, csv_lines, workbook_bytes
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.selection.bulk import Selection, choose
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.selection import exports as store

# Columns of the table that are no fields.
OTHER_COLUMNS = {"name": "Name", "topics": "Topics", "tags": "Tags", "added": "Added"}
CSV, XLSX = "csv", "xlsx"
CSV_MEDIA = "text/csv; charset=utf-8"
XLSX_MEDIA = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@dataclass(frozen=True, slots=True, kw_only=True)
class ExportedFile:
    """A file to be sent, in pieces."""

    filename: str
    media_type: str
    pieces: Iterator[bytes]


def column_labels(columns: Sequence[str], fields: FieldMap) -> list[str]:
    """The headers of columns by key. Raises BadInput for one that is none."""
    labels = []
    for key in columns:
        if key not in OTHER_COLUMNS and key not in fields:
            raise BadInput("columns", f"There is no column “{key}”.")
        labels.append(OTHER_COLUMNS.get(key) or fields[key].label)
    return labels


def table_cells(row: Any, columns: Sequence[str], fields: FieldMap) -> list[str]:
    """The cells of one contact, as texts that an import reads back."""
    cells = []
    for key in columns:
        match key:
            case "name":
                cells.append(" ".join(filter(None, [row.first_name, row.last_name])))
            case "topics" | "tags":
                cells.append(", ".join(row._mapping[key]))
            case "added":
                cells.append(row.created_at.date().isoformat())
            case _ if fields[key].standard:
                cells.append(row._mapping[key] or "")
            case _:
                cells.append(value_to_text(value_from_json(row.own.get(key), fields[key]), fields[key]))
    return cells


@needs(Permission.EXPORT)
def export(
    database: Database, actor: Actor, selection: Selection, *, columns: Sequence[str], form: str, now: datetime
) -> ExportedFile:
    """The selected contacts as a file. Raises BadInput, Conflict."""
    if form not in (CSV, XLSX) or not columns:
        raise BadInput("form", "Choose CSV or XLSX, and at least one column.")
    name = f"contacts {now:%Y-%m-%d}.{form}"
    with database.transaction() as tx:
        fields = load_fields(tx)
        labels = column_labels(columns, fields)
        count = choose(tx, selection, now)
        if form == XLSX and count > MOST_SHEET_ROWS:
            raise BadInput("form", f"A sheet holds {MOST_SHEET_ROWS:,} rows; take them out as CSV.")
        audit(tx, actor, Action.CONTACTS_EXPORTED, people=count, form=form.upper(), columns=", ".join(labels))
        if form == XLSX:
            rows = (table_cells(row, columns, fields) for row in store.chosen_rows(tx))
            name, media, whole = file_bytes(labels, rows, form, now)
            return ExportedFile(filename=name, media_type=media, pieces=iter([whole]))
    return ExportedFile(filename=name, media_type=CSV_MEDIA, pieces=_csv_pieces(database, selection, columns, now))


def file_bytes(
    labels: Sequence[str], rows: Iterable[Sequence[str]], form: str, now: datetime
) -> tuple[str, str, bytes]:
    """(file name, media type, content) of a table as a whole: for a workbook, or where the table is small."""
    name = f"contacts {now:%Y-%m-%d}.{form}"
    if form == XLSX:
        return name, XLSX_MEDIA, workbook_bytes("Contacts", labels, rows)
    return name, CSV_MEDIA, "".join(csv_lines(labels, rows)).encode()


def _csv_pieces(database: Database, selection: Selection, columns: Sequence[str], now: datetime) -> Iterator[bytes]:
    """The file while it is sent: a million contacts are never in memory together."""
    with database.transaction() as tx:
        fields = load_fields(tx)
        choose(tx, selection, now)
        rows = (table_cells(row, columns, fields) for row in store.chosen_rows(tx))
        for text in csv_lines(column_labels(columns, fields), rows):
            yield text.encode()
