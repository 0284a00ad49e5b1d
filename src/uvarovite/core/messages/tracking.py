"""What is noted of those who open a message and follow its links."""

from dataclasses import dataclass
from enum import StrEnum


class Tracked(StrEnum):
    """Who did it, that somebody did, or nothing at all: the later, the less."""

    BY_PERSON = "by_person"
    COUNTED = "counted"
    OFF = "off"


def least(*told: Tracked) -> Tracked:
    """What is noted where several have a say: as little as the strictest of them wants."""
    return max(told, key=list(Tracked).index)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tracking:
    """What is noted of opens and of clicks."""

    opens: Tracked = Tracked.BY_PERSON
    clicks: Tracked = Tracked.BY_PERSON

    def within(self, wish: Tracked | None) -> "Tracking":
        """The same for somebody who wishes that no more than this is noted of them."""
        if wish is None:
            return self
        return Tracking(opens=least(self.opens, wish), clicks=least(self.clicks, wish))


_NOTED = {Tracked.COUNTED: "counted, but not by whom", Tracked.OFF: "not noted"}


def tracking_words(tracking: Tracking) -> str:
    """A sentence behind others about what is not noted by person, "" where all is."""
    told = [
        f"{what} are {_NOTED[level]}"
        for what, level in (("opens", tracking.opens), ("clicks", tracking.clicks))
        if level is not Tracked.BY_PERSON
    ]
    return f" {' and '.join(told).capitalize()}." if told else ""
