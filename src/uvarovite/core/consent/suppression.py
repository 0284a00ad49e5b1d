"""The suppression list: addresses and domains that get nothing, or nothing about one topic, whatever consent says."""

from enum import StrEnum


class SuppressionReason(StrEnum):
    """Why an entry stands on the list."""

    LEFT_ALL = "left_all"
    HARD_BOUNCE = "hard_bounce"
    COMPLAINT = "complaint"
    BY_HAND = "by_hand"
    ERASED = "erased"


REASON_WORDS: dict[SuppressionReason, str] = {
    SuppressionReason.LEFT_ALL: "left all topics",
    SuppressionReason.HARD_BOUNCE: "address does not exist",
    SuppressionReason.COMPLAINT: "complained",
    SuppressionReason.BY_HAND: "suppressed by hand",
    SuppressionReason.ERASED: "asked to be forgotten",
}

# What a person closed themselves, only they can open again, by signing up.
LIFTED_BY_PERSON_ALONE = frozenset({SuppressionReason.LEFT_ALL, SuppressionReason.COMPLAINT, SuppressionReason.ERASED})


def may_be_lifted_by_user(reason: SuppressionReason) -> bool:
    """May somebody with an account take such an entry off the list?"""
    return reason not in LIFTED_BY_PERSON_ALONE
