"""Deliveries: their states, the relay's answers, and when to try again."""

from uvarovite.core.delivery.answers import Answer, AnswerKind, classify_answer, split_answer
from uvarovite.core.delivery.retry import RETRY_DELAYS_SECONDS, next_attempt
from uvarovite.core.delivery.states import (
    FINAL_STATES,
    DeliveryEvent,
    DeliveryState,
    IllegalTransition,
    next_state,
    states_before,
)

__all__ = [
    "FINAL_STATES",
    "RETRY_DELAYS_SECONDS",
    "Answer",
    "AnswerKind",
    "DeliveryEvent",
    "DeliveryState",
    "IllegalTransition",
    "classify_answer",
    "next_attempt",
    "next_state",
    "split_answer",
    "states_before",
]
