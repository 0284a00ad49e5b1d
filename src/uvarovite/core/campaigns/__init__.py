"""Campaigns: pace, permits, and the forecast that a pace gives."""

from uvarovite.core.campaigns.forecast import Capacity, Forecast, Lateness, ceiling, forecast_run, latest_start
from uvarovite.core.campaigns.opening import (
    ZONES_FORM,
    OpeningHours,
    SendingWindow,
    begin_of_day,
    reader_zone,
    zone_names,
)
from uvarovite.core.campaigns.pace import PACE_FORM, Brake, DomainLimit, FirstSlice, Pace, RampUp, faster, slower
from uvarovite.core.campaigns.pace_words import PRESETS, Preset, pace_sentence, waited_words
from uvarovite.core.campaigns.permits import (
    DAY_SECONDS,
    HOUR_SECONDS,
    MINUTE_SECONDS,
    STRETCHES,
    WINDOWS,
    Limit,
    Use,
    first_stretch,
    grant_permits,
    stretch_end,
    stretch_of,
)
from uvarovite.core.campaigns.released import CLEARANCE_FORM, HeldAtGate, ReleasedClearance
from uvarovite.core.campaigns.road import Cause, Waited

__all__ = [
    "CLEARANCE_FORM",
    "DAY_SECONDS",
    "HOUR_SECONDS",
    "MINUTE_SECONDS",
    "PACE_FORM",
    "PRESETS",
    "STRETCHES",
    "WINDOWS",
    "ZONES_FORM",
    "Brake",
    "Capacity",
    "Cause",
    "DomainLimit",
    "FirstSlice",
    "Forecast",
    "HeldAtGate",
    "Lateness",
    "Limit",
    "OpeningHours",
    "Pace",
    "Preset",
    "RampUp",
    "ReleasedClearance",
    "SendingWindow",
    "Use",
    "Waited",
    "begin_of_day",
    "ceiling",
    "faster",
    "first_stretch",
    "forecast_run",
    "grant_permits",
    "latest_start",
    "pace_sentence",
    "reader_zone",
    "slower",
    "stretch_end",
    "stretch_of",
    "waited_words",
    "zone_names",
]
