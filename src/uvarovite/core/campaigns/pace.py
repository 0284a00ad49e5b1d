"""How fast a campaign may go."""

from pydantic import BaseModel, ConfigDict, Field

from uvarovite.core.values import StoredForm, form_of


class Pace(BaseModel):
    """Batches of `batch_size` people begin at least `gap_seconds` apart; at most `hourly_limit` in any hour.

    The relay's own limit holds besides; the slower of the two decides.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    batch_size: int = Field(default=50, ge=1, le=5_000)
    gap_seconds: int = Field(default=60, ge=0, le=86_400)
    hourly_limit: int | None = Field(default=None, ge=1, le=1_000_000)

    def limit_with(self, relay_limit: int | None) -> int | None:
        """The hourly limit that holds when a relay's own is counted in; None when there is none."""
        limits = [limit for limit in (self.hourly_limit, relay_limit) if limit is not None]
        return min(limits) if limits else None


PACE_FORM: StoredForm[Pace] = form_of(Pace)


def _duration(seconds: int) -> str:
    if seconds >= 3_600 and seconds % 3_600 == 0:
        return f"{seconds // 3_600} h"
    if seconds >= 60 and seconds % 60 == 0:
        return f"{seconds // 60} min"
    return f"{seconds} s"


def pace_sentence(pace: Pace, relay_limit: int | None) -> str:
    """The pace in words, such as "50 at a time, every 5 min, at most 200 an hour"."""
    parts = [f"{pace.batch_size:,} at a time"]
    parts.append(f"every {_duration(pace.gap_seconds)}" if pace.gap_seconds else "without a gap")
    if limit := pace.limit_with(relay_limit):
        parts.append(f"at most {limit:,} an hour")
    return ", ".join(parts)
