"""Audiences: the clearance that turns "matched" into "cleared to send"."""

from uvarovite.core.audiences.gates import GATES, PAPER_GATES, Gate, Stage, gates_of
from uvarovite.core.audiences.parts import PART_FORM, Part, Places, Share, part_words
from uvarovite.core.audiences.terms import (
    MONTH_DAYS,
    SETTLED_LATE,
    WEEK_DAYS,
    Again,
    Caps,
    ClearanceTerms,
    KeptRecord,
    Needed,
    RunLately,
)

__all__ = [
    "GATES",
    "MONTH_DAYS",
    "PAPER_GATES",
    "PART_FORM",
    "SETTLED_LATE",
    "WEEK_DAYS",
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
    "Stage",
    "gates_of",
    "part_words",
]
