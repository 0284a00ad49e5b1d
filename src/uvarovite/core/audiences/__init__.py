"""Audiences: the clearance that turns "matched" into "cleared to send"."""

from uvarovite.core.audiences.clearance import (
    GATE_SQL,
    REASON_SQL,
    clearance_sql,
    joins_sql,
    live_reason_sql,
    of_snapshot,
    with_hand_picked,
)
from uvarovite.core.audiences.gates import GATES, Gate
from uvarovite.core.audiences.parts import Part, Places, Share, part_sql, part_words
from uvarovite.core.audiences.terms import (
    MONTH_DAYS,
    SETTLED_LATE,
    Again,
    Caps,
    ClearanceTerms,
    KeptRecord,
    Needed,
    RunLately,
)

__all__ = [
    "GATES",
    "GATE_SQL",
    "MONTH_DAYS",
    "REASON_SQL",
    "SETTLED_LATE",
    "Again",
    "Caps",
    "ClearanceTerms",
    "Gate",
    "KeptRecord",
    "Needed",
    "Part",
    "Places",
    "RunLately",
    "Share",
    "clearance_sql",
    "joins_sql",
    "live_reason_sql",
    "of_snapshot",
    "part_sql",
    "part_words",
    "with_hand_picked",
]
