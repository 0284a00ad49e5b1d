"""Planning a run: its people are cut into batches, set-based."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.campaigns import Pace, zone_names
from uvarovite.core.delivery import BATCH, DELIVERY
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.delivery.counts import begin_counts

# What a message is merged with, as it is at that moment.
_RECORD = """contact.own || jsonb_strip_nulls(jsonb_build_object('contact_no', contact.contact_no, 'address', contact.address,
    'first_name', contact.first_name, 'last_name', contact.last_name, 'language', contact.language))"""
_AT_ONCE = 500
# From so many on it is worth a second to look at what was planned.
_MANY = 5_000


def plan_deliveries(tx: Transaction, run_id: int, pace: Pace, now: datetime) -> int:
    """Cut the cleared people of `judged_now` into batches and deliveries; how many there are.

    A first slice is taken evenly from all of them, and ends a batch.
    """
    head = pace.first_slice.people if pace.first_slice else 0
    parameters = {"run": run_id, "size": pace.batch_size, "head": head}
    by_id = "SELECT contact_id, row_number() OVER (ORDER BY contact_id) AS place FROM judged_now WHERE gate IS NULL"
    placed = by_id
    if head:
        placed = f"""SELECT contact_id, row_number() OVER (ORDER BY place % step <> 0 OR place / step > :head, place) AS place
            FROM (SELECT *, greatest(count(*) OVER () / :head, 1) AS step FROM ({by_id}) AS listed) AS stepped"""
    # As core.campaigns.Pace.batch_of has it.
    number = """CASE WHEN place <= :head THEN (place - 1) / :size
        ELSE (:head + :size - 1) / :size + (place - 1 - :head) / :size END + 1"""
    change_sql(
        tx,
        f"""INSERT INTO batch (run_id, number, size, state, due_at)
            SELECT :run, {number}, count(*), '{BATCH.start}', :now FROM ({placed}) AS placed GROUP BY 2""",
        {**parameters, "now": now},
    )
    begin_counts(tx, run_id)
    if pace.first_slice:
        run_sql(
            tx,
            """UPDATE run SET slice_batches = (:head + :size - 1) / :size
                WHERE id = :run AND EXISTS (SELECT FROM batch WHERE run_id = :run AND number > (:head + :size - 1) / :size)
                RETURNING id""",
            parameters,
        )
    # In the order of their places. Without a first slice that is by contact, as the tables are read: nothing is sorted then.
    order = "place" if head else "contact.id"
    planned = change_sql(
        tx,
        f"""INSERT INTO delivery (run_id, batch_number, first_batch, contact_id, address, address_folded, record,
                consent_since, state, attempts)
            SELECT :run, {number}, {number}, contact.id, contact.address, contact.address_folded,
                {_RECORD},
                consent.since, '{DELIVERY.start}', 0
            FROM ({placed}) AS placed
            JOIN contact ON contact.id = placed.contact_id
            JOIN run ON run.id = :run
            LEFT JOIN consent ON consent.contact_id = contact.id AND consent.topic_id = run.topic_id
            ORDER BY {order}""",
        parameters,
    )
    if pace.zone_field:
        run_sql(
            tx,
            """UPDATE run SET readers = (SELECT jsonb_build_object('zones', coalesce(jsonb_object_agg(zone, n), '{}')) FROM (
                SELECT record->>:field AS zone, count(*) AS n FROM delivery
                WHERE run_id = :run AND record->>:field = ANY(:names) GROUP BY 1) AS told) WHERE id = :run RETURNING id""",
            {"run": run_id, "field": pace.zone_field, "names": sorted(zone_names())},
        )
    if planned >= _MANY:
        # Until something looks at them by itself, the planner takes the new ones for none, and reads them all for a batch.
        change_sql(tx, "ANALYZE delivery (run_id, batch_number)")
    return planned


def cleared_records(tx: Transaction, topic_id: int, most: int | None) -> Iterator[Row[Any]]:
    """(id, address, record, consent_since) of the cleared people of `judged_now`, or of the first so many, a part at a time."""
    after, left = 0, most
    while left is None or left > 0:
        rows = run_sql(
            tx,
            f"""SELECT contact.id, contact.address, {_RECORD} AS record, consent.since AS consent_since
                FROM judged_now JOIN contact ON contact.id = judged_now.contact_id
                LEFT JOIN consent ON consent.contact_id = contact.id AND consent.topic_id = :topic
                WHERE gate IS NULL AND contact.id > :after ORDER BY contact.id LIMIT :some""",
            {"topic": topic_id, "after": after, "some": _AT_ONCE if left is None else min(left, _AT_ONCE)},
        )
        if not rows:
            return
        yield from rows
        after = rows[-1].id
        left = None if left is None else left - len(rows)
