"""What is shown of an import, before and after it is written."""

from dataclasses import asdict, dataclass, field
from datetime import datetime
from typing import Any

from uvarovite.core.contacts import DateOrder, FieldMap, Reading, field_to_json
from uvarovite.core.contacts.evidence import open_doubts
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.core.contacts.matching import Match
from uvarovite.core.contacts.validating import Column, ColumnUse
from uvarovite.store.imports.comparing import ImportKey
from uvarovite.store.tables import Import


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldProposal:
    """A field that could be made of a column."""

    key: str
    label: str
    type: str
    currency: str | None
    choices: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnMatch:
    """A column of the file and what becomes of it, with its first values.

    `use` is leave_out, field, tags or topics; `date_order`, `century` and `decimal_comma` say how it is read; `doubts` are
    what its cells leave open (date_order, century, decimal, contact_number), `open` what of that nobody has said yet;
    `policy` is what happens to people who are there already.
    """

    header: str
    use: str
    field: str | None
    type: str | None
    samples: list[str]
    confidence: float
    basis: str
    date_order: DateOrder | None
    century: int | None
    decimal_comma: bool | None
    doubts: list[str]
    open: list[str]
    policy: str
    proposal: FieldProposal | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FileForm:
    """How a file is read: delimited text, a workbook, or vCards; what does not apply is None."""

    kind: str
    encoding: str | None = None
    guessed: bool = False
    delimiter: str | None = None
    quote: str | None = None
    sheet: str | None = None
    sheets: list[str] | None = None
    range: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Refusal:
    """A refused row. `row` counts as a spreadsheet does, `record` from 1 for the first one below the column names."""

    row: int
    record: int
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
class NumberMeeting:
    """A row with a contact number that somebody else has, as it seems: both addresses, and what they are called."""

    row: int
    contact_no: str
    address: str
    name: str
    their_address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberMeets:
    """Rows whose contact number belongs to somebody with another address, and the first of them."""

    rows: int
    examples: list[NumberMeeting]


@dataclass(frozen=True, slots=True, kw_only=True)
class OddDomain:
    """A domain in the file that is one slip away from a usual one, and how many rows have it."""

    domain: str
    usual: str
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True)
class GonePerson:
    """Somebody who stood in a live source at the last pull and does not any more."""

    id: int
    name: str
    address: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SinceLast:
    """What differs in a live source from its last pull at `at`, with the first of those who are gone."""

    at: datetime
    new: int
    changed: int
    gone: int
    gone_people: list[GonePerson]


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far it has come: `done` of `total`, bytes while reading, steps while writing."""

    phase: str
    done: int
    total: int


@dataclass(frozen=True, slots=True, kw_only=True)
class UndoneView:
    """What undoing an import did: people taken away, given back their values, and those changed since, left as they are."""

    removed: int
    restored: int
    kept: int


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
    key: str
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


def column_to_json(match: Match, policy: str) -> dict[str, Any]:
    """The stored form of what becomes of a column."""
    column = match.column
    return {
        "use": column.use.value,
        "field": column.field,
        "date_order": column.reading.date_order.value if column.reading.date_order else None,
        "century": column.reading.century,
        "decimal_comma": column.reading.decimal_comma,
        "policy": policy,
        "doubts": sorted(match.doubts),
    }


def column_from_json(stored: dict[str, Any], zone: Any) -> Column:
    """What becomes of a column, from its stored form; instants without a zone are read in `zone`."""
    order = stored.get("date_order")
    reading = Reading(
        date_order=DateOrder(order) if order else None,
        century=stored.get("century"),
        decimal_comma=stored.get("decimal_comma"),
        zone=zone,
    )
    return Column(use=ColumnUse(stored["use"]), field=stored.get("field"), reading=reading)


def column_match(header: str, match: Match, policy: str, samples: list[str], fields: FieldMap) -> ColumnMatch:
    """A column as it is shown."""
    column = match.column
    field = fields.get(column.field) if column.field is not None else None
    proposal = None
    if match.proposal is not None:
        told = field_to_json(match.proposal)
        proposal = FieldProposal(
            **{key: told[key] for key in ("key", "label", "type", "currency")}, choices=list(told["choices"])
        )
    return ColumnMatch(
        header=header,
        use=column.use.value,
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


def file_form(form: dict[str, Any]) -> FileForm:
    """How a file is read, as it is shown."""
    return FileForm(**{"kind": "delimited", **form})


def report_json(view: ImportView) -> dict[str, Any]:
    """The shape that scripts rely on."""
    return {
        "new": view.new,
        "changed": view.changed,
        "same": view.same,
        "refused": [{"row": row.record, "reason": row.code, "message": row.message} for row in view.refusals],
        "columns": [{"header": one.header, "field": one.field, "type": one.type} for one in view.columns],
    }


def view_to_json(view: ImportView) -> dict[str, Any]:
    """The stored form of a view, so that it can be shown again without comparing a million rows anew."""
    return asdict(view)


@dataclass(slots=True, kw_only=True)
class Told:
    """What a look or a writing found, for the view."""

    counts: dict[str, int]
    refusals: list[Refusal] = field(default_factory=list)
    changed_rows: list[ChangedRow] = field(default_factory=list)
    changed_fields: dict[str, int] = field(default_factory=dict)
    new_rows: list[NewRow] = field(default_factory=list)
    meets: NumberMeets | None = None
    notes: list[str] = field(default_factory=list)
    outlook: ConsentOutlook | None = None
    topics_named: dict[str, int] = field(default_factory=dict)
    odd_domains: list[OddDomain] = field(default_factory=list)
    since: SinceLast | None = None


def view_of(draft: Import, columns: list[ColumnMatch], told: Told) -> ImportView:
    """An import as it is shown after it was looked at or written."""
    return ImportView(
        id=draft.id or 0,
        filename=draft.filename,
        state=ImportState(draft.state),
        form=file_form(draft.form),
        columns=columns,
        key=draft.options.get("key") or ImportKey.NUMBER.value,
        rows=sum(told.counts.values()),
        new=told.counts["new"],
        changed=told.counts["changed"],
        same=told.counts["same"],
        refused=told.counts["refused"],
        refusals=told.refusals,
        changed_rows=told.changed_rows,
        changed_fields=told.changed_fields,
        new_rows=told.new_rows,
        meets=told.meets,
        notes=told.notes,
        outlook=told.outlook,
        topics_named=told.topics_named,
        odd_domains=told.odd_domains,
        topic=draft.options.get("topic"),
        legal_basis=draft.legal_basis,
        tags=draft.options.get("tags") or [],
        written_at=draft.written_at,
        progress=None,
        undone=None,
        fault=None,
        source_id=draft.source_id,
        since=told.since,
    )
