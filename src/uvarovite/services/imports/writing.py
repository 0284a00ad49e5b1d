"""Writing a file that was looked at: as a whole or not at all; and a file that is taken, looked at and written in one go."""

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.consent import ConsentEvidence
from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.acts import Act
from uvarovite.core.contacts.files import read_file
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.import_report import ImportReport
from uvarovite.core.contacts.import_states import ImportEvent, ImportState
from uvarovite.core.contacts.validating import ColumnUse
from uvarovite.sandbox import convert_workbook
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.contacts.import_refusals import bad_import, import_conflict
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.imports.columns import remember_columns
from uvarovite.services.imports.files import keep_file
from uvarovite.services.imports.previewing import (
    PreviewChange,
    Step,
    data_of,
    fill_refused_cells,
    no_step,
    outlook_of,
    preview,
    rules_of,
)
from uvarovite.services.imports.pulls import note_written
from uvarovite.services.imports.standing import REFUSALS_SHOWN, locked_draft, move_on, refusals_of
from uvarovite.services.imports.views import ImportView, view_of
from uvarovite.services.saving.reasons import require_legal_basis
from uvarovite.store.audiences.members import pick_from_file
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts.changes import new_change_set, note_contacts
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.indexes import drop_before_import
from uvarovite.store.database import Database, Transaction
from uvarovite.store.imports import comparing as store
from uvarovite.store.imports import staging, writes
from uvarovite.store.tables import Import


@needs(Permission.CONTACTS)
def write_import(
    database: Database,
    actor: Actor,
    import_id: int,
    *,
    topic: str | None,
    legal_basis: str,
    now: datetime,
    step: Step = no_step,
    refusals_shown: int = REFUSALS_SHOWN,
) -> ImportView:
    """Write a file that was looked at, in one transaction. Raises NotFound, Conflict, BadInput; then nothing is written.

    With a topic, or a column of topics, the legal basis on which these people opted in is stated and becomes evidence.
    """
    if topic is not None:
        require_legal_basis(legal_basis)
    with database.transaction() as tx:
        expected = _new_rows(tx, import_id)
    drop_before_import(database, expected)
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        if draft.state != ImportState.WRITING:
            move_on(draft, ImportEvent.WRITE)
        if not staging.is_staged(tx, import_id):
            raise import_conflict("not_previewed")
        fields = load_fields(tx)
        _validate_still(draft, fields)
        rules = rules_of(draft)
        step("comparing", 0, 4)
        told = ImportReport(columns=draft.report.columns if draft.report else [])
        told.new, told.changed, told.same, told.refused = store.resolve_rows(tx, import_id, rules)
        if staging.rows_without_cells(tx, import_id):
            data = data_of(database, import_id, no_step, 0)
            sheet, _ = read_file(data, draft.form, workbooks=convert_workbook)
            fill_refused_cells(tx, import_id, sheet)
        named = writes.topics_named(tx, import_id)
        if named or topic is not None:
            legal_basis = require_legal_basis(legal_basis)
        told.outlook, told.topics_named = outlook_of(tx, import_id, topic), named
        step("writing contacts", 1, 4)
        change_set = new_change_set(
            tx, at=now, user_id=actor.user_id, channel="import", act=Act.IMPORTED, facts={"file": draft.filename}
        )
        note_contacts(tx, change_set, told.rows - told.refused)
        writes.write_rows(tx, import_id, rules, change_set_id=change_set, now=now)
        note_written(tx, draft, told, topic=topic, legal_basis=legal_basis, change_set_id=change_set, now=now)
        step("writing tags", 2, 4)
        writes.write_tags(tx, import_id, list(draft.choices.tags), change_set_id=change_set)
        pick_from_file(tx, import_id, change_set_id=change_set, added_by=actor.user_id, at=now)
        step("writing consent", 3, 4)
        topics = {one.key: one.id or 0 for one in consent_store.topics(tx)}
        evidence = ConsentEvidence(legal_basis=legal_basis, file=draft.filename, import_id=import_id)
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
                    recorded_by=actor.user_id,
                    all_new=not named and not told.changed and not told.same,
                )
        draft.topic_id, draft.legal_basis = topics.get(topic or ""), legal_basis or None
        move_on(draft, ImportEvent.FINISH)
        draft.written_at, draft.change_set_id = now, change_set
        draft.choices, draft.report = replace(draft.choices, topic=topic), told
        tx.add(draft)
        remember_columns(tx, draft, now)
        staging.drop_staged(tx, import_id)
        audit(
            tx,
            actor,
            Action.IMPORTED,
            import_id,
            file=draft.filename,
            new=told.new,
            changed=told.changed,
            same=told.same,
            refused=told.refused,
        )
        return view_of(draft, told, refusals_of(tx, import_id, refusals_shown))


def _validate_still(draft: Import, fields: FieldMap) -> None:
    """A field may have been removed since the file was looked at."""
    for plan in draft.columns:
        if plan.field is not None and plan.field not in fields:
            raise import_conflict("field_removed", field=plan.field)


def _new_rows(tx: Transaction, import_id: int) -> int:
    """How many people a file would add, as far as it is known: all of its rows, where nobody compared them yet."""
    draft = tx.get(Import, import_id)
    if draft is not None and draft.report is not None and draft.report.rows:
        return draft.report.new
    return staging.rows_staged(tx, import_id) if staging.is_staged(tx, import_id) else 0


@needs(Permission.CONTACTS)
def import_file(
    database: Database,
    actor: Actor,
    *,
    filename: str,
    content: bytes | Iterable[bytes],
    topic: str | None,
    legal_basis: str,
    now: datetime,
    dry_run: bool = False,
    refusals_shown: int = REFUSALS_SHOWN,
    hasher: Hash,
    step: Step = no_step,
) -> ImportView:
    """Look at a file and, unless it is a dry run, write it. Raises BadInput; then nothing is left behind."""
    pieces = [content] if isinstance(content, bytes) else content
    import_id = keep_file(database, actor, filename=filename, content=pieces, now=now)
    change = PreviewChange(topic=topic or "")
    try:
        view = preview(
            database,
            actor,
            import_id,
            hasher=hasher,
            now=now,
            change=change,
            step=step,
            refusals_shown=refusals_shown,
            compare=dry_run,
        )
        if not any(one.use == ColumnUse.FIELD and one.field in ("address", "contact_no") for one in view.columns):
            raise bad_import(FileFault("no_key_column").fault)
        if not dry_run:
            return write_import(
                database,
                actor,
                import_id,
                topic=topic,
                legal_basis=legal_basis,
                now=now,
                step=step,
                refusals_shown=refusals_shown,
            )
    except ServiceRefusal:
        discard_import(database, actor, import_id)
        raise
    discard_import(database, actor, import_id)
    return view


@needs(Permission.CONTACTS)
def discard_import(database: Database, actor: Actor, import_id: int) -> None:
    """Forget a file that was looked at and not written."""
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        staging.drop_staged(tx, import_id)
        tx.delete(draft)
