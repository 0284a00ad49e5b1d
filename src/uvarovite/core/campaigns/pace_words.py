"""A pace in words, and the paces that one can begin from."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from uvarovite.core.campaigns.opening import DAY_MINUTES, SendingWindow
from uvarovite.core.campaigns.pace import Brake, FirstSlice, Pace, RampUp
from uvarovite.core.campaigns.permits import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS
from uvarovite.core.campaigns.road import Cause, Waited

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_A_WINDOW = {MINUTE_SECONDS: "a minute", HOUR_SECONDS: "an hour", DAY_SECONDS: "in 24 hours"}
_LIMIT = {MINUTE_SECONDS: "limit a minute", HOUR_SECONDS: "hourly limit", DAY_SECONDS: "daily limit"}


def _duration(seconds: int) -> str:
    if seconds >= 3_600 and seconds % 3_600 == 0:
        return f"{seconds // 3_600} h"
    if seconds >= 60 and seconds % 60 == 0:
        return f"{seconds // 60} min"
    return f"{seconds} s"


def _share(percent: float) -> str:
    return f"{percent:g} %"


def _clock(minutes: int) -> str:
    return f"{minutes // 60}:{minutes % 60:02}"


def days_words(days: Iterable[int]) -> str:
    """Days of the week, such as "Monday to Friday" or "Tuesday and Thursday"."""
    told = sorted(days)
    if len(told) == 7:
        return "every day"
    if len(told) > 2 and told[-1] - told[0] == len(told) - 1:
        return f"{DAYS[told[0]]} to {DAYS[told[-1]]}"
    names = [DAYS[day] for day in told]
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def window_words(window: SendingWindow) -> str:
    """A sending window, such as "Monday to Friday, 9:00 to 17:00"."""
    told = days_words(window.days)
    if (window.opens, window.closes) != (0, DAY_MINUTES):
        told = f"{told}, {_clock(window.opens)} to {_clock(window.closes)}"
    return f"{told} by each reader’s own clock" if window.zone_field else told


def pace_sentence(pace: Pace, relay_limits: Mapping[int, int]) -> str:
    """The pace in words, such as "50 at a time, every 5 min, at most 200 an hour".

    Of two limits that are about the same the lower is said.
    """
    parts = [f"{pace.batch_size:,} at a time"]
    parts.append(f"every {_duration(pace.gap_seconds)}" if pace.gap_seconds else "without a gap")
    for seconds, words in _A_WINDOW.items():
        limits = [told[seconds] for told in (pace.limits, relay_limits) if seconds in told]
        if limits:
            parts.append(f"at most {min(limits):,} {words}")
    if pace.ramp_up:
        parts.append(
            f"{pace.ramp_up.first_day:,} on the first day, {pace.ramp_up.factor:g} times as many each sending day after"
        )
    if pace.window:
        parts.append(window_words(pace.window))
    if pace.quiet_dates:
        parts.append(f"not on {len(pace.quiet_dates)} quiet {'date' if len(pace.quiet_dates) == 1 else 'dates'}")
    if pace.first_slice:
        parts.append(f"first {pace.first_slice.people:,} and a wait of {_duration(pace.first_slice.wait_minutes * 60)}")
    return ", ".join(parts)


def waited_words(waited: Waited, relay: str) -> str:
    """What a run waited for: "the hourly limit of Main relay"."""
    match waited.cause:
        case Cause.RELAY_LIMIT:
            return f"the {_LIMIT[waited.limit_seconds]} of {relay}"
        case Cause.OWN_LIMIT:
            return f"the campaign’s own {_LIMIT[waited.limit_seconds]}"
        case cause:
            return _CAUSES[cause].format(relay=relay)


_CAUSES = {
    Cause.RELAY_SPEED: "{relay} taking the messages",
    Cause.GAP: "the gap between batches",
    Cause.WINDOW: "the sending window",
    Cause.PAUSE: "somebody who paused it",
    Cause.FIRST_SLICE: "the wait after the first slice",
    Cause.RAMP_UP: "the ramp-up",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """A pace to begin from. `about` says what it is good for."""

    key: str
    name: str
    about: str
    pace: Pace


_CAREFUL = Brake()

PRESETS = (
    Preset(
        key="gentle",
        name="Gentle",
        about="A few at a time, so that replies can be answered as they come.",
        pace=Pace(
            batch_size=20,
            gap_seconds=300,
            hourly_limit=200,
            first_slice=FirstSlice(people=20, wait_minutes=30),
            brake=_CAREFUL,
        ),
    ),
    Preset(
        key="office_hours",
        name="Office hours",
        about="While somebody is there who answers the telephone.",
        pace=Pace(batch_size=50, gap_seconds=900, hourly_limit=200, window=SendingWindow(), brake=_CAREFUL),
    ),
    Preset(
        key="warming_up",
        name="Warming up",
        about="For a sender or a relay that providers do not know yet: a few on the first day, twice as many each day.",
        pace=Pace(
            batch_size=50,
            gap_seconds=600,
            ramp_up=RampUp(first_day=200, factor=2.0),
            first_slice=FirstSlice(people=50, wait_minutes=120, bounce_percent=3.0),
            brake=_CAREFUL,
        ),
    ),
    Preset(
        key="fast",
        name="As fast as allowed",
        about="Only the relay’s own limits hold it back.",
        pace=Pace(batch_size=500, gap_seconds=0, brake=_CAREFUL),
    ),
)
