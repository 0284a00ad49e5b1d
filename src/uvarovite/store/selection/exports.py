"""Reading many contacts in order, a part at a time."""

from collections.abc import Iterator
from typing import Any

from sqlalchemy import Row

from uvarovite.store.consent.closings import AT_ADDRESS, STATE
from uvarovite.store.contacts.fields import ROW_SORTS
from uvarovite.store.database import Transaction, run_sql

_AT_ONCE = 2_000


def chosen_rows(tx: Transaction) -> Iterator[Row[Any]]:
    """Everybody in the temporary table `chosen`, by name, with topics (those subscribed to) and tags."""
    run_sql(tx, "CREATE TEMP TABLE placed (place bigint PRIMARY KEY, contact_id bigint) ON COMMIT DROP")
    run_sql(
        tx,
        f"""INSERT INTO placed SELECT row_number() OVER (ORDER BY {ROW_SORTS["name"]} NULLS LAST, contact.id), contact.id
            FROM chosen JOIN contact ON contact.id = chosen.contact_id""",
    )
    begin = 0
    while rows := run_sql(
        tx,
        f"""SELECT placed.place, contact.id, contact_no, address, first_name, last_name, language, own,
                created_at,
                ARRAY(SELECT topic.name FROM consent JOIN topic ON topic.id = consent.topic_id {AT_ADDRESS}
                    WHERE consent.contact_id = contact.id AND {STATE} = 'subscribed' ORDER BY topic.position) AS topics,
                ARRAY(SELECT tag.name FROM contact_tag JOIN tag ON tag.id = tag_id
                    WHERE contact_tag.contact_id = contact.id ORDER BY tag.folded) AS tags
            FROM placed JOIN contact ON contact.id = placed.contact_id
            WHERE placed.place > :begin ORDER BY placed.place LIMIT :some""",
        {"begin": begin, "some": _AT_ONCE},
    ):
        yield from rows
        begin = rows[-1].place


def table_mail_lines(tx: Transaction, limit: int) -> list[Row[Any]]:
    """Tables that were sent by mail, latest first: (at, by, to_address, contacts, columns, form, accepted, answer)."""
    sql = """SELECT at, user_account.name AS by, to_address, contacts, columns, form, accepted, answer FROM table_mail
        LEFT JOIN user_account ON user_account.id = user_id ORDER BY table_mail.id DESC LIMIT :limit"""
    return list(run_sql(tx, sql, {"limit": limit}))
