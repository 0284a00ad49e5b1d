"""Taking a file in, piece by piece, before anything of it is read."""

import re
from collections.abc import Iterable, Iterator
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts.files import FileForm
from uvarovite.core.contacts.import_states import IMPORT, ImportEvent
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.imports.standing import locked_draft, move_on
from uvarovite.store.database import Database, Transaction
from uvarovite.store.imports import staging
from uvarovite.store.tables import Import

# A million people with twelve columns take about 120 MB.
LARGEST_UPLOAD_BYTES = 512 * 1024 * 1024


def _bounded(content: Iterable[bytes]) -> Iterator[bytes]:
    size = 0
    for piece in content:
        size += len(piece)
        if size > LARGEST_UPLOAD_BYTES:
            raise BadInput(
                "file_too_large",
                f"The file is larger than {LARGEST_UPLOAD_BYTES >> 20} MB. Nothing was imported. Split it.",
            )
        yield piece


def begin_import(tx: Transaction, *, filename: str, form: FileForm, user_id: int | None, now: datetime) -> Import:
    """An import whose rows are still to come. Drafts that were left go on this occasion."""
    staging.forget_old_drafts(tx, now)
    draft = Import(
        filename=re.sub(r"[\x00-\x1f]", " ", filename)[:200].strip() or "contacts.csv",
        state=IMPORT.start,
        form=form,
        headers=[],
        columns=(),
        created_by=user_id,
        created_at=now,
    )
    tx.add(draft)
    tx.flush()
    return draft


def keep_pieces(database: Database, import_id: int, content: Iterable[bytes]) -> None:
    """Take the bytes of an import in. Raises NotFound, BadInput when there are too many."""
    with database.transaction() as tx:
        draft = locked_draft(tx, import_id)
        # While the bytes were gathered nobody held the import; a server that started meanwhile took it for dead.
        if draft.state != IMPORT.start:
            move_on(draft, ImportEvent.READ)
        draft.fault = None
        _put(tx, draft, content)


def _put(tx: Transaction, draft: Import, content: Iterable[bytes]) -> None:
    assert draft.id is not None
    draft.size = staging.put_pieces(tx, draft.id, _bounded(content))
    tx.add(draft)


@needs(Permission.CONTACTS)
def keep_file(database: Database, actor: Actor, *, filename: str, content: Iterable[bytes], now: datetime) -> int:
    """Take a file in, piece by piece, to be looked at; the import's id. Raises BadInput when it is too large."""
    with database.transaction() as tx:
        draft = begin_import(tx, filename=filename, form=FileForm(), user_id=actor.user_id, now=now)
        _put(tx, draft, content)
        assert draft.id is not None
        return draft.id
