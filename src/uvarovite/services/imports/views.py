"""What is shown of an import, before and after it is written."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.evidence import open_doubts
from uvarovite.core.contacts.files import FileForm
from uvarovite.core.contacts.import_plan import ImportKey, Policy
from uvarovite.core.contacts.import_report import (
    ChangedRow,
    ColumnMatch,
    ConsentOutlook,
    FieldProposal,
    ImportReport,
    NewRow,
    NumberMeets,
    OddDomain,
    SinceLast,
    UndoneView,
)
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.core.contacts.matching import Match
from uvarovite.core.contacts.sheets import FileNote, NoteCode
from uvarovite.core.contacts.vcards import FURTHER
from uvarovite.store.tables import Import


@dataclass(frozen=True, slots=True, kw_only=True)
class Refusal:
    """A refused row. `row` counts as a spreadsheet does, `record` from 1 for the first one below the column names."""

    row: int
    record: int
    code: str
    message: str
    cells: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far it has come: `done` of `total`, bytes while reading, steps while writing."""

    phase: str
    done: int
    total: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportView:
    """An import: what it would do, or, once `written_at` is set, what it did. Samples are the first of each kind.

    `fault` says in words why it failed. `topics_named`
    counts the rows that name each topic in a column of their own. `source_id` and `since` are a live source's.
    """

    id: int
    filename: str
    state: ImportState
    form: FileForm
    columns: list[ColumnMatch]
    key: ImportKey
    rows: int
    new: int
    changed: int
    same: int
    refused: int
    refusals: list[Refusal]
    changed_rows: list[ChangedRow]
    changed_fields: dict[str, int]
    new_rows: list[NewRow]
    meets: NumberMeets | None
    notes: list[str]
    outlook: ConsentOutlook | None
    topics_named: dict[str, int]
    odd_domains: list[OddDomain]
    topic: str | None
    legal_basis: str | None
    tags: list[str]
    written_at: datetime | None
    progress: Progress | None
    undone: UndoneView | None
    fault: str | None
    source_id: int | None = None
    since: SinceLast | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportLine:
    """An import in the list of all that were written."""

    id: int
    filename: str
    state: ImportState
    written_at: datetime | None
    by: str | None
    new: int
    changed: int
    refused: int


def column_match(header: str, match: Match, policy: Policy, samples: list[str], fields: FieldMap) -> ColumnMatch:
    """A column as it is shown."""
    column = match.column
    field = fields.get(column.field) if column.field is not None else None
    proposal = None
    if match.proposal is not None:
        made = match.proposal
        proposal = FieldProposal(
            key=made.key, label=made.label, type=made.type, currency=made.currency, choices=list(made.choices)
        )
    return ColumnMatch(
        header=header,
        use=column.use,
        field=column.field,
        type=field.type.value if field else None,
        samples=[cell[:60] for cell in samples[:3]],
        confidence=match.confidence,
        basis=match.basis,
        date_order=column.reading.date_order,
        century=column.reading.century,
        decimal_comma=column.reading.decimal_comma,
        doubts=sorted(match.doubts),
        open=sorted(open_doubts(match.doubts, column.reading)),
        policy=policy,
        proposal=proposal,
    )


def report_json(view: ImportView) -> dict[str, Any]:
    """The shape that scripts rely on."""
    return {
        "new": view.new,
        "changed": view.changed,
        "same": view.same,
        "refused": [{"row": row.record, "reason": row.code, "message": row.message} for row in view.refusals],
        "columns": [{"header": one.header, "field": one.field, "type": one.type} for one in view.columns],
    }


def view_of(draft: Import, report: ImportReport, refusals: list[Refusal]) -> ImportView:
    """An import as it is shown."""
    return ImportView(
        id=draft.id or 0,
        filename=draft.filename,
        state=ImportState(draft.state),
        form=draft.form,
        columns=report.columns,
        key=draft.choices.key,
        rows=report.rows,
        new=report.new,
        changed=report.changed,
        same=report.same,
        refused=report.refused,
        refusals=refusals,
        changed_rows=report.changed_rows,
        changed_fields=report.changed_fields,
        new_rows=report.new_rows,
        meets=report.meets,
        notes=[note_words(note) for note in report.notes],
        outlook=report.outlook,
        topics_named=report.topics_named,
        odd_domains=report.odd_domains,
        topic=draft.choices.topic,
        legal_basis=draft.legal_basis,
        tags=list(draft.choices.tags),
        written_at=draft.written_at,
        progress=None,
        undone=report.undone,
        fault=draft.fault.message if draft.fault else None,
        source_id=draft.source_id,
        since=report.since,
    )


def note_words(note: FileNote) -> str:
    """What a person should know about a file, in words."""
    match note.code:
        case NoteCode.SEVERAL_ADDRESSES:
            who = "1 card holds" if note.count == 1 else f"{note.count:,} cards hold"
            return (
                f"{who} more than one e-mail address. The preferred one is taken; the others stand in the column "
                f"“{FURTHER}”."
            )
