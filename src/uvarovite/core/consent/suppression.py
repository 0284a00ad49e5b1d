"""The suppression list: addresses that get nothing, whatever a topic's consent says."""

from enum import StrEnum


class SuppressionReason(StrEnum):
    """Why an address is on the list."""

    LEFT_ALL = "left_all"
    HARD_BOUNCE = "hard_bounce"
    COMPLAINT = "complaint"
    BY_HAND = "by_hand"
