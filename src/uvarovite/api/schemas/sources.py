"""Requests about live sources."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.services.sources.live_sources import ScheduleDraft, SourceAccessDraft, SourceDraft


class AccessAsk(BaseModel):
    """How a database is reached; a `password` of None leaves the stored one of `source_id`."""

    kind: str = Field(max_length=20)
    database: str = Field(default="", max_length=400)
    host: str = Field(default="", max_length=253)
    port: int | None = Field(default=None, ge=1, le=65_535)
    username: str = Field(default="", max_length=200)
    password: str | None = Field(default=None, max_length=1_000)
    tls: bool = False
    source_id: Id | None = None

    def draft(self) -> SourceAccessDraft:
        """What the service takes."""
        return SourceAccessDraft(**self.model_dump())


class SourcePreviewAsk(BaseModel):
    """A table or view, or a SELECT of one's own."""

    access: AccessAsk
    table: str = Field(default="", max_length=400)
    select: str = Field(default="", max_length=25_000)


class ScheduleSave(BaseModel):
    """When a source is pulled by itself."""

    every: str = Field(max_length=10)
    at: str = Field(default="05:00", max_length=10)
    weekday: int = Field(default=0, ge=0, le=6)


class SourceSave(BaseModel):
    """A source as edited; `revision` is the one that was on screen."""

    name: str = Field(max_length=200)
    access: AccessAsk
    table: str = Field(default="", max_length=400)
    select: str = Field(default="", max_length=25_000)
    schedule: ScheduleSave | None = None
    before_runs: bool = False
    gone_tag: str = Field(default="", max_length=200)
    revision: Count | None = None

    def draft(self) -> SourceDraft:
        """What the service takes."""
        told = self.model_dump(exclude={"access", "schedule"})
        schedule = ScheduleDraft(**self.schedule.model_dump()) if self.schedule else None
        return SourceDraft(access=self.access.draft(), schedule=schedule, **told)
