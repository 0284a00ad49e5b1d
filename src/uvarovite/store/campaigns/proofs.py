"""Sheets of proofs: one being made for a campaign at a time, and the letters that were read."""

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta

from sqlmodel import col, select

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.messages.proof_sheet import ProofSheet
from uvarovite.store.audiences.clearance import clearance_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Contact, ProofSheetRow

# A process that was not heard of for so long is not at work on it any more.
SILENT = timedelta(seconds=30)
# So many records are held in memory at once.
_AT_ONCE = 2_000


def sheet_row(tx: Transaction, campaign_id: int) -> ProofSheetRow | None:
    """The sheet of a campaign as it stands."""
    return tx.get(ProofSheetRow, campaign_id)


def begin_sheet(tx: Transaction, campaign_id: int, of: str, now: datetime) -> bool:
    """Begin to make a sheet; False when one of the same is being made already."""
    began = change_sql(
        tx,
        """INSERT INTO proof_sheet (campaign_id, made_of, making, done, total, heard_at)
            VALUES (:campaign, '', :of, 0, 0, :now)
            ON CONFLICT (campaign_id) DO UPDATE SET making = :of, done = 0, total = 0, heard_at = :now
                WHERE proof_sheet.making <> :of OR proof_sheet.heard_at < :silent""",
        {"campaign": campaign_id, "of": of, "now": now, "silent": now - SILENT},
    )
    return began > 0


def put_progress(tx: Transaction, campaign_id: int, of: str, *, done: int, total: int, now: datetime) -> bool:
    """Note how far it is; False when it is not wanted any more, since another was begun."""
    sql = """UPDATE proof_sheet SET done = :done, total = :total, heard_at = :now
        WHERE campaign_id = :campaign AND making = :of"""
    return change_sql(tx, sql, {"campaign": campaign_id, "of": of, "done": done, "total": total, "now": now}) > 0


def put_sheet(tx: Transaction, campaign_id: int, of: str, sheet: ProofSheet, now: datetime) -> None:
    """Keep a sheet that was made, unless another was begun meanwhile."""
    query = select(ProofSheetRow).where(col(ProofSheetRow.campaign_id) == campaign_id).with_for_update()
    row = tx.exec(query).first()
    if row is not None and row.making == of:
        row.sheet, row.made_of, row.made_at, row.making = sheet, of, now, ""
        tx.add(row)


def drop_making(tx: Transaction, campaign_id: int, of: str) -> None:
    """Nobody is at work on it any more, and it was not made."""
    sql = "UPDATE proof_sheet SET making = '' WHERE campaign_id = :campaign AND making = :of"
    change_sql(tx, sql, {"campaign": campaign_id, "of": of})


def cleared_ids(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms) -> list[int]:
    """Everybody who is cleared, by id."""
    judged = clearance_sql(criteria, terms)
    sql = f"WITH {judged.text} SELECT contact_id FROM judged WHERE held IS NULL ORDER BY contact_id"
    return [row.contact_id for row in run_sql(tx, sql, judged.parameters)]


def contacts_by_id(tx: Transaction, ids: Sequence[int]) -> Iterator[Contact]:
    """The contacts of these ids in their order, some at a time; who was deleted meanwhile is left out."""
    for begin in range(0, len(ids), _AT_ONCE):
        some = list(ids[begin : begin + _AT_ONCE])
        query = select(Contact).where(col(Contact.id).in_(some), col(Contact.deleted_at).is_(None))
        found = {one.id: one for one in tx.exec(query).all()}
        for one in some:
            if contact := found.get(one):
                tx.expunge(contact)
                yield contact


def seen_by(tx: Transaction, campaign_id: int) -> dict[tuple[int, str], tuple[str, datetime]]:
    """Who found which letter right, and when, by contact and digest."""
    rows = run_sql(
        tx,
        """SELECT contact_id, digest, coalesce(user_account.name, '') AS name, at FROM proof_seen
            LEFT JOIN user_account ON user_account.id = proof_seen.user_id WHERE campaign_id = :id""",
        {"id": campaign_id},
    )
    return {(row.contact_id, row.digest): (row.name, row.at) for row in rows}


def mark_seen(
    tx: Transaction, campaign_id: int, contact_id: int, digest: str, user_id: int | None, now: datetime
) -> None:
    """A letter was found right; once is enough."""
    change_sql(
        tx,
        """INSERT INTO proof_seen (campaign_id, contact_id, digest, user_id, at)
            VALUES (:campaign, :contact, :digest, :user, :now) ON CONFLICT DO NOTHING""",
        {"campaign": campaign_id, "contact": contact_id, "digest": digest, "user": user_id, "now": now},
    )


def take_back(tx: Transaction, campaign_id: int, contact_id: int, digest: str) -> None:
    """It was not, after all."""
    change_sql(
        tx,
        "DELETE FROM proof_seen WHERE campaign_id = :campaign AND contact_id = :contact AND digest = :digest",
        {"campaign": campaign_id, "contact": contact_id, "digest": digest},
    )
