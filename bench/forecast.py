"""The forecast of a million messages, by paces that differ in what holds them up. Under 50 ms is meant for each."""

import statistics
import time
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from uvarovite.core.campaigns import (
    DAY_SECONDS,
    HOUR_SECONDS,
    MINUTE_SECONDS,
    PRESETS,
    Capacity,
    DomainLimit,
    FirstSlice,
    Lateness,
    Pace,
    RampUp,
    SendingWindow,
    forecast_run,
)

COUNT, ROUNDS = 1_000_000, 15
START, ZONE = datetime(2026, 12, 4, 9, tzinfo=UTC), ZoneInfo("Europe/London")
CAPACITY = Capacity(limits={MINUTE_SECONDS: 500, HOUR_SECONDS: 20_000, DAY_SECONDS: 200_000}, others=(5_000,))
DOMAINS = {"quartzmail.example": 200_000}
ALL_OF_IT = Pace(
    batch_size=50,
    gap_seconds=1,
    minute_limit=1_000,
    hourly_limit=20_000,
    daily_limit=100_000,
    window=SendingWindow(),
    ramp_up=RampUp(first_day=500),
    domain_limits=(DomainLimit(domain="quartzmail.example", hourly=2_000),),
    first_slice=FirstSlice(),
)


def main() -> None:
    """Print milliseconds for each pace."""
    print(f"\nforecast of {COUNT:,} messages, median of {ROUNDS} (under 50 ms meant)")
    lateness = Lateness(share=0.1, delays_seconds=(300, 900, 3_600, 14_400))
    for name, pace in [*((one.name, one.pace) for one in PRESETS), ("All of it", ALL_OF_IT)]:
        took = []
        for _ in range(ROUNDS):
            begin = time.perf_counter()
            forecast_run(COUNT, pace, CAPACITY, START, ZONE, domains=DOMAINS, lateness=lateness)
            took.append(time.perf_counter() - begin)
        print(f"  {name:20} {1e3 * statistics.median(took):6.1f} ms")
