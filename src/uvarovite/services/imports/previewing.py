"""Looking at a file before it is written: read, matched, validated and compared with who is there.

A large file takes minutes, so looking and writing are jobs: their state and progress stand in the database, where any
process can read them, and a job that dies leaves nothing half-written.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.files import read_file
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.import_plan import ImportKey, Policy, plan_of
from uvarovite.core.contacts.import_report import (
    ChangedRow,
    ColumnMatch,
    ConsentOutlook,
    FieldChange,
    ImportReport,
    NewRow,
    NumberMeeting,
    NumberMeets,
    OddDomain,
)
from uvarovite.core.contacts.import_states import ImportEvent, ImportState
from uvarovite.core.contacts.sheets import Sheet
from uvarovite.core.contacts.validating import LONGEST_TAG, MOST_TAGS, Column, has_key, tag_name
from uvarovite.core.values.address_hints import usual_domain_for
from uvarovite.sandbox import convert_workbook
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.contacts.import_refusals import bad_import
from uvarovite.services.errors import BadInput
from uvarovite.services.imports.columns import (
    ColumnChoice,
    matches_of,
    profile_of,
    validated_columns,
    validator_of,
    with_evidence,
)
from uvarovite.services.imports.pulls import since_last
from uvarovite.services.imports.standing import REFUSALS_SHOWN, locked_draft, move_on, refusals_of
from uvarovite.services.imports.views import ImportView, column_match, view_of
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.people import usual_domains
from uvarovite.store.database import Database, Transaction
from uvarovite.store.imports import comparing as store
from uvarovite.store.imports import staging, writes
from uvarovite.store.imports.comparing import Rules
from uvarovite.store.tables import Import

SAMPLES = 50

Step = Callable[[str, int, int], None]


def no_step(phase: str, done: int, total: int) -> None:
    """Tell nobody."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PreviewChange:
    """What is to be different when a file is looked at again; None leaves a choice as it is.

    `form` holds encoding, delimiter, quote, sheet and range; `topic` of "" takes a topic back.
    """

    form: dict[str, Any] | None = None
    columns: Sequence[ColumnChoice] | None = None
    key: str | None = None
    topic: str | None = None
    tags: Sequence[str] | None = None


NO_CHANGE = PreviewChange()


@needs(Permission.CONTACTS)
def preview(
    database: Database,
    actor: Actor,
    import_id: int,
    *,
    hasher: Hash,
    now: datetime,
    change: PreviewChange = NO_CHANGE,
    step: Step = no_step,
    refusals_shown: int = REFUSALS_SHOWN,
    compare: bool = True,
) -> ImportView:
    """Read a file that was kept and say what it would do; nothing of it is written to a contact.

    Without `compare` it is only read: for a file that is written at once, which compares it anyway.

    Raises NotFound, Conflict, BadInput; a file that cannot be read at all is left as it was.
    """
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        fields = load_fields(tx)
        reread = _take_change(draft, change, fields)
        data = data_of(database, import_id, step, draft.size or 0)
        try:
            # What was found out about a file stays, unless somebody says otherwise.
            sheet, form = read_file(data, replace(draft.form, **(change.form or {})), workbooks=convert_workbook)
            profile = profile_of(sheet)
            if not draft.headers or list(sheet.headers) != draft.headers:
                draft.headers, draft.columns = list(sheet.headers), ()
                reread = True
            draft.form = form
            matches = matches_of(tx, draft, profile, fields)
            if reread and has_key([match.column for match in matches]):
                validator = validator_of(tx, [match.column for match in matches], fields, hasher)
                staging.stage_rows(tx, import_id, validator.rows(sheet))
                if (asked := with_evidence(matches, validator.evidence)) is not None:
                    matches = asked
                    validator = validator_of(tx, [match.column for match in matches], fields, hasher)
                    staging.stage_rows(tx, import_id, validator.rows(sheet))
        except FileFault as fault:
            raise bad_import(fault.fault) from fault
        policies = [plan.policy for plan in draft.columns] or [Policy.OVERWRITE] * len(matches)
        draft.columns = tuple(plan_of(match, policy) for match, policy in zip(matches, policies, strict=True))
        if draft.state == ImportState.READING:
            move_on(draft, ImportEvent.SHOW)
        shown = [
            column_match(header, match, policy, cells, fields)
            for header, match, policy, cells in zip(draft.headers, matches, policies, profile, strict=True)
        ]
        if compare:
            step("comparing", 0, 1)
            draft.report = _compare(tx, draft, sheet, shown)
        else:
            draft.report = ImportReport(columns=shown)
        tx.add(draft)
        return view_of(draft, draft.report, refusals_of(tx, import_id, refusals_shown))


def data_of(database: Database, import_id: int, step: Step, size: int) -> Callable[[], Iterator[bytes]]:
    """The file's bytes over a connection of their own: the transaction's one is busy taking in rows meanwhile."""

    def pieces() -> Iterator[bytes]:
        done = number = 0
        while True:
            with database.transaction() as tx:
                piece = staging.get_piece(tx, import_id, number)
            if piece is None:
                return
            step("reading", done, size)
            done, number = done + len(piece), number + 1
            yield piece

    return pieces


def _take_change(draft: Import, change: PreviewChange, fields: FieldMap) -> bool:
    """Note what was chosen; True when the file has to be read again for it."""
    choices = draft.choices
    if change.key is not None:
        choices = replace(choices, key=ImportKey(change.key) if change.key in set(ImportKey) else ImportKey.NUMBER)
    if change.topic is not None:
        choices = replace(choices, topic=change.topic or None)
    if change.tags is not None:
        tags = [name for tag in change.tags if (name := tag_name(tag))]
        if len(tags) > MOST_TAGS or any(len(tag) > LONGEST_TAG for tag in tags):
            raise BadInput("tags", f"At most {MOST_TAGS} tags of at most {LONGEST_TAG} characters each.")
        choices = replace(choices, tags=tuple(tags))
    draft.choices = choices
    if change.columns is not None:
        chosen = validated_columns(change.columns, draft, fields)
        before, draft.columns = draft.columns, chosen
        return [replace(one, policy=Policy.KEEP) for one in before] != [
            replace(one, policy=Policy.KEEP) for one in chosen
        ]
    return change.form is not None or draft.state == ImportState.READING


def rules_of(draft: Import) -> Rules:
    """How the rows of an import are compared and put together."""
    policies = {plan.field: plan.policy for plan in draft.columns if plan.field is not None}
    return Rules(key=draft.choices.key, policies=policies)


def _compare(tx: Transaction, draft: Import, sheet: Sheet, columns: list[ColumnMatch]) -> ImportReport:
    told = ImportReport(columns=columns)
    if not has_key([Column(use=one.use, field=one.field) for one in columns]):
        # No column tells people apart yet; the screen offers to choose one.
        return told
    assert draft.id is not None
    rules = rules_of(draft)
    told.new, told.changed, told.same, told.refused = store.resolve_rows(tx, draft.id, rules)
    fill_refused_cells(tx, draft.id, sheet)
    told.outlook = outlook_of(tx, draft.id, draft.choices.topic)
    told.changed_rows = [
        ChangedRow(row=row.row, name=row.name, changes=_changes(row.before, row.after))
        for row in store.changed_samples(tx, draft.id, rules, after_row=0, limit=SAMPLES)
    ]
    told.changed_fields = store.changed_fields(tx, draft.id, rules) if told.changed else {}
    told.new_rows = [
        NewRow(row=row.row, record=row.record) for row in store.new_samples(tx, draft.id, after_row=0, limit=SAMPLES)
    ]
    told.topics_named = writes.topics_named(tx, draft.id)
    told.meets = _meets(tx, draft.id)
    told.notes = list(sheet.notes)
    told.odd_domains = _odd_domains(tx, draft.id)
    told.since = since_last(tx, draft)
    return told


def _meets(tx: Transaction, import_id: int) -> NumberMeets | None:
    """Rows that would give somebody another's address, because their contact numbers are the same."""
    found = store.number_meetings(tx, import_id, limit=3)
    if not found:
        return None
    return NumberMeets(
        rows=found[0].n,
        examples=[NumberMeeting(**{key: value for key, value in one._mapping.items() if key != "n"}) for one in found],
    )


def _odd_domains(tx: Transaction, import_id: int) -> list[OddDomain]:
    """Domains that look mistyped beside what is usual among the contacts and in the file itself."""
    here = staging.staged_domains(tx, import_id)
    counts = Counter(usual_domains(tx)) + Counter(here)
    found = ((domain, usual_domain_for(domain, counts)) for domain in here)
    odd = [OddDomain(domain=domain, usual=usual, rows=here[domain]) for domain, usual in found if usual is not None]
    return sorted(odd, key=lambda one: -one.rows)[:20]


def outlook_of(tx: Transaction, import_id: int, topic: str | None) -> ConsentOutlook | None:
    """What the import would do to the consent of its people; None without a topic."""
    if topic is None:
        return None
    found = consent_store.topic_by_key(tx, topic)
    if found is None or found.id is None:
        raise BadInput("topic", f"There is no topic “{topic}”.")
    return ConsentOutlook(**store.consent_outlook(tx, import_id, found.id))


def _changes(before: dict[str, Any], after: dict[str, Any]) -> list[FieldChange]:
    return [
        FieldChange(field=key, before=before.get(key), after=value)
        for key, value in after.items()
        if before.get(key) != value
    ]


def fill_refused_cells(tx: Transaction, import_id: int, sheet: Sheet) -> None:
    """Rows that the comparison refused have no cells yet; whoever mends them needs them."""
    lacking = staging.rows_without_cells(tx, import_id)
    found: dict[int, list[str]] = {}
    if lacking:
        for row, cells in sheet.rows():
            if row in lacking:
                found[row] = cells
            if len(found) == len(lacking):
                break
        staging.set_refused_cells(tx, import_id, found)
