"""The send log of a run: one row for each delivery, read a part at a time."""

from collections.abc import Iterator
from typing import Any

from sqlalchemy import Row

from uvarovite.store.database import Transaction, run_sql

_AT_ONCE = 2_000


def send_log_rows(tx: Transaction, run_id: int) -> Iterator[Row[Any]]:
    """Every delivery of a run in the order of the plan, with its last answer and what people did first.

    (id, contact_no, name, address, first_batch, state, attempts, marked_at, settled_at, held_gate, held_reason, decided, relay,
    code, enhanced, text, meaning, opened_at, clicked_at, left_at.)
    """
    # Deliveries of a run were made at once: their ids lie close, and a span of them is read by its ends.
    ends = run_sql(tx, "SELECT min(id) AS first, max(id) AS last FROM delivery WHERE run_id = :run", {"run": run_id})[0]
    if ends.first is None:
        return

    def first(kind: str) -> str:
        return f"""(SELECT min(at) FROM response_event WHERE delivery_id = delivery.id AND kind = '{kind}'
            AND machine_rule IS NULL) AS {kind}_at"""

    for begin in range(ends.first, ends.last + 1, _AT_ONCE):
        yield from run_sql(
            tx,
            f"""SELECT delivery.id, delivery.record->>'contact_no' AS contact_no,
                    concat_ws(' ', delivery.record->>'first_name', delivery.record->>'last_name') AS name,
                    delivery.address, first_batch, delivery.state, delivery.attempts, marked_at, settled_at, held_gate,
                    held_reason, decided, relay.name AS relay, said.code, said.enhanced, said.text, said.meaning,
                    {first("opened")}, {first("clicked")}, {first("left")}
                FROM delivery LEFT JOIN LATERAL (SELECT * FROM attempt WHERE attempt.delivery_id = delivery.id
                    ORDER BY attempt.id DESC LIMIT 1) AS said ON TRUE
                LEFT JOIN relay ON relay.id = said.relay_id
                WHERE delivery.id BETWEEN :begin AND :end AND delivery.run_id = :run ORDER BY delivery.id""",
            {"run": run_id, "begin": begin, "end": begin + _AT_ONCE - 1},
        )
