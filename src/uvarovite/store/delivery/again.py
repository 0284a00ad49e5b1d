"""Those of a run who did not get it, or may not have: whom to send to again, and what was decided about them."""

from collections.abc import Sequence
from datetime import datetime

from uvarovite.core.delivery import DeliveryState
from uvarovite.core.delivery.decisions import Decision
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.database import Transaction, change_sql


def of_run_sql(run_id: int, state: DeliveryState, delivery_ids: Sequence[int] | None) -> SqlFragment:
    """The people who stand in a state in a run, nothing being decided about them yet; only some if they are named."""
    only = "" if delivery_ids is None else "AND told.id = ANY(:told_ids)"
    return SqlFragment(
        text=f"""EXISTS (SELECT FROM delivery AS told WHERE told.run_id = :told_run AND told.contact_id = contact.id
            AND told.state = :told_state AND told.decided IS NULL {only})""",
        parameters={
            # Every clearance binds it; this one is about no audience.
            "audience_id": None,
            "told_run": run_id,
            "told_state": state.value,
            **({} if delivery_ids is None else {"told_ids": list(delivery_ids)}),
        },
    )


def decide(
    tx: Transaction,
    run_id: int,
    state: DeliveryState,
    decision: Decision,
    delivery_ids: Sequence[int] | None,
    now: datetime,
    *,
    only_cleared: bool = False,
) -> int:
    """Note what was decided about those of a run in a state, or only some; how many there were.

    `only_cleared`: those that the clearance of this transaction lets through.
    """
    only = "" if delivery_ids is None else "AND id = ANY(:ids)"
    cleared = "AND contact_id IN (SELECT contact_id FROM judged_now WHERE gate IS NULL)" if only_cleared else ""
    found = change_sql(
        tx,
        f"""UPDATE delivery SET decided = :decision, decided_at = :now
            WHERE run_id = :run AND state = :state AND decided IS NULL {only} {cleared}""",
        {
            "run": run_id,
            "state": state.value,
            "decision": decision.value,
            "now": now,
            **({} if delivery_ids is None else {"ids": list(delivery_ids)}),
        },
    )
    if state is DeliveryState.UNKNOWN:
        change_sql(
            tx,
            "UPDATE run SET unknown_decided = unknown_decided + :n WHERE id = :run",
            {"run": run_id, "n": found},
        )
    return found
