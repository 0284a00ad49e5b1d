"""Responses of people, and everything about one delivery."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.responses import DETAIL_FORM, ResponseDetail
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.live import tell_responses
from uvarovite.store.tables import Attempt, Delivery
from uvarovite.store.tables.responses import ResponseKind


@dataclass(frozen=True, slots=True, kw_only=True)
class NewEvent:
    """One response to be recorded."""

    delivery_id: int
    run_id: int
    contact_id: int
    kind: ResponseKind
    at: datetime
    machine_rule: str | None
    detail: ResponseDetail


def add_event(
    tx: Transaction,
    delivery: Delivery,
    kind: ResponseKind,
    at: datetime,
    *,
    machine_rule: str | None,
    detail: ResponseDetail,
) -> None:
    """Record one response of a delivery."""
    assert delivery.id is not None
    event = NewEvent(
        delivery_id=delivery.id,
        run_id=delivery.run_id,
        contact_id=delivery.contact_id,
        kind=kind,
        at=at,
        machine_rule=machine_rule,
        detail=detail,
    )
    add_events(tx, [event])


def add_events(tx: Transaction, events: Sequence[NewEvent]) -> None:
    """Record responses, count them (a person's once for each delivery and kind, a machine's every time), and tell of them."""
    if not events:
        return
    tell_responses(tx, (event.run_id for event in events))
    change_sql(
        tx,
        # In one order, so that two who write at once wait for each other, and neither for ever.
        """WITH told AS MATERIALIZED (
                SELECT * FROM jsonb_to_recordset(CAST(:told AS jsonb))
                    AS told(delivery bigint, run bigint, contact bigint, kind text, at timestamptz, rule text, detail jsonb)),
            kept AS (
                INSERT INTO response_event (delivery_id, run_id, contact_id, kind, at, machine_rule, detail)
                SELECT delivery, run, contact, kind, at, rule, detail FROM told),
            by_people AS (SELECT DISTINCT delivery, run, kind FROM told WHERE rule IS NULL ORDER BY delivery, kind),
            first AS (
                INSERT INTO response_first (delivery_id, kind) SELECT delivery, kind FROM by_people ON CONFLICT DO NOTHING
                RETURNING delivery_id, kind)
            INSERT INTO response_count (run_id, kind, n)
            SELECT run, first.kind, count(*) FROM first JOIN by_people ON delivery = delivery_id AND by_people.kind = first.kind
                GROUP BY 1, 2
            UNION ALL SELECT run, 'machine', count(*) FROM told WHERE rule IS NOT NULL GROUP BY 1""",
        {"told": orjson.dumps([_told(event) for event in events]).decode()},
    )


def one_writer(tx: Transaction) -> None:
    """Whoever notes many fetches waits for others who do: what belongs together is seen together, and nobody waits in a circle."""
    run_sql(tx, "SELECT pg_advisory_xact_lock(hashtext('uvarovite fetches'))")


def _told(event: NewEvent) -> dict[str, Any]:
    """An event as one document with the others says it: an array for each column takes ten times as long to write."""
    return {
        "delivery": event.delivery_id,
        "run": event.run_id,
        "contact": event.contact_id,
        "kind": event.kind.value,
        "at": event.at,
        "rule": event.machine_rule,
        "detail": DETAIL_FORM.write(event.detail),
    }


def runs_of_deliveries(tx: Transaction, deliveries: Sequence[int]) -> dict[int, Row[Any]]:
    """(id, run_id, contact_id, state, settled_at, wish) of deliveries, by their number; of those that there are.

    `wish` is what the person wishes now to be noted of them, at most.
    """
    sql = """SELECT delivery.id, run_id, contact_id, state, settled_at,
            CASE WHEN 'off' IN (delivery.wish, tracking_wish.wish) THEN 'off' ELSE coalesce(tracking_wish.wish, delivery.wish) END
                AS wish
        FROM delivery LEFT JOIN tracking_wish USING (contact_id) WHERE delivery.id = ANY(CAST(:ids AS bigint[]))"""
    return {row.id: row for row in run_sql(tx, sql, {"ids": list(deliveries)})}


def release_times(tx: Transaction, runs: Sequence[int]) -> dict[int, datetime]:
    """When runs were released, by their number; of those that there are."""
    if not runs:
        return {}
    sql = "SELECT id, released_at FROM run WHERE id = ANY(CAST(:ids AS bigint[]))"
    return {row.id: row.released_at for row in run_sql(tx, sql, {"ids": list(runs)})}


def fetches_between(tx: Transaction, deliveries: Sequence[int], first: datetime, last: datetime) -> list[Row[Any]]:
    """Opens and clicks of deliveries between two instants: (id, delivery_id, at, machine_rule, detail)."""
    return list(
        run_sql(
            tx,
            """SELECT id, delivery_id, at, machine_rule, detail FROM response_event
                WHERE delivery_id = ANY(CAST(:ids AS bigint[])) AND kind IN ('opened', 'clicked') AND at BETWEEN :first AND :last
                ORDER BY id""",
            {"ids": list(deliveries), "first": first, "last": last},
            {"detail": DETAIL_FORM},
        )
    )


def machines_after_all(tx: Transaction, rules: Mapping[int, str]) -> None:
    """Events that were counted as people's, and are machines' by these rules; their people are counted no more for them."""
    if not rules:
        return
    change_sql(
        tx,
        """WITH told AS (SELECT * FROM unnest(CAST(:events AS bigint[]), CAST(:rules AS text[])) AS told(event, rule)),
            found AS (UPDATE response_event SET machine_rule = rule FROM told WHERE id = event AND machine_rule IS NULL
                RETURNING id, delivery_id, run_id, kind),
            gone AS (DELETE FROM response_first USING (SELECT DISTINCT delivery_id, kind FROM found) AS it
                WHERE response_first.delivery_id = it.delivery_id AND response_first.kind = it.kind
                    AND NOT EXISTS (SELECT FROM response_event AS other WHERE other.delivery_id = it.delivery_id
                        AND other.kind = it.kind AND other.machine_rule IS NULL AND other.id NOT IN (SELECT id FROM found))
                RETURNING response_first.delivery_id, response_first.kind)
        INSERT INTO response_count (run_id, kind, n)
            SELECT run_id, gone.kind, -count(DISTINCT delivery_id) FROM gone JOIN found USING (delivery_id, kind) GROUP BY 1, 2
            UNION ALL SELECT run_id, 'machine', count(*) FROM found GROUP BY 1""",
        {"events": list(rules), "rules": list(rules.values())},
    )


def count_only(tx: Transaction, counted: Mapping[tuple[int, ResponseKind, int], int]) -> None:
    """Count what people did whom nobody notes: by run, kind and the link's number."""
    told = sorted((what, n) for what, n in counted.items() if n)
    if not told:
        return
    tell_responses(tx, {run for (run, _, _), _ in told})
    change_sql(
        tx,
        """INSERT INTO counted_response AS old (run_id, kind, number, n)
            SELECT * FROM unnest(CAST(:runs AS bigint[]), CAST(:kinds AS text[]), CAST(:numbers AS integer[]), CAST(:n AS integer[]))
            ON CONFLICT (run_id, kind, number) DO UPDATE SET n = old.n + excluded.n""",
        {
            "runs": [run for (run, _, _), _ in told],
            "kinds": [kind.value for (_, kind, _), _ in told],
            "numbers": [number for (_, _, number), _ in told],
            "n": [n for _, n in told],
        },
    )


def counted_of_run(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """What was only counted of a run: (kind, number, n)."""
    sql = "SELECT kind, number, n FROM counted_response WHERE run_id = :run ORDER BY kind, number"
    return list(run_sql(tx, sql, {"run": run_id}))


def latest_runs(tx: Transaction, limit: int) -> list[Row[Any]]:
    """The runs that were released last: (run_id, campaign_id, campaign, number, released_at)."""
    sql = """SELECT run.id AS run_id, campaign_id, campaign.name AS campaign, number, released_at
        FROM run JOIN campaign ON campaign.id = campaign_id ORDER BY run.id DESC LIMIT :limit"""
    return list(run_sql(tx, sql, {"limit": limit}))


def clicks_by_link(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """Each link of a run that is the same for everybody, or that was followed: (number, address, people, machines)."""
    return list(
        run_sql(
            tx,
            """WITH clicks AS (SELECT (detail->>'link')::integer AS number,
                    count(DISTINCT delivery_id) FILTER (WHERE machine_rule IS NULL) AS people,
                    count(*) FILTER (WHERE machine_rule IS NOT NULL) AS machines
                FROM response_event WHERE run_id = :run AND kind = 'clicked' GROUP BY 1)
            SELECT number, address, coalesce(people, 0) AS people, coalesce(machines, 0) AS machines
            FROM clicks FULL JOIN (SELECT number, address FROM run_link WHERE run_id = :run) AS link USING (number)
            WHERE number IS NOT NULL ORDER BY number LIMIT 300""",
            {"run": run_id},
        )
    )


def one_accepted(tx: Transaction, run_id: int) -> int | None:
    """A delivery of a run that was accepted, if there is one."""
    sql = "SELECT delivery_id FROM attempt WHERE run_id = :run AND kind = 'accepted' ORDER BY id LIMIT 1"
    rows = run_sql(tx, sql, {"run": run_id})
    return int(rows[0].delivery_id) if rows else None


def attempts_of(tx: Transaction, delivery_id: int) -> list[Attempt]:
    """The attempts of a delivery, oldest first."""
    query = select(Attempt).where(col(Attempt.delivery_id) == delivery_id).order_by(col(Attempt.id))
    return list(tx.exec(query).all())


def events_of(tx: Transaction, delivery_id: int) -> list[Row[Any]]:
    """The responses of a delivery, oldest first: (kind, at, machine_rule, detail)."""
    sql = "SELECT kind, at, machine_rule, detail FROM response_event WHERE delivery_id = :id ORDER BY id"
    return list(run_sql(tx, sql, {"id": delivery_id}, {"detail": DETAIL_FORM}))


def deliveries_of_contact(tx: Transaction, contact_id: int, limit: int) -> list[Row[Any]]:
    """What a contact was sent, latest first: (id, run_id, campaign_id, campaign, state, at, came).

    `came` are the kinds of what came back; opens and clicks of machines do not count.
    """
    return list(
        run_sql(
            tx,
            """SELECT delivery.id, delivery.run_id, campaign.id AS campaign_id, campaign.name AS campaign,
                    delivery.state, coalesce(delivery.settled_at, run.released_at) AS at,
                    ARRAY(SELECT DISTINCT kind FROM response_event WHERE delivery_id = delivery.id AND machine_rule IS NULL
                        ORDER BY kind) AS came
                FROM delivery JOIN run ON run.id = delivery.run_id JOIN campaign ON campaign.id = run.campaign_id
                WHERE delivery.contact_id = :contact ORDER BY delivery.id DESC LIMIT :limit""",
            {"contact": contact_id, "limit": limit},
        )
    )
