"""What the dispatch shows of a run."""

from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery import (
    DELIVERY,
    DeliveryState,
)
from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.states import states_sql


def state_counts(tx: Transaction, run_id: int) -> dict[str, int]:
    """How many deliveries stand in each state."""
    rows = run_sql(tx, "SELECT state, count(*) AS n FROM delivery WHERE run_id = :run GROUP BY 1", {"run": run_id})
    return {row.state: row.n for row in rows}


def batch_strip(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """The batches of the plan with what became of their people: (number, size, started, accepted, deferred …)."""
    return list(
        run_sql(
            tx,
            f"""SELECT first_batch AS number, count(*) AS size,
                    count(*) FILTER (WHERE state = '{DeliveryState.ACCEPTED}') AS accepted,
                    count(*) FILTER (WHERE moving AND tried) AS deferred,
                    count(*) FILTER (WHERE state = '{DeliveryState.REFUSED}') AS refused,
                    count(*) FILTER (WHERE state = '{DeliveryState.UNKNOWN}') AS unknown,
                    count(*) FILTER (WHERE state IN ({states_sql({DeliveryState.HELD, DeliveryState.STOPPED})})) AS held,
                    count(*) FILTER (WHERE moving AND NOT tried) AS waiting
                FROM (SELECT first_batch, state, state IN ({states_sql(DELIVERY.open)}) AS moving,
                    attempts > CASE WHEN state = '{DeliveryState.SENDING}' THEN 1 ELSE 0 END AS tried
                    FROM delivery WHERE run_id = :run) AS looked
                GROUP BY first_batch ORDER BY first_batch""",
            {"run": run_id},
        )
    )


def accepted_curve(tx: Transaction, run_id: int, points: int) -> list[tuple[Any, int]]:
    """(instant, accepted by then), at most `points` of them, oldest first."""
    rows = run_sql(
        tx,
        f"""WITH placed AS (SELECT settled_at, row_number() OVER (ORDER BY settled_at) AS place,
                count(*) OVER () AS total FROM delivery WHERE run_id = :run AND state = '{DeliveryState.ACCEPTED}')
            SELECT max(settled_at) AS at, max(place) AS accepted FROM placed
            GROUP BY (place - 1) * :points / total ORDER BY 2""",
        {"run": run_id, "points": points},
    )
    return [(row.at, row.accepted) for row in rows]


def trouble(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """Groups of trouble: (state, domain, words, n, next_at), largest first."""
    return list(
        run_sql(
            tx,
            f"""SELECT delivery.state, split_part(delivery.address_folded, '@', 2) AS domain, attempt.words,
                    count(*) AS n, min(delivery.next_at) AS next_at
                FROM delivery JOIN LATERAL (SELECT words FROM attempt WHERE delivery_id = delivery.id
                    ORDER BY id DESC LIMIT 1) AS attempt ON TRUE
                WHERE run_id = :run AND delivery.state IN ({states_sql({DeliveryState.DEFERRED, DeliveryState.REFUSED, DeliveryState.UNKNOWN})})
                GROUP BY 1, 2, 3 ORDER BY n DESC, 2 LIMIT 12""",
            {"run": run_id},
        )
    )


def held_groups(tx: Transaction, run_id: int) -> list[Row[Any]]:
    """Who was held after release: (held_gate, held_reason, n)."""
    return list(
        run_sql(
            tx,
            f"""SELECT held_gate, held_reason, count(*) AS n FROM delivery
                WHERE run_id = :run AND state = '{DeliveryState.HELD}' GROUP BY 1, 2 ORDER BY n DESC""",
            {"run": run_id},
        )
    )


def answers(tx: Transaction, run_id: int, *, only: str | None, limit: int) -> list[Row[Any]]:
    """The latest answers of relays: (id, at, delivery_id, name, address, code, text, kind, words)."""
    which = "AND attempt.kind = :kind" if only else ""
    return list(
        run_sql(
            tx,
            f"""SELECT attempt.id, attempt.at, attempt.delivery_id, delivery.address, attempt.code, attempt.text,
                    attempt.kind, attempt.words,
                    concat_ws(' ', delivery.record->>'first_name', delivery.record->>'last_name') AS name
                FROM attempt JOIN delivery ON delivery.id = attempt.delivery_id
                WHERE attempt.run_id = :run {which} ORDER BY attempt.id DESC LIMIT :limit""",
            {"run": run_id, "kind": only, "limit": limit} if only else {"run": run_id, "limit": limit},
        )
    )


def response_counts(tx: Transaction, run_id: int) -> dict[str, int]:
    """People, not events: how many opened, clicked and left; `machines` opened or clicked by machines only."""
    row = run_sql(
        tx,
        """SELECT count(DISTINCT delivery_id) FILTER (WHERE kind = 'opened' AND machine_rule IS NULL) AS opened,
                count(DISTINCT delivery_id) FILTER (WHERE kind = 'clicked' AND machine_rule IS NULL) AS clicked,
                count(DISTINCT delivery_id) FILTER (WHERE kind = 'left') AS left_topic,
                count(*) FILTER (WHERE machine_rule IS NOT NULL) AS machine_events
            FROM response_event WHERE run_id = :run""",
        {"run": run_id},
    )[0]
    return {
        "opened": row.opened,
        "clicked": row.clicked,
        "left": row.left_topic,
        "machine_events": row.machine_events,
    }


def find_deliveries(
    tx: Transaction, run_id: int, *, search: str, state: str | None, response: str | None, limit: int
) -> list[Row[Any]]:
    """People of a run: (id, name, address, state, batch_number, attempts), by name or address, state and response."""
    which = ""
    parameters: dict[str, Any] = {"run": run_id, "search": f"%{search.lower()}%", "limit": limit}
    if state:
        which += " AND state = :state"
        parameters["state"] = state
    if response:
        which += """ AND EXISTS (SELECT 1 FROM response_event WHERE delivery_id = delivery.id AND kind = :response
            AND machine_rule IS NULL)"""
        parameters["response"] = response
    return list(
        run_sql(
            tx,
            f"""SELECT id, concat_ws(' ', record->>'first_name', record->>'last_name') AS name, address, state,
                    first_batch, attempts
                FROM delivery WHERE run_id = :run AND (lower(address) LIKE :search
                    OR lower(concat_ws(' ', record->>'first_name', record->>'last_name')) LIKE :search) {which}
                ORDER BY id LIMIT :limit""",
            parameters,
        )
    )
