"""What a pull of a live source holds, compared with the one before it, and what is kept of it."""

from collections.abc import Mapping
from datetime import datetime

from uvarovite.services.imports.views import GonePerson, SinceLast
from uvarovite.store import sources as store
from uvarovite.store.database import Transaction
from uvarovite.store.imports.comparing import ImportKey
from uvarovite.store.tables import Import, LiveSource, SourcePull

GONE_SHOWN = 50


def _key(draft: Import) -> ImportKey:
    return ImportKey(draft.options.get("key") or ImportKey.NUMBER)


def since_last(tx: Transaction, draft: Import) -> SinceLast | None:
    """What differs from the last pull that was written, once the rows are resolved. None for files and first pulls."""
    if draft.source_id is None or draft.id is None:
        return None
    last = store.last_written(tx, draft.source_id)
    if last is None:
        return None
    since = store.since_pull(tx, draft.id, last.id, _key(draft), names=GONE_SHOWN)
    people = [GonePerson(id=row.id, name=row.name, address=row.address) for row in since.gone_people]
    return SinceLast(at=last.written_at, new=since.new, changed=since.changed, gone=since.gone, gone_people=people)


def note_written(
    tx: Transaction,
    draft: Import,
    counts: Mapping[str, int],
    *,
    topic: str | None,
    legal_basis: str,
    change_set_id: int,
    now: datetime,
) -> SinceLast | None:
    """After a pull's rows were written: tag who is gone, and keep what the next pull needs. None for files."""
    source = tx.get(LiveSource, draft.source_id, with_for_update=True) if draft.source_id is not None else None
    if source is None or source.id is None or draft.id is None:
        return None
    since = since_last(tx, draft)
    last = store.last_written(tx, source.id)
    if source.gone_tag and since is not None and since.gone and last is not None:
        store.tag_gone(tx, last.id, source.gone_tag, change_set_id=change_set_id)
    store.keep_rows(tx, draft.id, source.id, _key(draft))
    source.headers, source.columns, source.legal_basis = list(draft.headers), list(draft.columns), legal_basis
    kept = {key: draft.options[key] for key in ("key", "tags") if draft.options.get(key)}
    source.options = {**kept, **({"topic": topic} if topic else {})}
    tx.add(source)
    add_pull(tx, source.id, draft, counts, since, now, written=draft.id)
    return since


def add_pull(
    tx: Transaction,
    source_id: int,
    draft: Import,
    counts: Mapping[str, int],
    since: SinceLast | None,
    now: datetime,
    *,
    written: int | None = None,
) -> None:
    """Note what a pull found; `written` is the import, when something was written."""
    found = {"rows": sum(counts.values()), **counts}
    if since is not None:
        found |= {"since_new": since.new, "since_changed": since.changed, "gone": since.gone}
    channel = draft.options.get("channel", "by_hand")
    tx.add(SourcePull(source_id=source_id, at=now, channel=channel, import_id=written, found=found))
