"""What the dispatch shows of single people and answers of a run."""

from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, run_sql


def answers(tx: Transaction, run_id: int, *, only: str | None, limit: int) -> list[Row[Any]]:
    """The latest answers of relays: (id, at, delivery_id, name, address, code, text, kind, meaning)."""
    which = "AND attempt.kind = :kind" if only else ""
    return list(
        run_sql(
            tx,
            f"""SELECT attempt.id, attempt.at, attempt.delivery_id, delivery.address, attempt.code, attempt.text,
                    attempt.kind, attempt.meaning,
                    concat_ws(' ', delivery.record->>'first_name', delivery.record->>'last_name') AS name
                FROM attempt JOIN delivery ON delivery.id = attempt.delivery_id
                WHERE attempt.run_id = :run {which} ORDER BY attempt.id DESC LIMIT :limit""",
            {"run": run_id, "kind": only, "limit": limit} if only else {"run": run_id, "limit": limit},
        )
    )


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
