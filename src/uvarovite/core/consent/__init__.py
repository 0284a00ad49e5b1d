"""Consent per topic as a ledger of events, and the suppression list."""

from uvarovite.core.consent.ledger import (
    TRANSITIONS,
    ConsentEventKind,
    ConsentState,
    fold_consent,
    next_state_sql,
)
from uvarovite.core.consent.suppression import SuppressionReason

__all__ = [
    "TRANSITIONS",
    "ConsentEventKind",
    "ConsentState",
    "SuppressionReason",
    "fold_consent",
    "next_state_sql",
]
