"""Mail that came in: kept first, then acted on, each once."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlmodel import col, select

from uvarovite.core.delivery import DeliveryState
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Delivery, InboundMail

# A report that names an address and nothing else is about what was sent to it lately.
LATELY = timedelta(days=7)


def keep(tx: Transaction, *, digest: str, sender: str, recipients: Sequence[str], raw: bytes, now: datetime) -> int:
    """Keep a message as it came; its number. The very same is counted, and nothing else."""
    rows = run_sql(
        tx,
        """INSERT INTO inbound_mail AS old (digest, times, received_at, sender, recipients, raw, size, tries, forward_tries)
            VALUES (:digest, 1, :now, :sender, CAST(:recipients AS text[]), :raw, :size, 0, 0)
            ON CONFLICT (digest) DO UPDATE SET times = old.times + 1 RETURNING id""",
        {
            "digest": digest,
            "now": now,
            "sender": sender,
            "recipients": list(recipients),
            "raw": raw,
            "size": len(raw),
        },
    )
    return int(rows[0].id)


def is_from_us(tx: Transaction, address: str) -> bool:
    """Does our mail come from an address, or are answers meant to go there?"""
    sql = "SELECT FROM sender WHERE :address IN (lower(address), lower(coalesce(reply_to, ''))) LIMIT 1"
    return bool(run_sql(tx, sql, {"address": address}))


def next_to_do(tx: Transaction, most_tries: int) -> InboundMail | None:
    """The one that came first of those that nothing was done about and that nobody is at; locked."""
    query = select(InboundMail).where(col(InboundMail.acted_at).is_(None), col(InboundMail.tries) < most_tries)
    return tx.exec(query.order_by(col(InboundMail.id)).limit(1).with_for_update(skip_locked=True)).first()


def note_try(tx: Transaction, mail_id: int) -> None:
    """One more try is made at a message."""
    change_sql(tx, "UPDATE inbound_mail SET tries = tries + 1 WHERE id = :id", {"id": mail_id})


def delivery_lately(tx: Transaction, address_folded: str, now: datetime) -> Delivery | None:
    """What was sent to an address last, if that was lately."""
    rows = run_sql(
        tx,
        # Run by run, since that is what the addresses are indexed by.
        f"""SELECT delivery.id FROM run JOIN delivery ON delivery.run_id = run.id AND delivery.address_folded = :address
            WHERE (run.ended_at IS NULL OR run.ended_at > :since) AND delivery.settled_at > :since
                AND delivery.state IN ('{DeliveryState.ACCEPTED}', '{DeliveryState.UNKNOWN}')
            ORDER BY delivery.settled_at DESC LIMIT 1""",
        {"address": address_folded, "since": now - LATELY},
    )
    return tx.get(Delivery, rows[0].id) if rows else None


def bounces_since(tx: Transaction, address_folded: str, since: datetime, but: int) -> int:
    """On how many other deliveries mail to an address came back since an instant, however softly."""
    rows = run_sql(
        tx,
        """SELECT count(DISTINCT delivery.id) AS n FROM response_event JOIN delivery ON delivery.id = delivery_id
            WHERE kind = 'bounced' AND machine_rule IS NULL AND response_event.at > :since AND delivery.address_folded = :address
                AND response_event.detail ? 'counts' AND delivery.id <> :but""",
        {"address": address_folded, "since": since, "but": but},
    )
    return int(rows[0].n)


def let_go_of_raw(tx: Transaction, before: datetime) -> int:
    """Let go of messages as they came, of those that came before an instant; how many."""
    return change_sql(
        tx,
        "UPDATE inbound_mail SET raw = NULL WHERE received_at < :before AND acted_at IS NOT NULL AND raw IS NOT NULL",
        {"before": before},
    )
