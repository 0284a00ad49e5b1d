"""Deliveries by the domain that they go to, those that are put off for it, and domains that told us to slow down."""

from collections.abc import Collection, Iterable, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery import BATCH, DELIVERY, BatchState, DeliveryEvent, DeliveryState
from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.delivery.slowing import slow_for
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.delivery.queue import ClaimedBatch
from uvarovite.store.states import before_sql


def to_domains(tx: Transaction, delivery_ids: Sequence[int], domains: Collection[str]) -> list[Row[Any]]:
    """(id, domain, was_put_off) of those of some deliveries that go to some domains, in the order told."""
    return list(
        run_sql(
            tx,
            f"""SELECT delivery.id, split_part(address_folded, '@', 2) AS domain,
                    trouble IS NOT DISTINCT FROM '{Meaning.DOMAIN_LIMIT}' AS was_put_off
                FROM unnest(CAST(:ids AS bigint[])) WITH ORDINALITY AS asked(id, place)
                JOIN delivery ON delivery.id = asked.id
                WHERE split_part(address_folded, '@', 2) = ANY(:domains) ORDER BY place""",
            {"ids": list(delivery_ids), "domains": list(domains)},
        )
    )


def zones_of(tx: Transaction, delivery_ids: Sequence[int], field: str) -> list[Row[Any]]:
    """(id, zone) of some deliveries in the order told: what stands in a field of each record, None where nothing does."""
    sql = """SELECT delivery.id, record->>:field AS zone
        FROM unnest(CAST(:ids AS bigint[])) WITH ORDINALITY AS asked(id, place) JOIN delivery ON delivery.id = asked.id
        ORDER BY place"""
    return list(run_sql(tx, sql, {"ids": list(delivery_ids), "field": field}))


def put_off(
    tx: Transaction,
    batch: ClaimedBatch,
    delivery_ids: Sequence[int],
    due: datetime,
    why: Meaning,
    *,
    most: int | None = None,
) -> None:
    """Move some of a batch in hand into one that is due later, of at most so many. The run is locked by whoever asks."""
    if not delivery_ids:
        return
    parameters = {"run": batch.run_id, "from": batch.number, "n": len(delivery_ids), "due": due, "most": most}
    found = run_sql(
        tx,
        f"""UPDATE batch SET size = size + :n
            WHERE run_id = :run AND number = (SELECT min(number) FROM batch
                WHERE run_id = :run AND retry_of IS NOT NULL AND due_at = :due AND state = '{BatchState.WAITING}'
                    AND size + :n <= coalesce(:most, size + :n))
            RETURNING number""",
        parameters,
    ) or run_sql(
        tx,
        f"""INSERT INTO batch (run_id, number, size, state, due_at, retry_of)
            SELECT :run, max(number) + 1, :n, '{BATCH.start}', :due, :from FROM batch WHERE run_id = :run RETURNING number""",
        parameters,
    )
    change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.DEFERRED}', batch_number = :to, next_at = :due, lease_token = NULL,
                trouble = :why
            WHERE id = ANY(:ids) AND lease_token = :token
                AND state IN ({before_sql(DELIVERY, DeliveryEvent.POSTPONE)})""",
        {"ids": list(delivery_ids), "to": found[0].number, "due": due, "token": batch.lease_token, "why": why.value},
    )


def note_slow(tx: Transaction, relay_id: int, domains: Iterable[str], now: datetime) -> None:
    """Domains have told a relay to slow down. Several messages are told so at about the same time: that counts once."""
    for domain in sorted(domains):
        rows = run_sql(
            tx,
            """INSERT INTO slow_domain AS old (relay_id, domain, times, until) VALUES (:relay, :domain, 1, :until)
                ON CONFLICT (relay_id, domain) DO UPDATE SET times = old.times + 1 WHERE old.until <= :now
                RETURNING times""",
            {"relay": relay_id, "domain": domain, "now": now, "until": now + slow_for(1)},
        )
        if rows:
            change_sql(
                tx,
                "UPDATE slow_domain SET until = :until WHERE relay_id = :relay AND domain = :domain",
                {"relay": relay_id, "domain": domain, "until": now + slow_for(rows[0].times)},
            )


def forget_slow(tx: Transaction, relay_id: int, domains: Iterable[str], now: datetime) -> None:
    """Domains have accepted something since they were left alone."""
    change_sql(
        tx,
        "DELETE FROM slow_domain WHERE relay_id = :relay AND domain = ANY(:domains) AND until <= :now",
        {"relay": relay_id, "domains": sorted(domains), "now": now},
    )
