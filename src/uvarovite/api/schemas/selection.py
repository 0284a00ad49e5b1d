"""Requests about many contacts at once."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.services.selection.bulk import Selection
from uvarovite.services.selection.table import Wanted


class Selected(BaseModel):
    """Ticked contacts, or all that match; `seen` is how many stood on screen."""

    ids: list[Id] | None = Field(default=None, max_length=100_000)
    search: str = Field(default="", max_length=200)
    criteria: str = Field(default="", max_length=20_000)
    seen: Count

    def selection(self) -> Selection:
        """What the service takes."""
        if self.ids is not None:
            return Selection(ids=tuple(self.ids), seen=self.seen)
        return Selection(wanted=Wanted(search=self.search, criteria=self.criteria), seen=self.seen)


class TagMany(BaseModel):
    """A tag to put on, or to take off."""

    who: Selected
    name: str = Field(max_length=200)
    put: bool = True


class PickMany(BaseModel):
    """An audience, and whether they are added or left_out."""

    who: Selected
    audience_id: Id
    kind: str = Field(max_length=20)


class SetMany(BaseModel):
    """A field and its value as text."""

    who: Selected
    key: str = Field(max_length=63)
    text: str = Field(max_length=10_000)


class SubscribeMany(BaseModel):
    """A topic by its key, and the legal basis."""

    who: Selected
    topic: str = Field(max_length=100)
    legal_basis: str = Field(max_length=1_000)


class SuppressMany(BaseModel):
    """Why."""

    who: Selected
    reason: str = Field(max_length=1_000)


class WhoOnly(BaseModel):
    """Nobody but those selected."""

    who: Selected


class ExportAsk(BaseModel):
    """Columns by key, and csv or xlsx."""

    who: Selected
    columns: list[str] = Field(max_length=100)
    form: str = Field(max_length=10)


class TableMailAsk(BaseModel):
    """Columns by key, csv or xlsx, and whom it goes to."""

    who: Selected
    columns: list[str] = Field(max_length=100)
    form: str = Field(max_length=10)
    to_address: str = Field(max_length=320)
    note: str = Field(default="", max_length=5_000)
