"""The organisation, its relays and who its mail comes from."""

from sqlmodel import col, select

from uvarovite.core.delivery import RUN
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.states import states_sql
from uvarovite.store.tables import Organisation, Relay, RelayPool, Sender


def organisation(tx: Transaction) -> Organisation | None:
    """The organisation, once it is set up."""
    return tx.get(Organisation, 1)


def pools(tx: Transaction) -> list[RelayPool]:
    """All pools, the first that was made first."""
    return list(tx.exec(select(RelayPool).where(col(RelayPool.removed_at).is_(None)).order_by(col(RelayPool.id))).all())


def relays(tx: Transaction) -> list[Relay]:
    """All relays, by pool and in their order there."""
    order = (col(Relay.pool_id), col(Relay.place), col(Relay.name))
    return list(tx.exec(select(Relay).where(col(Relay.removed_at).is_(None)).order_by(*order)).all())


def relays_of_pool(tx: Transaction, pool_id: int) -> list[Relay]:
    """The relays of a pool in their order."""
    return [one for one in relays(tx) if one.pool_id == pool_id]


def needs_pool(tx: Transaction, pool_id: int) -> list[str]:
    """The names of the campaigns that are on their way through a pool, or are planned to be."""
    sql = f"""SELECT name FROM campaign WHERE id IN (SELECT campaign_id FROM run WHERE pool_id = :id
                AND state IN ({states_sql(RUN.open)}))
            OR pool_id = :id AND id IN (SELECT campaign_id FROM planned_release) ORDER BY 1"""
    return [row.name for row in run_sql(tx, sql, {"id": pool_id})]


def forget_pool(tx: Transaction, pool_id: int) -> None:
    """No campaign goes through a pool any more."""
    change_sql(tx, "UPDATE campaign SET pool_id = NULL, revision = revision + 1 WHERE pool_id = :id", {"id": pool_id})


def senders(tx: Transaction) -> list[Sender]:
    """All senders, the first that was made first."""
    return list(tx.exec(select(Sender).order_by(col(Sender.id))).all())


def uses_of_sender(tx: Transaction, sender_id: int) -> list[str]:
    """The names of the topics and campaigns that come from a sender."""
    sql = """SELECT name FROM topic WHERE sender_id = :id
        UNION ALL SELECT name FROM campaign WHERE sender_id = :id ORDER BY 1"""
    return [row.name for row in run_sql(tx, sql, {"id": sender_id})]
