"""Letters on paper: whom a printing is for, its PDF, and what becomes of it."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.audiences.clearance import clearance_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.naming import name_sql
from uvarovite.store.tables import Printing, PrintingFile

# A process that was not heard of for so long is not at work on it any more.
SILENT = timedelta(seconds=120)
# So long a PDF is kept: it holds people's addresses.
KEPT = timedelta(days=14)


def cleared_for_paper(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms, most: int) -> list[int]:
    """Who is cleared for a letter on paper, by id; at most so many, those first who come first by postcode."""
    judged = clearance_sql(criteria, terms)
    sql = f"""WITH {judged.text}
        SELECT contact_id FROM judged JOIN contact ON contact.id = contact_id WHERE held IS NULL
        ORDER BY contact.own->>'country' NULLS FIRST, contact.own->>'postcode', contact_id LIMIT :most"""
    return [row.contact_id for row in run_sql(tx, sql, {**judged.parameters, "most": most})]


def put_letters(tx: Transaction, printing_id: int, ids: Sequence[int]) -> None:
    """Whose letters a printing is to hold."""
    change_sql(
        tx,
        """INSERT INTO printed_letter (printing_id, contact_id, place, page, pages)
            SELECT :id, one, 0, 0, 0 FROM unnest(CAST(:ids AS bigint[])) AS one""",
        {"id": printing_id, "ids": list(ids)},
    )


def letters_of(tx: Transaction, printing_id: int) -> list[int]:
    """Whose letters a printing holds, by id."""
    rows = run_sql(
        tx, "SELECT contact_id FROM printed_letter WHERE printing_id = :id ORDER BY contact_id", {"id": printing_id}
    )
    return [row.contact_id for row in rows]


def put_places(tx: Transaction, printing_id: int, places: Mapping[int, tuple[int, int, int]]) -> None:
    """Where each letter stands: (place, page, pages) by contact; those of nobody else are in it any more."""
    ids = list(places)
    change_sql(
        tx,
        """UPDATE printed_letter SET place = told.place, page = told.page, pages = told.pages
            FROM unnest(CAST(:ids AS bigint[]), CAST(:places AS int[]), CAST(:page AS int[]), CAST(:pages AS int[]))
                AS told(contact_id, place, page, pages)
            WHERE printing_id = :id AND printed_letter.contact_id = told.contact_id""",
        {
            "id": printing_id,
            "ids": ids,
            "places": [places[one][0] for one in ids],
            "page": [places[one][1] for one in ids],
            "pages": [places[one][2] for one in ids],
        },
    )
    change_sql(tx, "DELETE FROM printed_letter WHERE printing_id = :id AND place = 0", {"id": printing_id})


def open_printing(tx: Transaction, campaign_id: int, *, lock: bool = False) -> Printing | None:
    """The printing of a campaign that was neither printed nor thrown away."""
    query = select(Printing).where(
        col(Printing.campaign_id) == campaign_id,
        col(Printing.printed_at).is_(None),
        col(Printing.dropped_at).is_(None),
    )
    return tx.exec(query.with_for_update() if lock else query).first()


def put_progress(tx: Transaction, printing_id: int, *, done: int, now: datetime) -> bool:
    """Note how far it is; False when it is not wanted any more."""
    sql = """UPDATE printing SET done = :done, heard_at = :now
        WHERE id = :id AND made_at IS NULL AND dropped_at IS NULL"""
    return change_sql(tx, sql, {"id": printing_id, "done": done, "now": now}) > 0


def put_file(tx: Transaction, printing_id: int, pdf: bytes) -> None:
    """Keep a PDF."""
    tx.add(PrintingFile(printing_id=printing_id, pdf=pdf))


def file_of(tx: Transaction, printing_id: int) -> bytes | None:
    """A PDF; None where it is not kept any more."""
    found = tx.get(PrintingFile, printing_id)
    return found.pdf if found else None


def has_file(tx: Transaction, printing_id: int) -> bool:
    """Is a PDF still kept?"""
    return bool(run_sql(tx, "SELECT FROM printing_file WHERE printing_id = :id", {"id": printing_id}))


def drop_file(tx: Transaction, printing_id: int) -> None:
    """Let a PDF go."""
    change_sql(tx, "DELETE FROM printing_file WHERE printing_id = :id", {"id": printing_id})


def drop_letters(tx: Transaction, printing_id: int, of: Sequence[int] | None = None) -> int:
    """These people got no letter of it, None: nobody did; how many."""
    sql = "DELETE FROM printed_letter WHERE printing_id = :id AND (:all OR contact_id = ANY(:of))"
    return change_sql(tx, sql, {"id": printing_id, "all": of is None, "of": list(of or [])})


def printed_before(tx: Transaction, campaign_id: int) -> list[Row[Any]]:
    """(id, letters, pages, printed_at, by, kept) of what was printed, latest first."""
    return list(
        run_sql(
            tx,
            """SELECT printing.id, letters, pages, printed_at, coalesce(user_account.name, '') AS by,
                    EXISTS (SELECT FROM printing_file WHERE printing_id = printing.id) AS kept
                FROM printing LEFT JOIN user_account ON user_account.id = printed_by
                WHERE campaign_id = :id AND printed_at IS NOT NULL ORDER BY printing.id DESC""",
            {"id": campaign_id},
        )
    )


def count_printed(tx: Transaction, campaign_id: int) -> int:
    """How many got a letter of a campaign on paper."""
    sql = "SELECT coalesce(sum(letters), 0) AS n FROM printing WHERE campaign_id = :id AND printed_at IS NOT NULL"
    return int(run_sql(tx, sql, {"id": campaign_id})[0].n)


def held_since(tx: Transaction, printing_id: int, criteria: SqlFragment, terms: ClearanceTerms) -> list[Row[Any]]:
    """(contact_id, name, held, page, pages) of letters whose people would get none now.

    `held` is NULL for who does not match any more.
    """
    judged = clearance_sql(criteria, terms)
    sql = f"""WITH {judged.text}
        SELECT letter.contact_id, {name_sql("contact")} AS name, judged.held, letter.page, letter.pages
        FROM printed_letter AS letter JOIN contact ON contact.id = letter.contact_id
        LEFT JOIN judged ON judged.contact_id = letter.contact_id
        WHERE letter.printing_id = :printing_id AND (judged.contact_id IS NULL OR judged.held IS NOT NULL)
        ORDER BY letter.page"""
    return list(run_sql(tx, sql, {**judged.parameters, "printing_id": printing_id}))


def letters_of_contact(tx: Transaction, contact_id: int) -> list[Row[Any]]:
    """(campaign_id, campaign, at): the letters that were printed for somebody, latest first."""
    return list(
        run_sql(
            tx,
            """SELECT campaign.id AS campaign_id, campaign.name AS campaign, printing.printed_at AS at
                FROM printed_letter JOIN printing ON printing.id = printing_id
                JOIN campaign ON campaign.id = printing.campaign_id
                WHERE printed_letter.contact_id = :contact AND printing.printed_at IS NOT NULL ORDER BY at DESC""",
            {"contact": contact_id},
        )
    )


def let_go_of_files(tx: Transaction, now: datetime) -> int:
    """Let PDFs go that are older than KEPT, and the printings that nobody said were printed; how many."""
    before = {"before": now - KEPT, "now": now}
    gone = change_sql(
        tx,
        """DELETE FROM printing_file USING printing WHERE printing.id = printing_id AND made_at < :before""",
        before,
    )
    change_sql(
        tx,
        """DELETE FROM printed_letter USING printing WHERE printing.id = printing_id
            AND printed_at IS NULL AND dropped_at IS NULL AND begun_at < :before""",
        before,
    )
    change_sql(
        tx,
        """UPDATE printing SET dropped_at = :now
            WHERE printed_at IS NULL AND dropped_at IS NULL AND begun_at < :before""",
        before,
    )
    return gone
