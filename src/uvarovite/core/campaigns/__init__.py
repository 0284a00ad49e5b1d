"""Campaigns: pace, permits, and the forecast that a pace gives."""

from uvarovite.core.campaigns.forecast import Forecast, forecast_run
from uvarovite.core.campaigns.pace import Pace, pace_sentence
from uvarovite.core.campaigns.permits import HOUR, Permit, grant_permits

__all__ = ["HOUR", "Forecast", "Pace", "Permit", "forecast_run", "grant_permits", "pace_sentence"]
