"""What a clearance is taken for: the topic, what the organisation allows, and what the campaign says."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Any

from uvarovite.core.expressions import SqlFragment

WEEK_DAYS, MONTH_DAYS = 7, 30
# What was in hand when a run was stopped is settled a little later, or when its lease runs out.
SETTLED_LATE = timedelta(days=1)


class KeptRecord(StrEnum):
    """Which of several records with one address gets the mail."""

    FIRST_ADDED = "first_added"
    LAST_CHANGED = "last_changed"
    FULLEST = "fullest"


class Again(StrEnum):
    """Who gets a campaign that is released again, or a message that another campaign sent already.

    NEW_TO_MESSAGE leaves out who got the message in any of its versions, NEW_TO_CAMPAIGN who got anything of the
    campaign.
    """

    NEW_TO_MESSAGE = "new_to_message"
    NEW_TO_CAMPAIGN = "new_to_campaign"
    EVERYBODY = "everybody"


@dataclass(frozen=True, slots=True, kw_only=True)
class Caps:
    """How many messages one person may get in any 7 and in any 30 days: of all mail, and of the topic's; None: no cap."""

    week: int | None = None
    month: int | None = None
    topic_week: int | None = None
    topic_month: int | None = None

    def in_force(self) -> dict[str, int]:
        """The caps that there are, by name."""
        named = {
            "week": self.week,
            "month": self.month,
            "topic_week": self.topic_week,
            "topic_month": self.topic_month,
        }
        return {name: cap for name, cap in named.items() if cap is not None}


@dataclass(frozen=True, slots=True, kw_only=True)
class RunLately:
    """A run that may have sent something within the last MONTH_DAYS, or, `ended_at` being None, is not through yet.

    `planned` is how many it was planned for: about how many it reaches.
    """

    id: int
    topic_id: int
    planned: int
    ended_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Needed:
    """A field that a message cannot do without: `blank` is the condition over `contact` that it has no value."""

    key: str
    label: str
    blank: SqlFragment


@dataclass(frozen=True, slots=True, kw_only=True)
class ClearanceTerms:
    """Everything that gates ask besides the person. `lifted` holds the keys of gates that hold nobody.

    `now` is aware. Without a campaign nobody has got it already; without a topic nobody has opted in. `double_opt_in` of
    None is for several topics at once: what each of them demands is read from the alias `topic`. `lately` are all the
    runs that caps could be about; without one that is going or was lately, nothing is on its
    way. `own_limits`: somebody wants fewer. `on_paper` asks who gets a letter on paper: other gates stand before that. `is_taken`: these very terms
    were asked in this transaction already, and the answer is kept.
    """

    now: datetime
    topic_id: int | None
    double_opt_in: bool | None = False
    caps: Caps = field(default_factory=Caps)
    kept: KeptRecord = KeptRecord.FIRST_ADDED
    campaign_id: int | None = None
    message_id: int | None = None
    again: Again = Again.EVERYBODY
    needed: tuple[Needed, ...] = ()
    lifted: frozenset[str] = frozenset()
    lately: tuple[RunLately, ...] = ()
    own_limits: bool = False
    on_paper: bool = False
    is_taken: bool = False

    @property
    def any_going(self) -> bool:
        """Can any run have something left to send, or in hand?"""
        return any(run.ended_at is None or run.ended_at > self.now - SETTLED_LATE for run in self.lately)

    @property
    def looks_back(self) -> bool:
        """Is there something that somebody may have got already?"""
        asked = {Again.NEW_TO_CAMPAIGN: self.campaign_id, Again.NEW_TO_MESSAGE: self.message_id}
        return asked.get(self.again) is not None

    def parameters(self) -> Mapping[str, Any]:
        """What the gates' SQL binds."""
        bound: dict[str, Any] = {"now": self.now, "topic_id": self.topic_id}
        for name, cap in self.caps.in_force().items():
            bound[f"cap_{name}"] = cap
        bound["runs_asked"] = self.runs_to_look_through()
        if self.on_paper or self.again is Again.NEW_TO_CAMPAIGN:
            bound["campaign_id"] = self.campaign_id
        elif self.again is Again.NEW_TO_MESSAGE:
            bound["message_id"] = self.message_id
        for one in self.needed:
            bound |= one.blank.parameters
        return bound

    def runs_to_look_through(self) -> list[int]:
        """Runs, one of which anybody who has reached a cap must have been in; none when nobody can have reached one.

        A run reaches a person once at most. Somebody who was in `k` of `n` runs is missing in `n - k` of them, so that
        any `n - k + 1` runs hold everybody whom a cap of `k` is about: the smallest will do.
        """
        found: set[int] = set()
        for name, cap in self.caps.in_force().items():
            since = self.now - timedelta(days=WEEK_DAYS if name.endswith("week") else MONTH_DAYS) - SETTLED_LATE
            runs = [
                run
                for run in sorted(self.lately, key=lambda run: run.planned)
                if (run.ended_at is None or run.ended_at > since)
                and (not name.startswith("topic") or run.topic_id == self.topic_id)
            ]
            found.update(run.id for run in runs[: max(0, len(runs) - cap + 1)])
        return sorted(found)
