"""What the providers remember, and what they answer. Decisions are pure; a seed makes them repeatable."""

from collections import Counter
from dataclasses import dataclass, field
from enum import StrEnum

from uvarovite.rehearsal.providers import (
    GREYLIST_SECONDS,
    HOUR_SECONDS,
    LATER_SECONDS,
    RATE_WINDOW_SECONDS,
    Provider,
    Scenario,
    Stage,
    draw,
)
from uvarovite.rehearsal.scenarios import SCENARIOS


class Word(StrEnum):
    """What comes back later of a message that was taken: a report in its standard form or in words alone, or a complaint."""

    FORM = "form"
    WORDS = "words"
    COMPLAINT = "complaint"


@dataclass(slots=True, kw_only=True)
class World:
    """`speed` compresses the providers' time; `now` comes in seconds with each call. The scenario may change at any moment."""

    seed: int
    speed: float = 1.0
    scenario: Scenario = field(default_factory=lambda: SCENARIOS["ordinary"])
    first_seen: dict[tuple[str, str], float] = field(default_factory=dict)
    taken: dict[tuple[str, str], list[float]] = field(default_factory=dict)
    _times: Counter[tuple[str, ...]] = field(default_factory=Counter)

    def answer_sender(self) -> str | None:
        """The reply to MAIL FROM where it is no; without the final line end."""
        return self.scenario.manner.refuses_us

    def answer_recipient(self, sender: str, recipient: str, now: float, source: str = "") -> str:
        """The reply to RCPT TO, without the final line end."""
        provider = self.scenario.provider_of(recipient)
        local = recipient.rpartition("@")[0].lower()
        if provider.unknown_share and draw(self.seed, "unknown", local) < provider.unknown_share:
            return "550 5.1.1 There is nobody of that name here"
        if provider.full_share and draw(self.seed, "full", local) < provider.full_share:
            return "452 4.2.2 The mailbox is full"
        if provider.greylists:
            first = self.first_seen.setdefault((sender.lower(), recipient.lower()), now)
            left = GREYLIST_SECONDS / self.speed - (now - first)
            if left > 0:
                return f"451 4.7.1 Greylisted, come back in {max(1, round(left))} seconds"
        return self._limited(provider, source, now) or "250 2.1.5 Recipient ok"

    def _limited(self, provider: Provider, source: str, now: float) -> str | None:
        """The refusal of a source that sends too fast; what is let through counts."""
        if provider.per_window is None and provider.per_hour is None:
            return None
        hour, window = HOUR_SECONDS / self.speed, RATE_WINDOW_SECONDS / self.speed
        recent = [at for at in self.taken.get((provider.domain, source), []) if at > now - hour]
        if provider.per_hour is not None and len(recent) >= provider.per_hour:
            return "452 4.7.28 Too many messages from you within an hour"
        lately = sum(at > now - window for at in recent)
        if provider.per_window is not None and lately >= provider.per_window:
            return "450 4.7.28 Too many messages from you, slow down"
        self.taken[provider.domain, source] = [*recent, now]
        return None

    def answer_text(self, recipient: str) -> str | None:
        """The refusal of a message that was read, None for none; the same for a person each time."""
        provider = self.scenario.provider_of(recipient)
        local = recipient.rpartition("@")[0].lower()
        if provider.late_share and draw(self.seed, "late", local) < provider.late_share:
            return "550 5.7.1 The text of this message is not wanted here"
        return None

    def word_of(self, recipient: str) -> Word | None:
        """What comes back later of a message that was taken, if anything; the same for a person each time."""
        provider = self.scenario.provider_of(recipient)
        drawn = draw(self.seed, "word", recipient.rpartition("@")[0].lower())
        if drawn < provider.report_share:
            return Word.FORM if drawn < provider.report_share / 2 else Word.WORDS
        return Word.COMPLAINT if drawn < provider.report_share + provider.complaint_share else None

    @property
    def later_seconds(self) -> float:
        """How long word takes to come back."""
        return LATER_SECONDS / self.speed

    def drops(self, stage: Stage, who: str = "") -> bool:
        """Is the connection dropped here? Asked again of the same, it is drawn anew."""
        share = self.scenario.manner.drops.get(stage, 0.0)
        if not share:
            return False
        asked = (stage.value, who)
        self._times[asked] += 1
        return draw(self.seed, *asked, str(self._times[asked])) < share
