"""Live sources: who pulls, and what a pull holds compared with the one before it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.contacts.import_plan import ImportKey
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.store.contacts.tags import ensure_tags
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.imports.staging import staged
from uvarovite.store.tables import LiveSource, SourcePull

# With the pulls that may still be taken back; what is older is compared with nothing any more.
_PULLS_KEPT = 3


def sources(tx: Transaction) -> list[LiveSource]:
    """All sources by name."""
    return list(tx.exec(select(LiveSource).order_by(col(LiveSource.name))).all())


def pulls_of(tx: Transaction, source_id: int, limit: int) -> list[SourcePull]:
    """A source's pulls, latest first."""
    query = select(SourcePull).where(SourcePull.source_id == source_id).order_by(col(SourcePull.id).desc())
    return list(tx.exec(query.limit(limit)).all())


def claim_due(tx: Transaction, *, now: datetime, lease_until: datetime) -> int | None:
    """Take a source whose time has come, unless somebody pulls it already; its id."""
    rows = run_sql(
        tx,
        """UPDATE live_source SET lease_until = :until WHERE id = (
                SELECT id FROM live_source WHERE next_pull_at <= :now AND coalesce(lease_until, :now) <= :now
                ORDER BY next_pull_at FOR UPDATE SKIP LOCKED LIMIT 1)
            RETURNING id""",
        {"now": now, "until": lease_until},
    )
    return int(rows[0].id) if rows else None


def last_written(tx: Transaction, source_id: int) -> Row[Any] | None:
    """(id, written_at) of the latest pull that was written and not taken back."""
    rows = run_sql(
        tx,
        f"""SELECT id, written_at FROM import_file WHERE source_id = :id AND state = '{ImportState.WRITTEN}'
            ORDER BY written_at DESC, id DESC LIMIT 1""",
        {"id": source_id},
    )
    return rows[0] if rows else None


def _told_sql(import_id: int, key: ImportKey) -> str:
    """(row, key, digest) of every staged row that can be used; `verdict` says which."""
    number, address = "'n' || staged.contact_no", "'a' || staged.address_folded"
    who = f"coalesce({number}, {address})" if key is ImportKey.NUMBER else f"coalesce({address}, {number})"
    return f"""SELECT staged.row, {who} AS key, sha256(convert_to(CAST(ROW(staged.contact_no, staged.address,
                staged.first_name, staged.last_name, staged.language, staged.own, staged.tags, staged.topics, staged.audiences) AS text),
                'UTF8')) AS digest
            FROM {staged(import_id)} AS staged JOIN verdict ON verdict.row = staged.row
                AND verdict.verdict IN ('new', 'changed', 'same')"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Since:
    """What differs from an earlier pull: how many rows are new, changed, gone, and some of the gone (id, name)."""

    new: int
    changed: int
    gone: int
    gone_people: Sequence[Row[Any]]


def since_pull(tx: Transaction, import_id: int, earlier_id: int, key: ImportKey, *, names: int) -> Since:
    """Compare a resolved pull with an earlier one that was written."""
    change_sql(tx, "DROP TABLE IF EXISTS pg_temp.told")
    change_sql(tx, f"CREATE TEMP TABLE told ON COMMIT DROP AS {_told_sql(import_id, key)}")
    counts = run_sql(
        tx,
        """SELECT count(*) FILTER (WHERE earlier.key IS NULL) AS new,
                count(*) FILTER (WHERE earlier.digest <> told.digest) AS changed
            FROM told LEFT JOIN source_row AS earlier ON earlier.import_id = :earlier AND earlier.key = told.key""",
        {"earlier": earlier_id},
    )[0]
    gone = run_sql(
        tx,
        f"""{_GONE} SELECT contact.id, concat_ws(' ', first_name, last_name) AS name, address, count(*) OVER () AS n
            FROM gone JOIN contact ON contact.id = gone.contact_id AND contact.deleted_at IS NULL
            ORDER BY contact.id LIMIT :names""",
        {"earlier": earlier_id, "names": names},
    )
    return Since(new=counts.new, changed=counts.changed, gone=gone[0].n if gone else 0, gone_people=gone)


# Who stood in the earlier pull and stands in this one under no key; a person whose key changed is still there.
_GONE = """WITH gone AS (
    SELECT DISTINCT earlier.contact_id FROM source_row AS earlier
    WHERE earlier.import_id = :earlier AND NOT EXISTS (SELECT FROM told WHERE told.key = earlier.key)
        AND NOT EXISTS (SELECT FROM told JOIN verdict ON verdict.row = told.row
            WHERE verdict.contact_id = earlier.contact_id))"""


def tag_gone(tx: Transaction, earlier_id: int, tag: str, *, change_set_id: int) -> int:
    """Put a tag on those who are gone since an earlier pull (after `since_pull`), as a change; how many got it."""
    tag_id = ensure_tags(tx, [tag])[tag]
    return change_sql(
        tx,
        f"""{_GONE}, put AS (
                INSERT INTO contact_tag (contact_id, tag_id)
                SELECT contact_id, :tag FROM gone JOIN contact ON contact.id = contact_id AND deleted_at IS NULL
                ON CONFLICT DO NOTHING RETURNING contact_id)
            INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, contact_id, jsonb_build_object('tags',
                jsonb_build_object('before', NULL, 'after', jsonb_build_array(CAST(:name AS text)))) FROM put
            ON CONFLICT (change_set_id, contact_id) DO NOTHING""",
        {"earlier": earlier_id, "tag": tag_id, "set": change_set_id, "name": tag},
    )


def keep_rows(tx: Transaction, import_id: int, source_id: int, key: ImportKey) -> None:
    """Keep what a pull held, for the next one to be compared with; `brought` says who each row became."""
    change_sql(
        tx,
        f"""INSERT INTO source_row (import_id, key, digest, contact_id)
            SELECT :id, told.key, told.digest, brought.contact_id
            FROM ({_told_sql(import_id, key)}) AS told JOIN brought ON brought.row = told.row""",
        {"id": import_id},
    )
    change_sql(
        tx,
        f"""DELETE FROM source_row WHERE import_id IN (
                SELECT id FROM import_file WHERE source_id = :source AND id <> :id AND written_at IS NOT NULL
                ORDER BY written_at DESC OFFSET {_PULLS_KEPT - 1})""",
        {"source": source_id, "id": import_id},
    )


def forget_source(tx: Transaction, source_id: int) -> None:
    """Remove a source with its pulls; what it brought in stays, as imports like any other."""
    change_sql(
        tx,
        "DELETE FROM source_row USING import_file WHERE import_id = import_file.id AND source_id = :id",
        {"id": source_id},
    )
    change_sql(tx, "UPDATE import_file SET source_id = NULL WHERE source_id = :id", {"id": source_id})
    change_sql(tx, "DELETE FROM live_source WHERE id = :id", {"id": source_id})
