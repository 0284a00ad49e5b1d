"""The organisation, its relays and who its mail comes from."""

from sqlmodel import col, select

from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import Organisation, Relay, Sender


def organisation(tx: Transaction) -> Organisation | None:
    """The organisation, once it is set up."""
    return tx.get(Organisation, 1)


def relays(tx: Transaction) -> list[Relay]:
    """All relays by name."""
    return list(tx.exec(select(Relay).order_by(col(Relay.name))).all())


def senders(tx: Transaction) -> list[Sender]:
    """All senders, the first that was made first."""
    return list(tx.exec(select(Sender).order_by(col(Sender.id))).all())


def uses_of_sender(tx: Transaction, sender_id: int) -> list[str]:
    """The names of the topics and campaigns that come from a sender."""
    sql = """SELECT name FROM topic WHERE sender_id = :id
        UNION ALL SELECT name FROM campaign WHERE sender_id = :id ORDER BY 1"""
    return [row.name for row in run_sql(tx, sql, {"id": sender_id})]
