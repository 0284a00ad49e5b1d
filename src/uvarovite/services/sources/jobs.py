"""Pulling live sources: by hand, to be looked at before it is written; by itself, written when nothing speaks against it.

No transaction is open while the other database is read: its rows are gathered in a temporary file first.
"""

import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import IO, cast

from uvarovite.core.accounts import SYSTEM, Action, Actor, Permission
from uvarovite.core.contacts.files import FileForm
from uvarovite.core.contacts.import_faults import STOPPED, ImportFault, SourceFault
from uvarovite.core.contacts.import_states import ImportEvent
from uvarovite.core.contacts.live_sources import ReadSource, SourceAsk
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.contacts.import_refusals import bad_import, import_conflict, kept_fault
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.imports.files import begin_import, keep_pieces
from uvarovite.services.imports.jobs import teller
from uvarovite.services.imports.previewing import Step, preview
from uvarovite.services.imports.pulls import add_pull
from uvarovite.services.imports.standing import note
from uvarovite.services.imports.views import ImportView
from uvarovite.services.imports.writing import discard_import, write_import
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.services.sources.live_sources import next_moment, require_source, source_access
from uvarovite.store import sources as store
from uvarovite.store.database import Database
from uvarovite.store.tables import Import, SourcePull

# Longer than any pull may take, so that no source is pulled twice at once; a dead process frees it after this.
LEASE = timedelta(minutes=30)
# A source that failed is tried again soon, whatever its schedule says.
RETRY = timedelta(minutes=10)
# A pull before a run need not follow another one at its heels.
FRESH = timedelta(minutes=5)
_IN_MEMORY_BYTES = 8 << 20
_PIECE_BYTES = 1 << 20


@dataclass(frozen=True, slots=True, kw_only=True)
class PullTools:
    """What a pull needs besides the database; `directory` is where SQLite files are."""

    read: ReadSource
    secret: bytes
    directory: Path | None
    hasher: Hash
    clock: Callable[[], datetime]


@needs(Permission.CONTACTS)
def begin_pull(database: Database, actor: Actor, source_id: int, *, now: datetime, channel: str = "by_hand") -> int:
    """An import for a pull, with what is known of the source's columns; its id. Raises NotFound."""
    with database.transaction() as tx:
        source = require_source(tx, source_id)
        form = FileForm(encoding="utf-8", delimiter=",", quote='"')
        draft = begin_import(tx, filename=source.name, form=form, user_id=actor.user_id, now=now)
        draft.source_id, draft.headers, draft.columns = source.id, list(source.headers), source.columns
        draft.choices, draft.legal_basis = replace(source.choices, channel=channel), source.legal_basis or None
        tx.add(draft)
        tx.flush()
        assert draft.id is not None
        audit(tx, actor, Action.SOURCE_PULLED, source.id, source=source.name)
        return draft.id


@needs(Permission.CONTACTS)
def pull_job(database: Database, actor: Actor, source_id: int, import_id: int, tools: PullTools) -> ImportView:
    """Read a source into an import and look at it. Raises ServiceRefusal; the import says why for those who wait."""
    try:
        return _pull(database, source_id, import_id, tools)
    except ServiceRefusal as fault:
        with suppress(ServiceRefusal):
            note(database, import_id, ImportEvent.BREAK_OFF, kept_fault(fault))
        _note_fault(database, source_id, kept_fault(fault), tools.clock(), "by_hand")
        raise
    except Exception:
        with suppress(ServiceRefusal):
            note(database, import_id, ImportEvent.BREAK_OFF, STOPPED)
        raise


def _pull(database: Database, source_id: int, import_id: int, tools: PullTools) -> ImportView:
    step = teller(database, import_id, tools.clock)
    with database.transaction() as tx:
        source = require_source(tx, source_id)
        ask = SourceAsk(table=source.table_name, select=source.select_text)
        try:
            access = source_access(source, secret=tools.secret, directory=tools.directory)
        except SecretLost as fault:
            raise bad_import(SourceFault("secret", how=fault.trouble.code).fault) from fault
    with tempfile.SpooledTemporaryFile(max_size=_IN_MEMORY_BYTES) as gathered:
        try:
            tools.read(access, ask, cast(IO[bytes], gathered), lambda done, total: step("reading", done, total))
        except SourceFault as fault:
            raise bad_import(fault.fault) from fault
        gathered.seek(0)
        keep_pieces(database, import_id, iter(lambda: gathered.read(_PIECE_BYTES), b""))
    return preview(database, SYSTEM, import_id, hasher=tools.hasher, now=tools.clock(), step=step)


def _note_fault(database: Database, source_id: int, fault: ImportFault, now: datetime, channel: str) -> None:
    with database.transaction() as tx, suppress(ServiceRefusal):
        require_source(tx, source_id)
        tx.add(SourcePull(source_id=source_id, at=now, channel=channel, fault=fault))


# ---------------------------------------------------------------- pulls that nobody looks at


def pull_by_itself(database: Database, source_id: int, tools: PullTools, *, channel: str) -> None:
    """Pull a source and write what it brings, as the one who looked at it last did. Raises ServiceRefusal.

    What a person would want to look at is not written: other columns than last time, or a source that is suddenly
    empty. When nothing is new, changed or gone, nothing is written either.
    """
    now = tools.clock()
    import_id: int | None = None
    try:
        import_id = begin_pull(database, SYSTEM, source_id, now=now, channel=channel)
        with database.transaction() as tx:
            source = require_source(tx, source_id)
            headers, topic, legal_basis = list(source.headers), source.choices.topic, source.legal_basis
        if not headers:
            raise import_conflict("source_unknown")
        view = _pull(database, source_id, import_id, tools)
        _require_usual(database, import_id, view, headers)
        since = view.since
        quiet = since is not None and not (since.new or since.changed or since.gone)
        if quiet and not (view.new or view.changed):
            with database.transaction() as tx:
                draft = tx.get(Import, import_id)
                assert draft is not None
                assert draft.report is not None
                add_pull(tx, source_id, draft, draft.report, tools.clock())
            discard_import(database, SYSTEM, import_id)
            return
        step: Step = teller(database, import_id, tools.clock)
        write_import(database, SYSTEM, import_id, topic=topic, legal_basis=legal_basis, now=tools.clock(), step=step)
    except ServiceRefusal as fault:
        if import_id is not None:
            with suppress(ServiceRefusal):
                discard_import(database, SYSTEM, import_id)
        _note_fault(database, source_id, kept_fault(fault), tools.clock(), channel)
        raise


def _require_usual(database: Database, import_id: int, view: ImportView, headers: list[str]) -> None:
    with database.transaction() as tx:
        draft = tx.get(Import, import_id)
        found = list(draft.headers) if draft is not None else []
    if found != headers:
        raise import_conflict("source_columns")
    if view.rows == 0:
        raise import_conflict("source_no_rows")


def pull_due(database: Database, tools: PullTools) -> bool:
    """Pull one source whose time has come; False when there is none. What fails stands with the source."""
    now = tools.clock()
    with database.transaction() as tx:
        source_id = store.claim_due(tx, now=now, lease_until=now + LEASE)
    if source_id is None:
        return False
    failed = False
    try:
        pull_by_itself(database, source_id, tools, channel="schedule")
    except ServiceRefusal:
        failed = True
    finally:
        with database.transaction() as tx, suppress(ServiceRefusal):
            source = require_source(tx, source_id, lock=True)
            later = next_moment(tx, source.schedule, tools.clock())
            soon = tools.clock() + RETRY
            source.next_pull_at = min(later, soon) if failed and later is not None else later
            source.lease_until = None
            tx.add(source)
    return True


def pull_before_run(database: Database, tools: PullTools) -> None:
    """Pull every source that is to be fresh before a run. Raises ServiceRefusal: then the run has to wait."""
    with database.transaction() as tx:
        wanted = [
            (source.id or 0, source.name)
            for source in store.sources(tx)
            if source.before_runs and not _is_fresh(store.pulls_of(tx, source.id or 0, 1), tools.clock())
        ]
    for source_id, name in wanted:
        try:
            pull_by_itself(database, source_id, tools, channel="before_run")
        except ServiceRefusal as fault:
            raise ServiceRefusal(
                "source",
                f"Nothing was released: the live source “{name}” is to be fetched before each run, and could not be. "
                f"{fault.message}",
            ) from fault


def _is_fresh(pulls: list[SourcePull], now: datetime) -> bool:
    return bool(pulls) and pulls[0].fault is None and pulls[0].at > now - FRESH
