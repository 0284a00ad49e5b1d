"""Messages and their versions."""

from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import Message, MessageVersion

# Messages whose latest words have the blocks of a shared one; PostgreSQL's path finds them however deep they stand.
_USING = """SELECT other.id, other.name
    FROM message AS other JOIN LATERAL (SELECT content FROM message_version WHERE message_id = other.id
        ORDER BY number DESC LIMIT 1) AS latest ON TRUE
    WHERE jsonb_path_exists(latest.content, '$.** ? (@.kind == "shared" && @.message_id == $id)',
        jsonb_build_object('id', {id}))"""


def messages_using(tx: Transaction, message_id: int) -> list[tuple[int, str]]:
    """(id, name) of the messages that have the blocks of a shared one in their latest words, by number."""
    rows = run_sql(tx, f"{_USING.format(id='CAST(:id AS bigint)')} ORDER BY other.id", {"id": message_id})
    return [(row.id, row.name) for row in rows]


def campaigns_of(tx: Transaction, message_id: int) -> list[str]:
    """The names of the campaigns that send a message."""
    sql = "SELECT name FROM campaign WHERE message_id = :id ORDER BY name"
    return [row.name for row in run_sql(tx, sql, {"id": message_id})]


def lock_messages(tx: Transaction, message_ids: list[int]) -> dict[int, Message]:
    """These messages, which nobody else changes before this transaction ends; in one order, so that none waits in a circle."""
    query = select(Message).where(col(Message.id).in_(message_ids)).order_by(col(Message.id)).with_for_update(read=True)
    return {one.id or 0: one for one in tx.exec(query)}


def message_list(tx: Transaction) -> list[Row[Any]]:
    """All messages by latest change: (id, name, number, subject, updated_at, put_away_at, is_starter, is_shared, campaigns, used_in)."""
    return list(
        run_sql(
            tx,
            f"""SELECT message.id, message.name, version.number, version.content->>'subject' AS subject,
                    version.created_at AS updated_at,
                    message.put_away_at, message.is_starter, message.is_shared,
                    ARRAY(SELECT name FROM campaign WHERE campaign.message_id = message.id ORDER BY name) AS campaigns,
                    CASE WHEN message.is_shared THEN ARRAY(
                        SELECT using_it.name FROM ({_USING.format(id="message.id")}) AS using_it ORDER BY using_it.name
                    ) ELSE '{{}}' END AS used_in
                FROM message JOIN LATERAL (SELECT * FROM message_version WHERE message_id = message.id
                    ORDER BY number DESC LIMIT 1) AS version ON TRUE
                ORDER BY version.created_at DESC""",
        )
    )


def name_is_taken(tx: Transaction, name: str, *, but: int | None = None) -> bool:
    """Is another message called so?"""
    sql = "SELECT FROM message WHERE name = :name AND id IS DISTINCT FROM CAST(:but AS bigint)"
    return bool(run_sql(tx, sql, {"name": name, "but": but}))


def version_list(tx: Transaction, message_id: int) -> list[Row[Any]]:
    """The versions of a message, the latest first: (id, number, subject, created_at, by, runs)."""
    return list(
        run_sql(
            tx,
            """SELECT version.id, version.number, version.content->>'subject' AS subject, version.created_at,
                    user_account.name AS by,
                    ARRAY(SELECT campaign.name || ', run ' || run.number FROM run
                        JOIN campaign ON campaign.id = run.campaign_id
                        WHERE run.message_version_id = version.id ORDER BY run.id) AS runs
                FROM message_version AS version LEFT JOIN user_account ON user_account.id = version.created_by
                WHERE version.message_id = :id ORDER BY version.number DESC""",
            {"id": message_id},
        )
    )


def version_by_number(tx: Transaction, message_id: int, number: int) -> MessageVersion | None:
    """One version of a message."""
    query = select(MessageVersion).where(
        col(MessageVersion.message_id) == message_id, col(MessageVersion.number) == number
    )
    return tx.exec(query).first()


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


def subject_of_version(tx: Transaction, version_id: int) -> str:
    """The subject of a version, as it is written."""
    sql = "SELECT content->>'subject' FROM message_version WHERE id = :id"
    return str(run_sql(tx, sql, {"id": version_id})[0][0])


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
