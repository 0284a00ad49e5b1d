"""Forms by which people sign up, and those who did."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row
from sqlmodel import select

from uvarovite.core.responses.signing_up import WORDS_FORM
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import SignUp, SignUpForm


def form_by_key(tx: Transaction, key: str) -> SignUpForm | None:
    """A form by what stands in its address."""
    return tx.exec(select(SignUpForm).where(SignUpForm.key == key)).first()


def count_seen(tx: Transaction, form_id: int) -> None:
    """A form's page was shown once more."""
    change_sql(tx, "UPDATE sign_up_form SET seen = seen + 1 WHERE id = :id", {"id": form_id})


def forms_with_figures(tx: Transaction) -> list[Row[Any]]:
    """Every form, the first that was made first, with how many `sent` it in, how many `confirmed` that, and how many were `welcomed`."""
    sql = """SELECT sign_up_form.*, count(sign_up.id) AS sent, count(sign_up.confirmed_at) AS confirmed,
            count(sign_up.welcomed_at) AS welcomed
        FROM sign_up_form LEFT JOIN sign_up ON sign_up.form_id = sign_up_form.id
        GROUP BY sign_up_form.id ORDER BY sign_up_form.id"""
    return list(run_sql(tx, sql, {}, {"others": WORDS_FORM}))


def open_sign_up(tx: Transaction, form_id: int, address_folded: str, since: datetime) -> SignUp | None:
    """What somebody sent in by a form lately and has not confirmed yet; locked."""
    rows = run_sql(
        tx,
        """SELECT id FROM sign_up WHERE form_id = :form AND address_folded = :address AND confirmed_at IS NULL AND at > :since
            ORDER BY id DESC LIMIT 1 FOR UPDATE""",
        {"form": form_id, "address": address_folded, "since": since},
    )
    return tx.get(SignUp, rows[0].id) if rows else None


def claim_due(tx: Transaction, now: datetime, patience: timedelta) -> int | None:
    """One that a mail is due for; nobody else is given it before so long."""
    rows = run_sql(
        tx,
        """UPDATE sign_up SET due_at = :again, tries = tries + 1
            WHERE id = (SELECT id FROM sign_up WHERE due_at <= :now ORDER BY due_at LIMIT 1 FOR UPDATE SKIP LOCKED)
            RETURNING id""",
        {"now": now, "again": now + patience},
    )
    return int(rows[0].id) if rows else None


def contacts_at(tx: Transaction, address_folded: str) -> list[int]:
    """The contacts that have an address, the first that was made first; locked."""
    sql = """SELECT id FROM contact WHERE address_folded = :address AND deleted_at IS NULL AND merged_into IS NULL
        ORDER BY id FOR UPDATE"""
    return [int(row.id) for row in run_sql(tx, sql, {"address": address_folded})]


# What is left of somebody counts in the figures of the form, and says nothing of them.
_BLANK = """UPDATE sign_up SET address = '', address_folded = '', field_keys = '{}', field_texts = '{}', page = '', origin = '',
    agent = '', due_at = NULL, contact_id = NULL"""


def let_go(tx: Transaction, before: datetime) -> int:
    """Let go of those who signed up before an instant and never confirmed; how many."""
    sql = f"{_BLANK} WHERE confirmed_at IS NULL AND at < :before AND address <> ''"
    return change_sql(tx, sql, {"before": before})


def forget_sign_ups(tx: Transaction, addresses: Sequence[str]) -> None:
    """Forget those in `chosen` and whoever has these addresses."""
    change_sql(
        tx,
        f"""{_BLANK} WHERE address_folded = ANY(CAST(:addresses AS text[]))
            OR contact_id IN (SELECT contact_id FROM chosen)""",
        {"addresses": list(addresses)},
    )
