"""What a pull of a live source holds, compared with the one before it, and what is kept of it."""

from datetime import datetime

from uvarovite.core.contacts.import_plan import ImportChoices
from uvarovite.core.contacts.import_report import GonePerson, ImportReport, SinceLast
from uvarovite.core.contacts.live_sources import PullFound
from uvarovite.store import sources as store
from uvarovite.store.database import Transaction
from uvarovite.store.tables import Import, LiveSource, SourcePull

GONE_SHOWN = 50


def since_last(tx: Transaction, draft: Import) -> SinceLast | None:
    """What differs from the last pull that was written, once the rows are resolved. None for files and first pulls."""
    if draft.source_id is None or draft.id is None:
        return None
    last = store.last_written(tx, draft.source_id)
    if last is None:
        return None
    since = store.since_pull(tx, draft.id, last.id, draft.choices.key, names=GONE_SHOWN)
    people = [GonePerson(id=row.id, name=row.name, address=row.address) for row in since.gone_people]
    return SinceLast(at=last.written_at, new=since.new, changed=since.changed, gone=since.gone, gone_people=people)


def note_written(
    tx: Transaction,
    draft: Import,
    report: ImportReport,
    *,
    topic: str | None,
    legal_basis: str,
    change_set_id: int,
    now: datetime,
) -> None:
    """After a pull's rows were written: tag who is gone, and keep what the next pull needs. Nothing for files."""
    source = tx.get(LiveSource, draft.source_id, with_for_update=True) if draft.source_id is not None else None
    if source is None or source.id is None or draft.id is None:
        return
    report.since = since = since_last(tx, draft)
    last = store.last_written(tx, source.id)
    if source.gone_tag and since is not None and since.gone and last is not None:
        store.tag_gone(tx, last.id, source.gone_tag, change_set_id=change_set_id)
    store.keep_rows(tx, draft.id, source.id, draft.choices.key)
    source.headers, source.columns, source.legal_basis = list(draft.headers), draft.columns, legal_basis
    source.choices = ImportChoices(key=draft.choices.key, tags=draft.choices.tags, topic=topic)
    tx.add(source)
    add_pull(tx, source.id, draft, report, now, written=draft.id)


def add_pull(
    tx: Transaction,
    source_id: int,
    draft: Import,
    report: ImportReport,
    now: datetime,
    *,
    written: int | None = None,
) -> None:
    """Note what a pull found; `written` is the import, when something was written."""
    since = report.since
    found = PullFound(
        rows=report.rows,
        new=report.new,
        changed=report.changed,
        same=report.same,
        refused=report.refused,
        since_new=since.new if since else None,
        since_changed=since.changed if since else None,
        gone=since.gone if since else None,
    )
    tx.add(SourcePull(source_id=source_id, at=now, channel=draft.choices.channel, import_id=written, found=found))
