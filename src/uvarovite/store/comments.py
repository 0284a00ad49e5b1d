"""What colleagues say of the words of a message."""

from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, run_sql


def comments_on(tx: Transaction, message_id: int) -> list[Row[Any]]:
    """The comments on a message, the open ones first and of these the oldest: the row with `by` and `done_by` as names."""
    sql = """SELECT one.id, one.language, one.block_id, one.quote, one.words, one.at, one.done_at,
            author.name AS by, closer.name AS done_by
        FROM message_comment AS one
        LEFT JOIN user_account AS author ON author.id = one.user_id
        LEFT JOIN user_account AS closer ON closer.id = one.done_by
        WHERE one.message_id = :id ORDER BY one.done_at DESC NULLS FIRST, one.id"""
    return list(run_sql(tx, sql, {"id": message_id}))


def open_comments(tx: Transaction, message_id: int) -> int:
    """How many comments on a message are not done."""
    sql = "SELECT count(*) FROM message_comment WHERE message_id = :id AND done_at IS NULL"
    return int(run_sql(tx, sql, {"id": message_id})[0][0])
