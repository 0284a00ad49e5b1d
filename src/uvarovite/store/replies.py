"""What came back, by groups, and what is done about replies."""

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row

from uvarovite.core.responses import DETAIL_FORM
from uvarovite.core.responses.groups import ReplyAct, ResponseGroup
from uvarovite.store.database import Transaction, change_sql, run_sql

_WAITS = "kind = 'reply' AND done_at IS NULL"
_LATELY = "received_at > :since AND acted_at IS NOT NULL"
# The groups that mail is in. Who left is asked of the responses: most of them left by a link.
_MAIL_GROUPS = {
    ResponseGroup.WAITING: f"{_WAITS} AND acted_at IS NOT NULL",
    ResponseGroup.REPLIES: f"{_LATELY} AND kind = 'reply'",
    ResponseGroup.ASKS: f"{_LATELY} AND kind = 'leave' AND effect = 'nobody' AND done_at IS NULL",
    ResponseGroup.GONE: f"{_LATELY} AND kind = 'report' AND effect = 'suppressed'",
    ResponseGroup.BOUNCED: f"{_LATELY} AND kind = 'report' AND effect IN ('noted', 'nothing')",
    ResponseGroup.COMPLAINED: f"{_LATELY} AND kind = 'complaint' AND effect <> 'nobody'",
    ResponseGroup.AWAY: f"{_LATELY} AND kind = 'automatic'",
    ResponseGroup.UNMATCHED: f"""{_LATELY} AND (kind = 'other' OR (effect = 'nobody'
        AND (kind IN ('report', 'complaint') OR (kind = 'leave' AND done_at IS NOT NULL))))""",
}


def group_counts(tx: Transaction, since: datetime) -> dict[ResponseGroup, int]:
    """How many stand in each group."""
    filters = ", ".join(f"count(*) FILTER (WHERE {where}) AS {group}" for group, where in _MAIL_GROUPS.items())
    rows = run_sql(
        tx,
        f"""SELECT {filters}, (SELECT count(*) FROM response_event
                WHERE kind = 'left' AND machine_rule IS NULL AND at > :since) AS left
            FROM inbound_mail WHERE received_at > :since OR ({_WAITS})""",
        {"since": since},
    )
    return {group: int(getattr(rows[0], group)) for group in ResponseGroup}


_PERSON = "concat_ws(' ', contact.first_name, contact.last_name) AS name"


def mail_lines(
    tx: Transaction, group: ResponseGroup, since: datetime, *, before: int | None, limit: int
) -> list[Row[Any]]:
    """Mail of a group, latest first: (id, at, kind, name, from_address, subject, own, delivery_id, contact_id, campaign,
    assigned_to, done_at, event). The event is the detail of the response that it made.
    """
    return list(
        run_sql(
            tx,
            f"""WITH mail AS (SELECT id, received_at, kind, from_name, from_address, subject, left(own, 200) AS own, delivery_id, contact_id,
                    assigned_to, done_at FROM inbound_mail
                WHERE {_MAIL_GROUPS[group]} AND (CAST(:before AS bigint) IS NULL OR id < :before)
                ORDER BY id DESC LIMIT :limit)
            SELECT mail.id, received_at AS at, mail.kind,
                coalesce(nullif(concat_ws(' ', contact.first_name, contact.last_name), ''), nullif(from_name, '')) AS name, from_address, subject, mail.own, mail.delivery_id,
                mail.contact_id, campaign.name AS campaign, user_account.name AS assigned_to, done_at, event.detail AS event
            FROM mail LEFT JOIN contact ON contact.id = mail.contact_id
                LEFT JOIN delivery ON delivery.id = mail.delivery_id LEFT JOIN run ON run.id = delivery.run_id
                LEFT JOIN campaign ON campaign.id = run.campaign_id
                LEFT JOIN user_account ON user_account.id = mail.assigned_to
                LEFT JOIN LATERAL (SELECT detail FROM response_event WHERE response_event.delivery_id = mail.delivery_id
                    AND (response_event.detail->>'mail')::bigint = mail.id LIMIT 1) AS event ON true
            ORDER BY mail.id DESC""",
            {"since": since, "before": before, "limit": limit},
            {"event": DETAIL_FORM},
        )
    )


def left_lines(tx: Transaction, since: datetime, *, before: int | None, limit: int) -> list[Row[Any]]:
    """Who left, latest first: (id, at, name, address, topic, delivery_id, contact_id, campaign, detail)."""
    return list(
        run_sql(
            tx,
            f"""SELECT response_event.id, response_event.at, {_PERSON}, contact.address, topic.name AS topic,
                response_event.delivery_id, response_event.contact_id, campaign.name AS campaign, response_event.detail
            FROM response_event JOIN run ON run.id = response_event.run_id JOIN campaign ON campaign.id = run.campaign_id
                JOIN topic ON topic.id = run.topic_id JOIN contact ON contact.id = response_event.contact_id
            WHERE response_event.kind = 'left' AND machine_rule IS NULL AND response_event.at > :since
                AND (CAST(:before AS bigint) IS NULL OR response_event.id < :before)
            ORDER BY response_event.id DESC LIMIT :limit""",
            {"since": since, "before": before, "limit": limit},
            {"detail": DETAIL_FORM},
        )
    )


def lock_mail(tx: Transaction, mail_id: int) -> Row[Any] | None:
    """(assigned_to, done_at) of a message that was acted on; locked."""
    sql = "SELECT assigned_to, done_at FROM inbound_mail WHERE id = :id AND acted_at IS NOT NULL FOR UPDATE"
    return next(iter(run_sql(tx, sql, {"id": mail_id})), None)


def assign(tx: Transaction, mail_id: int, user_id: int | None) -> None:
    """Give a message to somebody, or to nobody."""
    change_sql(tx, "UPDATE inbound_mail SET assigned_to = :user WHERE id = :id", {"id": mail_id, "user": user_id})


def set_done(tx: Transaction, mail_id: int, at: datetime | None) -> None:
    """Take a message as done, or not."""
    change_sql(tx, "UPDATE inbound_mail SET done_at = :at WHERE id = :id", {"id": mail_id, "at": at})


def add_entry(tx: Transaction, mail_id: int, act: ReplyAct, *, user_id: int | None, text: str, at: datetime) -> None:
    """Note what was done about a message."""
    change_sql(
        tx,
        "INSERT INTO reply_entry (mail_id, at, user_id, act, text) VALUES (:mail, :at, :user, :act, :text)",
        {"mail": mail_id, "at": at, "user": user_id, "act": act.value, "text": text},
    )


def entries_of(tx: Transaction, mail_id: int) -> list[Row[Any]]:
    """What was done about a message, oldest first: (at, by, act, text)."""
    sql = """SELECT at, user_account.name AS by, act, text FROM reply_entry
        LEFT JOIN user_account ON user_account.id = user_id WHERE mail_id = :id ORDER BY reply_entry.id"""
    return list(run_sql(tx, sql, {"id": mail_id}))


def claim_to_forward(tx: Transaction, now: datetime, patience: timedelta) -> Row[Any] | None:
    """(id, forward_to, forward_tries, recipients, delivery_id, raw) of one that is to be forwarded now; nobody else is given
    it before so long.
    """
    rows = run_sql(
        tx,
        """UPDATE inbound_mail SET forward_at = :again, forward_tries = forward_tries + 1
            WHERE id = (SELECT id FROM inbound_mail WHERE forward_at <= :now ORDER BY forward_at LIMIT 1 FOR UPDATE SKIP LOCKED)
            RETURNING id, forward_to, forward_tries, recipients, delivery_id, raw""",
        {"now": now, "again": now + patience},
    )
    return next(iter(rows), None)


def was_forwarded(tx: Transaction, mail_id: int) -> None:
    """A message need not be forwarded any more."""
    change_sql(tx, "UPDATE inbound_mail SET forward_at = NULL WHERE id = :id", {"id": mail_id})


def left_of_run(tx: Transaction, run_id: int, *, limit: int) -> list[Row[Any]]:
    """Who left by a message of a run, latest first: (at, name, address, delivery_id, detail)."""
    return list(
        run_sql(
            tx,
            f"""SELECT response_event.at, {_PERSON}, contact.address, response_event.delivery_id, response_event.detail
            FROM response_event JOIN contact ON contact.id = response_event.contact_id
            WHERE run_id = :run AND kind = 'left' ORDER BY response_event.id DESC LIMIT :limit""",
            {"run": run_id, "limit": limit},
            {"detail": DETAIL_FORM},
        )
    )


def waiting_of_run(tx: Transaction, run_id: int) -> int:
    """How many replies to a run nobody has done yet."""
    rows = run_sql(
        tx,
        f"""SELECT count(*) AS n FROM inbound_mail JOIN delivery ON delivery.id = delivery_id
            WHERE {_WAITS} AND delivery.run_id = :run""",
        {"run": run_id},
    )
    return int(rows[0].n)


def count_waiting(tx: Transaction) -> int:
    """How many replies nobody has done yet."""
    return int(run_sql(tx, f"SELECT count(*) AS n FROM inbound_mail WHERE {_WAITS}")[0].n)
