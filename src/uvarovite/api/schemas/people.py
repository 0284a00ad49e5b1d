"""Requests about one person."""

from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.core.messages import Tracked


class NewPerson(BaseModel):
    """Texts by field key."""

    values: dict[str, str] = Field(max_length=300)


class ValueChange(BaseModel):
    """A field's new value as text, and the stored value that stood on screen."""

    before: Any = None
    text: str = Field(max_length=50_000)


class TagChange(BaseModel):
    """A tag to put on or to take off."""

    name: str = Field(max_length=200)
    put: bool


class TrackingWish(BaseModel):
    """How much may be noted of what a person opens and follows; None: as usual."""

    wish: Tracked | None


class NoteText(BaseModel):
    """What to write down."""

    text: str = Field(max_length=20_000)


class ConsentEntry(BaseModel):
    """What a person said about a topic, and how. `until` ends a pause; `for_address` tells whether leaving or pausing is
    meant for everyone who has the address, None: only where nobody else has it.
    """

    topic: str = Field(max_length=100)
    kind: str = Field(max_length=20)
    wording: str = Field(max_length=1_000)
    until: datetime | None = None
    for_address: bool | None = None


class SuppressEntry(BaseModel):
    """For everything, or for one topic by its key."""

    topic: str | None = Field(default=None, max_length=100)
    reason: str = Field(max_length=1_000)


class PostEntry(BaseModel):
    """What somebody said about letters on paper, and whether they want none."""

    refused: bool
    wording: str = Field(max_length=1_000)


class Why(BaseModel):
    """A reason."""

    reason: str = Field(max_length=1_000)


class MergeAsk(BaseModel):
    """Who stays, who goes, and by field key whose value is taken."""

    kept_id: Id
    gone_ids: list[Id] = Field(max_length=20)
    choices: dict[str, Id] = Field(default_factory=dict, max_length=300)


class DifferentAsk(BaseModel):
    """Of whom it is said, or taken back, that they are different people."""

    ids: list[Id] = Field(min_length=2, max_length=20)
    different: bool = True


class MergeAll(BaseModel):
    """Merge every group; `seen` is how many stood on screen."""

    by: str = Field(max_length=63)
    keep: str = Field(max_length=10)
    seen: Count
