"""Consent per topic as a ledger of events, and the suppression list."""

from uvarovite.core.consent.closing import closed_sql
from uvarovite.core.consent.evidence import EVIDENCE_FORM, NO_EVIDENCE, ConsentEvidence
from uvarovite.core.consent.ledger import (
    TRANSITIONS,
    ConsentEvent,
    ConsentEventKind,
    ConsentStanding,
    ConsentState,
    fold_consent,
    narrower,
    next_confirmed_sql,
    next_pause_sql,
    next_state_sql,
    standing_at,
    was_subscribed_sql,
)
from uvarovite.core.consent.suppression import (
    LIFTED_BY_PERSON_ALONE,
    REASON_WORDS,
    SuppressionReason,
    may_be_lifted_by_user,
)
from uvarovite.core.consent.wording import KIND_WORDS, STATE_WORDS, evidence_words

__all__ = [
    "EVIDENCE_FORM",
    "KIND_WORDS",
    "LIFTED_BY_PERSON_ALONE",
    "NO_EVIDENCE",
    "REASON_WORDS",
    "STATE_WORDS",
    "TRANSITIONS",
    "ConsentEvent",
    "ConsentEventKind",
    "ConsentEvidence",
    "ConsentStanding",
    "ConsentState",
    "SuppressionReason",
    "closed_sql",
    "evidence_words",
    "fold_consent",
    "may_be_lifted_by_user",
    "narrower",
    "next_confirmed_sql",
    "next_pause_sql",
    "next_state_sql",
    "standing_at",
    "was_subscribed_sql",
]
