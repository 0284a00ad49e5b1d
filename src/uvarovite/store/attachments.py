"""Files that go with letters."""

from collections.abc import Collection, Sequence
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.messages.attachments import KeptFile
from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import KeptAttachment


def attachment_by_digest(tx: Transaction, digest: str) -> KeptAttachment | None:
    """A file, or None."""
    return tx.exec(select(KeptAttachment).where(col(KeptAttachment.digest) == digest)).first()


def attachment_list(tx: Transaction, limit: int) -> Sequence[Row[Any]]:
    """The latest files without their bytes: (digest, kind, name, size, created_at)."""
    return run_sql(
        tx,
        """SELECT digest, kind, name, length(content) AS size, created_at FROM attachment
            ORDER BY created_at DESC, id DESC LIMIT :limit""",
        {"limit": limit},
    )


def kept_files(tx: Transaction, digests: Collection[str], *, whole: bool) -> dict[str, KeptFile]:
    """What is kept of files, by digest; with their bytes where they are wanted whole."""
    return _kept(tx, "attachment", digests, whole=whole)


def kept_pictures(tx: Transaction, digests: Collection[str], *, whole: bool) -> dict[str, KeptFile]:
    """The same of pictures that go along with a message."""
    return _kept(tx, "picture", digests, whole=whole)


def _kept(tx: Transaction, table: str, digests: Collection[str], *, whole: bool) -> dict[str, KeptFile]:
    if not digests:
        return {}
    content = "content" if whole else "''::bytea AS content"
    rows = run_sql(
        tx,
        f"SELECT digest, kind, name, length({table}.content) AS size, {content} FROM {table} WHERE digest = ANY(:of)",
        {"of": list(digests)},
    )
    return {row.digest: KeptFile(kind=row.kind, name=row.name, size=row.size, content=row.content) for row in rows}
