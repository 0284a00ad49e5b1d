"""Taking a file in, piece by piece, before anything of it is read."""

import re
from collections.abc import Iterable, Iterator
from datetime import datetime

from uvarovite.services.errors import BadInput
from uvarovite.store import staging
from uvarovite.store.database import Database
from uvarovite.store.tables import Import, ImportState

# A million people with twelve columns take about 120 MB.
LARGEST_UPLOAD_BYTES = 512 * 1024 * 1024


def keep_file(
    database: Database, *, filename: str, content: Iterable[bytes], user_id: int | None, now: datetime
) -> int:
    """Take a file in, piece by piece, to be looked at; the import's id. Raises BadInput when it is too large."""

    def bounded() -> Iterator[bytes]:
        size = 0
        for piece in content:
            size += len(piece)
            if size > LARGEST_UPLOAD_BYTES:
                raise BadInput(
                    "file_too_large",
                    f"The file is larger than {LARGEST_UPLOAD_BYTES >> 20} MB. Nothing was brought in. Split it.",
                )
            yield piece

    with database.transaction() as tx:
        staging.forget_old_drafts(tx, now)
        draft = Import(
            filename=re.sub(r"[\x00-\x1f]", " ", filename)[:200].strip() or "contacts.csv",
            state=ImportState.READING,
            form={},
            headers=[],
            columns=[],
            created_by=user_id,
            created_at=now,
        )
        tx.add(draft)
        tx.flush()
        assert draft.id is not None
        size = staging.put_pieces(tx, draft.id, bounded())
        draft.options = {"size": size}
        tx.add(draft)
        return draft.id
