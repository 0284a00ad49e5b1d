"""Campaigns: pace, permits, and the forecast that a pace gives."""

from uvarovite.core.campaigns.forecast import Forecast, forecast_run
from uvarovite.core.campaigns.pace import PACE_FORM, Pace, pace_sentence
from uvarovite.core.campaigns.permits import HOUR, Permit, grant_permits
from uvarovite.core.campaigns.released import CLEARANCE_FORM, HeldAtGate, ReleasedClearance

__all__ = [
    "CLEARANCE_FORM",
    "HOUR",
    "PACE_FORM",
    "Forecast",
    "HeldAtGate",
    "Pace",
    "Permit",
    "ReleasedClearance",
    "forecast_run",
    "grant_permits",
    "pace_sentence",
]
