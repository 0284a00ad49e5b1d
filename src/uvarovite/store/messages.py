"""Messages and their versions."""

from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import MessageVersion


def message_list(tx: Transaction) -> list[Row[Any]]:
    """All messages by latest change: (id, name, number, subject, updated_at)."""
    return list(
        run_sql(
            tx,
            """SELECT message.id, message.name, version.number, version.content->>'subject' AS subject,
                    version.created_at AS updated_at
                FROM message JOIN LATERAL (SELECT * FROM message_version WHERE message_id = message.id
                    ORDER BY number DESC LIMIT 1) AS version ON TRUE
                ORDER BY version.created_at DESC""",
        )
    )


def latest_version(tx: Transaction, message_id: int) -> MessageVersion | None:
    """The words of a message as they are now."""
    query = (
        select(MessageVersion)
        .where(col(MessageVersion.message_id) == message_id)
        .order_by(col(MessageVersion.number).desc())
    )
    return tx.exec(query).first()


def stored_words(tx: Transaction, version_id: int) -> dict[str, Any]:
    """The words of a version in the very form in which they were stored, for the renderer that they were sent by."""
    words: dict[str, Any] = run_sql(tx, "SELECT content FROM message_version WHERE id = :id", {"id": version_id})[0][0]
    return words


def tests_of(tx: Transaction, message_id: int, digest: str, limit: int) -> list[Row[Any]]:
    """The latest tests of a message, or of words with its digest, that a relay took.

    (digest, to_address, name of who sent it, shown, at).
    """
    return list(
        run_sql(
            tx,
            """SELECT digest, to_address, user_account.name, test_mail.at,
                    concat_ws(' ', contact.first_name, contact.last_name) AS shown
                FROM test_mail JOIN user_account ON user_account.id = test_mail.user_id
                LEFT JOIN contact ON contact.id = test_mail.contact_id
                WHERE (message_id = :message OR digest = :digest) AND accepted
                ORDER BY test_mail.at DESC, test_mail.id DESC LIMIT :limit""",
            {"message": message_id, "digest": digest, "limit": limit},
        )
    )
