"""Pictures that letters show."""

from collections.abc import Collection, Sequence
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import KeptPicture


def picture_by_digest(tx: Transaction, digest: str) -> KeptPicture | None:
    """A picture, or None."""
    return tx.exec(select(KeptPicture).where(col(KeptPicture.digest) == digest)).first()


def pictures_by_digest(tx: Transaction, digests: Collection[str]) -> Sequence[KeptPicture]:
    """Those of some pictures that there are."""
    return tx.exec(select(KeptPicture).where(col(KeptPicture.digest).in_(digests))).all()


def picture_list(tx: Transaction, limit: int) -> Sequence[Row[Any]]:
    """The latest pictures without their bytes: (digest, kind, name, width, height, bytes, created_at)."""
    return run_sql(
        tx,
        """SELECT digest, kind, name, width, height, length(content) AS bytes, created_at FROM picture
            ORDER BY created_at DESC, id DESC LIMIT :limit""",
        {"limit": limit},
    )


def bytes_of(tx: Transaction, digests: Collection[str]) -> int:
    """How much pictures weigh together; those that are not there weigh nothing."""
    sql = "SELECT coalesce(sum(length(content)), 0) AS total FROM picture WHERE digest = ANY(:digests)"
    return int(run_sql(tx, sql, {"digests": list(digests)})[0].total)
