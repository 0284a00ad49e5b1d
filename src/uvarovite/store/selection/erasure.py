"""Erasing people: everything that is known of those in the temporary table `chosen` goes, wherever it stands.

What a new table holds about a person belongs in here; a test fills every column that can hold words and looks for them
afterwards.
"""

from collections.abc import Sequence
from datetime import datetime

import orjson

from uvarovite.core.contacts.acts import Act
from uvarovite.core.contacts.import_faults import DROPPED, IMPORT_FAULT_FORM
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.consent import closings
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.imports.staging import drop_staged, is_staged, staged
from uvarovite.store.rehearsals.rehearsals import forget_rehearsed
from uvarovite.store.selection.chosen import DELETED_LASTS, choose
from uvarovite.store.signing_up import forget_sign_ups


def choose_long_deleted(tx: Transaction, now: datetime) -> int:
    """Put contacts that were deleted too long ago to come back into `chosen`; how many."""
    sql = """SELECT id AS contact_id FROM contact WHERE deleted_at < :long_ago AND erased_at IS NULL LIMIT 5000"""
    return choose(tx, ids=None, matching=SqlFragment(text=sql, parameters={"long_ago": now - DELETED_LASTS}))


def blank_chosen(tx: Transaction, now: datetime) -> None:
    """Blank everything that is known of those who are chosen.

    What stays is the row itself, without a word, so that the ledger's entries keep something to refer to.
    """
    change_sql(
        tx,
        """UPDATE contact SET contact_no = NULL, address = NULL, address_folded = NULL, first_name = NULL,
                last_name = NULL, language = NULL, own = '{}', folded = '{}', updated_at = :now,
                deleted_at = coalesce(deleted_at, :now), erased_at = :now
            FROM chosen WHERE contact.id = chosen.contact_id""",
        {"now": now},
    )
    # A PDF holds the letters of many: without it none of them is lost that was not printed, and it can be made again.
    change_sql(
        tx,
        """DELETE FROM printing_file USING printed_letter JOIN chosen ON chosen.contact_id = printed_letter.contact_id
            WHERE printing_file.printing_id = printed_letter.printing_id""",
    )
    change_sql(
        tx,
        """UPDATE printing SET dropped_at = :now FROM printed_letter JOIN chosen ON chosen.contact_id = printed_letter.contact_id
            WHERE printing.id = printing_id AND printed_at IS NULL AND dropped_at IS NULL""",
        {"now": now},
    )
    for table in (
        "contact_search",
        "contact_tag",
        "contact_note",
        "contact_change",
        "source_row",
        "audience_member",
        "audience_snapshot",
        "proof_seen",
        "printed_letter",
        "post_refusal",
        "own_limit",
        "tracking_wish",
        "test_mail",
    ):
        change_sql(tx, f"DELETE FROM {table} USING chosen WHERE {table}.contact_id = chosen.contact_id")


def choose_duplicates(tx: Transaction) -> None:
    """Add the duplicates that were merged into those who are chosen: they are the same people."""
    change_sql(
        tx,
        """WITH RECURSIVE merged (id) AS (
            SELECT contact.id FROM contact JOIN chosen ON contact.merged_into = chosen.contact_id
            UNION SELECT contact.id FROM contact JOIN merged ON contact.merged_into = merged.id)
        INSERT INTO chosen SELECT id FROM merged ON CONFLICT DO NOTHING""",
    )


def erase_chosen(tx: Transaction, now: datetime) -> list[str]:
    """Blank those who are chosen, and everything that was sent to them; the folded addresses that they had, and had left from.

    A delivery keeps what it must to say that it happened.
    """
    had = run_sql(
        tx,
        """SELECT DISTINCT address_folded FROM contact JOIN chosen ON chosen.contact_id = contact.id
            WHERE address_folded IS NOT NULL""",
    )
    earlier = closings.forget(tx)
    addresses = sorted({str(row.address_folded) for row in had}.union(earlier))
    forget_rehearsed(tx, addresses)
    _forget_files(tx, addresses)
    _forget_words(tx)
    change_sql(tx, "DELETE FROM test_mail WHERE lower(to_address) = ANY(:addresses)", {"addresses": addresses})
    # What they wrote, and what was reported of them, as it came.
    change_sql(
        tx,
        """DELETE FROM inbound_mail WHERE contact_id IN (SELECT contact_id FROM chosen)
            OR from_address = ANY(:addresses)
            OR EXISTS (SELECT FROM unnest(CAST(:addresses AS text[])) AS one(address)
                WHERE position(convert_to(address, 'UTF8') IN raw) > 0)""",
        {"addresses": addresses},
    )
    forget_sign_ups(tx, addresses)
    # The audit log keeps that something was sent, and to whom no more.
    change_sql(
        tx,
        """UPDATE audit_entry SET facts = facts || '{"to": "an erased address"}'
            WHERE lower(facts->>'to') = ANY(:addresses)""",
        {"addresses": addresses},
    )
    # What was answered lately is kept for whoever asks again; it may tell of anybody.
    change_sql(tx, "UPDATE idempotency_key SET answer = NULL WHERE answer IS NOT NULL")
    blank_chosen(tx, now)
    # One run and one address: the number keeps the erased apart. The digest still proves which bytes were sent.
    change_sql(
        tx,
        """UPDATE delivery SET address = 'erased', address_folded = 'erased ' || delivery.id, record = '{}'
            FROM chosen WHERE delivery.contact_id = chosen.contact_id""",
    )
    # What was counted for their domain stands beside its opposite until both are added up.
    run_sql(
        tx,
        """SELECT fold_counts(run_id) FROM (
            SELECT DISTINCT run_id FROM delivery JOIN chosen USING (contact_id) WHERE trouble IS NOT NULL) AS runs""",
    )
    change_sql(
        tx,
        """DELETE FROM delivery_link USING delivery JOIN chosen ON chosen.contact_id = delivery.contact_id
            WHERE delivery_link.delivery_id = delivery.id""",
    )
    change_sql(
        tx,
        """UPDATE sent_mail SET address_folded = NULL FROM chosen
            WHERE sent_mail.contact_id = chosen.contact_id AND run_id IN (
                SELECT run_id FROM delivery JOIN chosen AS had ON had.contact_id = delivery.contact_id)""",
    )
    change_sql(
        tx,
        """UPDATE attempt SET text = '' FROM delivery JOIN chosen ON chosen.contact_id = delivery.contact_id
            WHERE attempt.delivery_id = delivery.id""",
    )
    change_sql(
        tx,
        "UPDATE consent SET confirmed_address = NULL FROM chosen WHERE consent.contact_id = chosen.contact_id",
    )
    return addresses


def _forget_words(tx: Transaction) -> None:
    """Blank what was written about those who are chosen beside their own record.

    The ledger keeps its entries, without their evidence: that a topic was left stays true of whoever it was.
    """
    change_sql(
        tx,
        """UPDATE contact SET erased_at = now() FROM chosen
            WHERE contact.id = chosen.contact_id AND erased_at IS NULL""",
    )
    change_sql(
        tx,
        """UPDATE consent_event SET evidence = '{}' FROM chosen
            WHERE consent_event.contact_id = chosen.contact_id AND evidence <> '{}'""",
    )
    change_sql(
        tx,
        """UPDATE response_event SET detail = '{}' FROM chosen
            WHERE response_event.contact_id = chosen.contact_id AND detail <> '{}'""",
    )
    # A merge says whose record went into whose, by their numbers.
    change_sql(
        tx,
        """UPDATE change_set SET act = :act, facts = '{}' FROM contact_change JOIN chosen ON chosen.contact_id = contact_change.contact_id
            WHERE change_set.id = change_set_id AND channel = 'merge'""",
        {"act": Act.MERGED_ERASED},
    )


def _forget_files(tx: Transaction, addresses: Sequence[str]) -> None:
    """Drop files that are not written yet and hold those who are chosen, and what was shown of files that were.

    A file that is just being read or written is waited for. One that was not read as far as its addresses could hold
    anybody, so it is dropped as well; its owner is told to bring it in again.
    """
    known = run_sql(
        tx,
        """SELECT coalesce(array_agg(contact_no) FILTER (WHERE contact_no IS NOT NULL), '{}') AS numbers,
                coalesce(array_agg(contact.id), '{}') AS ids
            FROM chosen JOIN contact ON contact.id = chosen.contact_id""",
    )[0]
    asked = {"addresses": list(addresses), "numbers": list(known.numbers), "ids": list(known.ids)}
    for row in run_sql(tx, "SELECT id FROM import_file WHERE written_at IS NULL FOR UPDATE"):
        holds = not is_staged(tx, row.id) or run_sql(
            tx,
            f"""SELECT FROM {staged(row.id)} WHERE address_folded = ANY(:addresses) OR contact_no = ANY(:numbers)
                UNION ALL SELECT FROM import_refusal WHERE import_id = :id
                    AND EXISTS (SELECT FROM unnest(CAST(:addresses AS text[])) AS one(address)
                        WHERE position(one.address IN lower(CAST(cells AS text) || CAST(faults AS text))) > 0) LIMIT 1""",
            {**asked, "id": row.id},
        )
        if holds:
            drop_staged(tx, row.id)
            change_sql(tx, "DELETE FROM import_refusal WHERE import_id = :id", {"id": row.id})
            change_sql(
                tx,
                f"""UPDATE import_file SET state = '{ImportState.FAILED}', report = NULL,
                        fault = CAST(:fault AS jsonb) WHERE id = :id""",
                {"id": row.id, "fault": orjson.dumps(IMPORT_FAULT_FORM.write(DROPPED)).decode()},
            )
    # Samples of new, changed and gone people were kept as they were told.
    change_sql(
        tx,
        """UPDATE import_file SET report = report || jsonb_build_object('new_rows', '[]'::jsonb, 'changed_rows', '[]'::jsonb,
                'refusals', '[]'::jsonb, 'meets', NULL, 'since', CASE WHEN jsonb_typeof(report->'since') = 'object'
                    THEN report->'since' || '{"gone_people": []}' END,
                'columns', (SELECT coalesce(jsonb_agg(one || '{"samples": []}' ORDER BY place), '[]')
                    FROM jsonb_array_elements(report->'columns') WITH ORDINALITY AS told(one, place)))
            WHERE report ? 'columns' AND (
                id IN (SELECT import_id FROM contact WHERE contact.id = ANY(:ids))
                OR change_set_id IN (SELECT change_set_id FROM contact_change WHERE contact_id = ANY(:ids))
                OR EXISTS (SELECT FROM unnest(CAST(:addresses AS text[]) || CAST(:numbers AS text[])) AS one(word)
                    WHERE position(lower(one.word) IN lower(CAST(report AS text))) > 0))""",
        asked,
    )


def forget_address(tx: Transaction, address_folded: str) -> None:
    """Take an erased address off the list, where its hash speaks for it now, and out of rows that files had refused."""
    change_sql(tx, "DELETE FROM suppression WHERE address_folded = :address", {"address": address_folded})
    change_sql(
        tx,
        "DELETE FROM import_refusal WHERE position(:address IN lower(CAST(cells AS text) || CAST(faults AS text))) > 0",
        {"address": address_folded},
    )


def have_address(tx: Transaction, address_folded: str) -> int:
    """How many contacts have an address, the deleted included, who may come back."""
    sql = "SELECT count(*) AS n FROM contact WHERE address_folded = :address AND merged_into IS NULL"
    return int(run_sql(tx, sql, {"address": address_folded})[0].n)
