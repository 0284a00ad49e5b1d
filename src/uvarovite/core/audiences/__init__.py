"""Audiences: the clearance that turns "matched" into "cleared to send"."""

from uvarovite.core.audiences.clearance import (
    clearance_sql,
    joins_sql,
    live_reason_sql,
    of_snapshot,
    with_hand_picked,
)
from uvarovite.core.audiences.gates import GATES, Gate
from uvarovite.core.audiences.terms import Again, Caps, ClearanceTerms, KeptRecord, Needed

__all__ = [
    "GATES",
    "Again",
    "Caps",
    "ClearanceTerms",
    "Gate",
    "KeptRecord",
    "Needed",
    "clearance_sql",
    "joins_sql",
    "live_reason_sql",
    "of_snapshot",
    "with_hand_picked",
]
