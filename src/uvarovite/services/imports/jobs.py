"""Looking at a file and writing it as jobs: their state and progress are told to whoever asks, a failure too."""

import time
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts.import_faults import STOPPED
from uvarovite.core.contacts.import_states import ImportEvent
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.contacts.import_refusals import kept_fault
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.imports.previewing import PreviewChange, Step, preview
from uvarovite.services.imports.standing import note
from uvarovite.services.imports.views import ImportView
from uvarovite.services.imports.writing import discard_import, write_import
from uvarovite.store.database import Database
from uvarovite.store.imports.staging import dead_jobs, put_progress

# Often enough for a bar to move, seldom enough to cost nothing.
_TELL_SECONDS = 0.4


def teller(database: Database, import_id: int, clock: Callable[[], datetime]) -> Step:
    """A function that notes how far an import has come, in transactions of its own."""
    told = float("-inf")

    def step(phase: str, done: int, total: int) -> None:
        nonlocal told
        if phase != "reading" or time.monotonic() - told > _TELL_SECONDS:
            told = time.monotonic()
            with database.transaction() as tx:
                put_progress(tx, import_id, phase=phase, done=done, total=total, now=clock())

    return step


@needs(Permission.CONTACTS)
def preview_job(
    database: Database,
    actor: Actor,
    import_id: int,
    *,
    hasher: Hash,
    clock: Callable[[], datetime],
    change: PreviewChange,
    forget: bool,
) -> ImportView:
    """Look at a file. With `forget`, a file that cannot be read is not kept. Raises what `look` raises."""
    step = teller(database, import_id, clock)
    if not forget:
        note(database, import_id, ImportEvent.READ)
    try:
        return preview(database, actor, import_id, hasher=hasher, now=clock(), change=change, step=step)
    except ServiceRefusal as fault:
        with suppress(ServiceRefusal):
            if forget:
                discard_import(database, actor, import_id)
            else:
                note(database, import_id, ImportEvent.BREAK_OFF, kept_fault(fault))
        raise
    except Exception:
        _note_failure(database, import_id)
        raise


@needs(Permission.CONTACTS)
def write_job(
    database: Database,
    actor: Actor,
    import_id: int,
    *,
    topic: str | None,
    legal_basis: str,
    clock: Callable[[], datetime],
) -> ImportView:
    """Write a file. Raises what `write_import` raises; then nothing is written."""
    step = teller(database, import_id, clock)
    note(database, import_id, ImportEvent.WRITE)
    try:
        return write_import(database, actor, import_id, topic=topic, legal_basis=legal_basis, now=clock(), step=step)
    except ServiceRefusal as fault:
        with suppress(ServiceRefusal):
            note(database, import_id, ImportEvent.BREAK_OFF, kept_fault(fault))
        raise
    except Exception:
        _note_failure(database, import_id)
        raise


def _note_failure(database: Database, import_id: int) -> None:
    """Whoever waits is told, even when the fault is ours."""
    with suppress(ServiceRefusal):
        note(database, import_id, ImportEvent.BREAK_OFF, STOPPED)


def recover_jobs(database: Database) -> int:
    """Tell of imports whose process died that nothing of them was written; how many there were."""
    with database.transaction() as tx:
        dead = dead_jobs(tx)
    for import_id in dead:
        _note_failure(database, import_id)
    return len(dead)
