"""Deliveries: their states, the relay's answers, and when to try again."""

from uvarovite.core.delivery.answers import Answer, AnswerKind, classify_answer, split_answer
from uvarovite.core.delivery.retry import RETRY_DELAYS_SECONDS, next_attempt
from uvarovite.core.delivery.states import (
    BATCH,
    DELIVERY,
    GONE_OUT,
    RUN,
    BatchEvent,
    BatchState,
    DeliveryEvent,
    DeliveryState,
    RunEvent,
    RunState,
)

__all__ = [
    "BATCH",
    "DELIVERY",
    "GONE_OUT",
    "RETRY_DELAYS_SECONDS",
    "RUN",
    "Answer",
    "AnswerKind",
    "BatchEvent",
    "BatchState",
    "DeliveryEvent",
    "DeliveryState",
    "RunEvent",
    "RunState",
    "classify_answer",
    "next_attempt",
    "split_answer",
]
