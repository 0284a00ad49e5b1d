"""Audiences: the clearance that turns "matched" into "cleared to send"."""

from uvarovite.core.audiences.gates import (
    GATES,
    Gate,
    clearance_sql,
    joins_sql,
    live_reason_sql,
    of_snapshot,
    with_hand_picked,
)

__all__ = ["GATES", "Gate", "clearance_sql", "joins_sql", "live_reason_sql", "of_snapshot", "with_hand_picked"]
