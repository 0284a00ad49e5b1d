"""Requests about rehearsals, and what is answered."""

from datetime import datetime

from pydantic import BaseModel, Field

from uvarovite.services.rehearsals.asking import RehearsalLine


class RehearsalWish(BaseModel):
    """The scenario, and the moment at which it begins in its own time: now, where none is given."""

    scenario: str = Field(max_length=40)
    starts_at: datetime | None = None


class ScenarioChoice(BaseModel):
    """A way for the simulated world to be."""

    name: str
    about: str


class RehearsalsOf(BaseModel):
    """The rehearsals of a campaign; so many are kept."""

    scenarios: list[ScenarioChoice]
    most: int
    rehearsals: list[RehearsalLine]
