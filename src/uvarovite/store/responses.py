"""Responses of people, and everything about one delivery."""

from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.responses import DETAIL_FORM, ResponseDetail
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import Attempt, Delivery
from uvarovite.store.tables.responses import ResponseKind


def add_event(
    tx: Transaction,
    delivery: Delivery,
    kind: ResponseKind,
    at: datetime,
    *,
    machine_rule: str | None,
    detail: ResponseDetail,
) -> None:
    """Record one response, and count it: a person's once for each kind, a machine's every time."""
    change_sql(
        tx,
        """WITH told AS (
                INSERT INTO response_event (delivery_id, run_id, contact_id, kind, at, machine_rule, detail)
                VALUES (:delivery, :run, :contact, :kind, :at, CAST(:rule AS text), CAST(:detail AS jsonb))),
            first AS (
                INSERT INTO response_first (delivery_id, kind)
                SELECT :delivery, :kind WHERE CAST(:rule AS text) IS NULL ON CONFLICT DO NOTHING RETURNING kind)
            INSERT INTO response_count (run_id, kind, n)
            SELECT :run, kind, 1 FROM first UNION ALL SELECT :run, 'machine', 1 WHERE CAST(:rule AS text) IS NOT NULL""",
        {
            "delivery": delivery.id,
            "run": delivery.run_id,
            "contact": delivery.contact_id,
            "kind": kind.value,
            "at": at,
            "rule": machine_rule,
            "detail": orjson.dumps(DETAIL_FORM.write(detail)).decode(),
        },
    )


def attempts_of(tx: Transaction, delivery_id: int) -> list[Attempt]:
    """The attempts of a delivery, oldest first."""
    query = select(Attempt).where(col(Attempt.delivery_id) == delivery_id).order_by(col(Attempt.id))
    return list(tx.exec(query).all())


def events_of(tx: Transaction, delivery_id: int) -> list[Row[Any]]:
    """The responses of a delivery, oldest first: (kind, at, machine_rule, detail)."""
    sql = "SELECT kind, at, machine_rule, detail FROM response_event WHERE delivery_id = :id ORDER BY id"
    return list(run_sql(tx, sql, {"id": delivery_id}, {"detail": DETAIL_FORM}))


def deliveries_of_contact(tx: Transaction, contact_id: int, limit: int) -> list[Row[Any]]:
    """What a contact was sent, latest first: (id, run_id, campaign_id, campaign, state, at, opened, clicked).

    Opens and clicks of machines do not count.
    """
    return list(
        run_sql(
            tx,
            """SELECT delivery.id, delivery.run_id, campaign.id AS campaign_id, campaign.name AS campaign,
                    delivery.state, coalesce(delivery.settled_at, run.released_at) AS at,
                    EXISTS (SELECT FROM response_event WHERE delivery_id = delivery.id AND kind = 'opened'
                        AND machine_rule IS NULL) AS opened,
                    EXISTS (SELECT FROM response_event WHERE delivery_id = delivery.id AND kind = 'clicked'
                        AND machine_rule IS NULL) AS clicked
                FROM delivery JOIN run ON run.id = delivery.run_id JOIN campaign ON campaign.id = run.campaign_id
                WHERE delivery.contact_id = :contact ORDER BY delivery.id DESC LIMIT :limit""",
            {"contact": contact_id, "limit": limit},
        )
    )
