"""Bringing people in: look first, then write as a whole or not at all, and undo it as a whole.

A large file takes minutes, so looking and writing are jobs: their state and progress stand in the database, where any
process can read them, and a job that dies leaves nothing half-written.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import orjson
from pydantic import TypeAdapter

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.files import read_file
from uvarovite.core.contacts.import_states import ImportEvent, ImportState
from uvarovite.core.contacts.sheets import FileFault, Sheet
from uvarovite.core.contacts.validating import LONGEST_TAG, MOST_TAGS, Column, ColumnUse, has_key, tag_name
from uvarovite.core.values.address_hints import usual_domain_for
from uvarovite.sandbox import convert_workbook
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal
from uvarovite.services.imports.columns import (
    ColumnChoice,
    matches_of,
    profile_of,
    remember_columns,
    validated_columns,
    validator_of,
    with_evidence,
)
from uvarovite.services.imports.files import keep_file
from uvarovite.services.imports.pulls import note_written, since_last
from uvarovite.services.imports.standing import REFUSALS_SHOWN, locked_draft, move_on, refusals_of
from uvarovite.services.imports.views import (
    ChangedRow,
    ColumnMatch,
    ConsentOutlook,
    FieldChange,
    ImportView,
    NewRow,
    NumberMeeting,
    NumberMeets,
    OddDomain,
    Told,
    column_match,
    column_to_json,
    view_of,
    view_to_json,
)
from uvarovite.services.saving.reasons import require_ground
from uvarovite.store.audiences.members import pick_from_file
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts.changes import new_change_set, note_contacts
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.indexes import drop_before_import
from uvarovite.store.contacts.people import usual_domains
from uvarovite.store.database import Database, Transaction
from uvarovite.store.imports import comparing as store
from uvarovite.store.imports import staging, writes
from uvarovite.store.imports.comparing import ImportKey, Policy, Rules
from uvarovite.store.tables import Import

SAMPLES = 50

Step = Callable[[str, int, int], None]


def no_step(phase: str, done: int, total: int) -> None:
    """Tell nobody."""


def _bad_file(fault: FileFault) -> BadInput:
    return BadInput(f"file_{fault.code}", fault.message)


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


def preview(
    database: Database,
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
        data = _data(database, import_id, step, draft.options.get("size", 0))
        try:
            # What was found out about a file stays, unless somebody says otherwise.
            sheet, form = read_file(data, {**draft.form, **(change.form or {})}, workbooks=convert_workbook)
            profile = profile_of(sheet)
            if not draft.headers or list(sheet.headers) != draft.headers:
                draft.headers, draft.columns = list(sheet.headers), []
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
            raise _bad_file(fault) from fault
        policies = [stored.get("policy", "overwrite") for stored in draft.columns] or ["overwrite"] * len(matches)
        draft.columns = [column_to_json(match, policy) for match, policy in zip(matches, policies, strict=True)]
        if draft.state == ImportState.READING:
            move_on(draft, ImportEvent.SHOW)
        shown = [
            column_match(header, match, policy, cells, fields)
            for header, match, policy, cells in zip(draft.headers, matches, policies, profile, strict=True)
        ]
        if compare:
            step("comparing", 0, 1)
            view = _preview(tx, draft, sheet, shown, refusals_shown)
        else:
            view = view_of(draft, shown, Told(counts=dict.fromkeys(("new", "changed", "same", "refused"), 0)))
        draft.report = _stored(view)
        tx.add(draft)
        return view


def _stored(view: ImportView) -> dict[str, Any]:
    stored: dict[str, Any] = orjson.loads(orjson.dumps(view_to_json(view)))
    return stored


def _data(database: Database, import_id: int, step: Step, size: int) -> Callable[[], Iterator[bytes]]:
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
    options = dict(draft.options)
    if change.key is not None:
        options["key"] = ImportKey(change.key).value if change.key in set(ImportKey) else ImportKey.NUMBER.value
    if change.topic is not None:
        options["topic"] = change.topic or None
    if change.tags is not None:
        tags = [name for tag in change.tags if (name := tag_name(tag))]
        if len(tags) > MOST_TAGS or any(len(tag) > LONGEST_TAG for tag in tags):
            raise BadInput("tags", f"At most {MOST_TAGS} tags of at most {LONGEST_TAG} characters each.")
        options["tags"] = tags
    draft.options = options
    if change.columns is not None:
        chosen = validated_columns(change.columns, draft, fields)
        same = [{**old, "policy": None} for old in draft.columns] == [{**new, "policy": None} for new in chosen]
        draft.columns = chosen
        return not same
    return change.form is not None or draft.state == ImportState.READING


def _rules(draft: Import) -> Rules:
    policies = {
        stored["field"]: Policy(stored.get("policy", "overwrite")) for stored in draft.columns if stored.get("field")
    }
    return Rules(key=ImportKey(draft.options.get("key") or ImportKey.NUMBER), policies=policies)


def _preview(
    tx: Transaction, draft: Import, sheet: Sheet, columns: list[ColumnMatch], refusals_shown: int
) -> ImportView:
    if not has_key([Column(use=ColumnUse(one.use), field=one.field) for one in columns]):
        # No column tells people apart yet; the screen offers to choose one.
        return view_of(draft, columns, Told(counts={"new": 0, "changed": 0, "same": 0, "refused": 0}))
    assert draft.id is not None
    rules = _rules(draft)
    told = Told(counts=store.resolve_rows(tx, draft.id, rules))
    _fill_refused_cells(tx, draft.id, sheet)
    told.refusals = refusals_of(tx, draft.id, refusals_shown)
    told.outlook = _outlook(tx, draft.id, draft.options.get("topic"))
    told.changed_rows = [
        ChangedRow(row=row.row, name=row.name, changes=_changes(row.before, row.after))
        for row in store.changed_samples(tx, draft.id, rules, after_row=0, limit=SAMPLES)
    ]
    told.changed_fields = store.changed_fields(tx, draft.id, rules) if told.counts["changed"] else {}
    told.new_rows = [
        NewRow(row=row.row, record=row.record) for row in store.new_samples(tx, draft.id, after_row=0, limit=SAMPLES)
    ]
    told.topics_named = writes.topics_named(tx, draft.id)
    told.meets = _meets(tx, draft.id)
    told.notes = list(sheet.notes)
    told.odd_domains = _odd_domains(tx, draft.id)
    told.since = since_last(tx, draft)
    return view_of(draft, columns, told)


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


def _outlook(tx: Transaction, import_id: int, topic: str | None) -> ConsentOutlook | None:
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


def _fill_refused_cells(tx: Transaction, import_id: int, sheet: Sheet) -> None:
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


def write_import(
    database: Database,
    import_id: int,
    *,
    topic: str | None,
    ground: str,
    user_id: int | None,
    now: datetime,
    step: Step = no_step,
    refusals_shown: int = REFUSALS_SHOWN,
) -> ImportView:
    """Write a file that was looked at, in one transaction. Raises NotFound, Conflict, BadInput; then nothing is written.

    With a topic, or a column of topics, the ground on which these people opted in is stated and becomes evidence.
    """
    if topic is not None:
        require_ground(ground)
    with database.transaction() as tx:
        expected = _new_rows(tx, import_id)
    drop_before_import(database, expected)
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        if draft.state != ImportState.WRITING:
            move_on(draft, ImportEvent.WRITE)
        if not staging.is_staged(tx, import_id):
            raise Conflict("not_previewed", "The rows of this file are gone; look at it again.")
        fields = load_fields(tx)
        _validate_still(draft, fields)
        rules = _rules(draft)
        step("comparing", 0, 4)
        told = Told(counts=store.resolve_rows(tx, import_id, rules))
        if staging.rows_without_cells(tx, import_id):
            data = _data(database, import_id, no_step, 0)
            sheet, _ = read_file(data, draft.form, workbooks=convert_workbook)
            _fill_refused_cells(tx, import_id, sheet)
        named = writes.topics_named(tx, import_id)
        if named or topic is not None:
            ground = require_ground(ground)
        told.outlook, told.topics_named = _outlook(tx, import_id, topic), named
        step("writing contacts", 1, 4)
        change_set = new_change_set(tx, at=now, user_id=user_id, way="import", what=f"Imported {draft.filename}")
        note_contacts(tx, change_set, sum(told.counts[one] for one in ("new", "changed", "same")))
        writes.write_rows(tx, import_id, rules, change_set_id=change_set, now=now)
        told.since = note_written(tx, draft, told.counts, topic=topic, ground=ground, change_set_id=change_set, now=now)
        step("writing tags", 2, 4)
        writes.write_tags(tx, import_id, draft.options.get("tags") or [], change_set_id=change_set)
        pick_from_file(tx, import_id, change_set_id=change_set, added_by=user_id, at=now)
        step("writing consent", 3, 4)
        topics = {one.key: one.id or 0 for one in consent_store.topics(tx)}
        evidence = {"ground": ground, "file": draft.filename, "import": import_id}
        for key, only in [(topic, None), *((key, key) for key in named)]:
            if key is not None:
                writes.append_consent(
                    tx,
                    import_id,
                    topic_id=topics[key],
                    only_topic=only,
                    change_set_id=change_set,
                    at=now,
                    evidence=evidence,
                    recorded_by=user_id,
                    all_new=not named and not told.counts["changed"] and not told.counts["same"],
                )
        draft.topic_id, draft.ground = topics.get(topic or ""), ground or None
        move_on(draft, ImportEvent.FINISH)
        draft.written_at, draft.change_set_id = now, change_set
        draft.options = {**draft.options, "topic": topic}
        told.refusals = refusals_of(tx, import_id, refusals_shown)
        columns = TypeAdapter(list[ColumnMatch]).validate_python((draft.report or {})["columns"])
        view = view_of(draft, columns, told)
        # Refused rows stand in a table of their own, where an erasure finds them.
        draft.report = _stored(replace(view, refusals=[]))
        tx.add(draft)
        remember_columns(tx, draft, now)
        staging.drop_staged(tx, import_id)
        return view


def _validate_still(draft: Import, fields: FieldMap) -> None:
    """A field may have been removed since the file was looked at."""
    for stored in draft.columns:
        if stored.get("field") is not None and stored["field"] not in fields:
            raise Conflict("fields", f"The field {stored['field']} was removed meanwhile; look at the file again.")


def _new_rows(tx: Transaction, import_id: int) -> int:
    """How many people a file would add, as far as it is known: all of its rows, where nobody compared them yet."""
    draft = tx.get(Import, import_id)
    report = (draft.report if draft else None) or {}
    if any(report.get(one) for one in ("new", "changed", "same", "refused")):
        return int(report["new"])
    return staging.rows_staged(tx, import_id) if staging.is_staged(tx, import_id) else 0


def import_file(
    database: Database,
    *,
    filename: str,
    content: bytes | Iterable[bytes],
    topic: str | None,
    ground: str,
    now: datetime,
    dry_run: bool = False,
    user_id: int | None = None,
    refusals_shown: int = REFUSALS_SHOWN,
    hasher: Hash,
    step: Step = no_step,
) -> ImportView:
    """Look at a file and, unless it is a dry run, write it. Raises BadInput; then nothing is left behind."""
    pieces = [content] if isinstance(content, bytes) else content
    import_id = keep_file(database, filename=filename, content=pieces, user_id=user_id, now=now)
    change = PreviewChange(topic=topic or "")
    try:
        view = preview(
            database,
            import_id,
            hasher=hasher,
            now=now,
            change=change,
            step=step,
            refusals_shown=refusals_shown,
            compare=dry_run,
        )
        if not any(one.use == ColumnUse.FIELD and one.field in ("address", "contact_no") for one in view.columns):
            raise BadInput(
                "file_no_key_column",
                "No column holds e-mail addresses or contact numbers, so nobody can be told apart.",
            )
        if not dry_run:
            return write_import(
                database,
                import_id,
                topic=topic,
                ground=ground,
                user_id=user_id,
                now=now,
                step=step,
                refusals_shown=refusals_shown,
            )
    except ServiceRefusal:
        discard_import(database, import_id)
        raise
    discard_import(database, import_id)
    return view


def discard_import(database: Database, import_id: int) -> None:
    """Forget a file that was looked at and not written."""
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        staging.drop_staged(tx, import_id)
        tx.delete(draft)
