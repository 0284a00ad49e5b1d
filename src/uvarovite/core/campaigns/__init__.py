"""Campaigns: pace, permits, and the forecast that a pace gives."""

from uvarovite.core.campaigns.forecast import Forecast, forecast_run
from uvarovite.core.campaigns.pace import PACE_FORM, Pace, pace_sentence
from uvarovite.core.campaigns.permits import (
    DAY_SECONDS,
    HOUR_SECONDS,
    MINUTE_SECONDS,
    WINDOWS,
    Limit,
    Use,
    first_stretch,
    grant_permits,
    stretch_of,
)
from uvarovite.core.campaigns.released import CLEARANCE_FORM, HeldAtGate, ReleasedClearance

__all__ = [
    "CLEARANCE_FORM",
    "DAY_SECONDS",
    "HOUR_SECONDS",
    "MINUTE_SECONDS",
    "PACE_FORM",
    "WINDOWS",
    "Forecast",
    "HeldAtGate",
    "Limit",
    "Pace",
    "ReleasedClearance",
    "Use",
    "first_stretch",
    "forecast_run",
    "grant_permits",
    "pace_sentence",
    "stretch_of",
]
