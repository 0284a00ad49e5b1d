"""How often somebody wants mail at most, by their own word."""

from enum import StrEnum


class AtMost(StrEnum):
    """One message in 7 days, or in 30."""

    WEEK = "week"
    MONTH = "month"
