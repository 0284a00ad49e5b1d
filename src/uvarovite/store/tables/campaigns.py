"""The organisation, who its mail comes from, campaigns and their runs."""

from datetime import datetime

from sqlalchemy import ARRAY, BigInteger, Column, DateTime, Index, UniqueConstraint, text
from sqlmodel import Field, SQLModel

from uvarovite.core.audiences import Again
from uvarovite.core.campaigns import CLEARANCE_FORM, PACE_FORM, ZONES_FORM, Pace, ReleasedClearance
from uvarovite.core.delivery import RUN, RunState
from uvarovite.core.delivery.brake import BRAKED_FORM, Braked
from uvarovite.core.messages import SNAPSHOT_FORM, Snapshot, Tracked
from uvarovite.store.states import states_sql
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    one_of,
    reference,
    text_column,
    texts_column,
)


class Campaign(SQLModel, table=True):
    """Who, words, pace. `revision` counts up with every change; a release names the one that was on screen.

    `again` says who gets it when it is released once more; `lifted` names the gates that hold nobody in its runs; `track_opens` and
    `track_clicks` what is noted of its readers, None: what the organisation says.
    """

    __tablename__ = "campaign"
    __table_args__ = (
        one_of("again", Again, "campaign_again"),
        one_of("track_opens", Tracked, "campaign_track_opens"),
        one_of("track_clicks", Tracked, "campaign_track_clicks"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    topic_id: int | None = Field(default=None, sa_column=reference("topic.id", nullable=True))
    audience_id: int | None = Field(default=None, sa_column=reference("audience.id", nullable=True))
    message_id: int | None = Field(default=None, sa_column=reference("message.id", nullable=True))
    sender_id: int | None = Field(default=None, sa_column=reference("sender.id", nullable=True))
    pool_id: int | None = Field(default=None, sa_column=reference("relay_pool.id", nullable=True))
    pace: Pace = Field(sa_column=form_column(PACE_FORM))
    again: str = Field(default=Again.NEW_TO_MESSAGE, sa_column=text_column())
    lifted: list[str] = Field(default_factory=list, sa_column=texts_column())
    track_opens: str | None = Field(default=None, sa_column=text_column(nullable=True))
    track_clicks: str | None = Field(default=None, sa_column=text_column(nullable=True))
    revision: int = 1
    updated_at: datetime = Field(sa_column=instant_column())
    updated_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))


class CampaignPreview(SQLModel, table=True):
    """Whom somebody saw cleared before a release, so that what changed since can be named. One for each campaign."""

    __tablename__ = "campaign_preview"
    campaign_id: int = Field(sa_column=reference("campaign.id", primary_key=True, cascade=True))
    revision: int
    taken_at: datetime = Field(sa_column=instant_column())
    cleared: list[int] = Field(sa_column=Column(ARRAY(BigInteger), nullable=False))


class Run(SQLModel, table=True):
    """One release of a campaign, with everything that it was released with.

    Until its first `slice_batches` are through and have been judged, no others are claimed; `slice_until` is when they are
    judged. `released_pace` is what it was released with, once it goes at another. `brake` is why it paused by itself; answers up to the attempt `brake_after` count no more.
    `again_of` is the run whose people it is for, who did not get it there. Of its unknown so many are decided about. Its messages are
    signed with `signing_keys`, and those of no other. With `is_public` anybody may read it as it is for nobody in particular. Where each reader's own clock decides, `readers` says how many name which
    time zone.
    """

    __tablename__ = "run"
    __table_args__ = (
        one_of("state", RunState, "run_state"),
        UniqueConstraint("campaign_id", "number", name="run_number"),
        Index(
            "run_one_at_a_time", "campaign_id", unique=True, postgresql_where=text(f"state IN ({states_sql(RUN.open)})")
        ),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    campaign_id: int = Field(sa_column=reference("campaign.id"))
    number: int
    state: str = Field(default=RUN.start, sa_column=text_column())
    topic_id: int = Field(sa_column=reference("topic.id"))
    audience_id: int | None = Field(
        default=None, sa_column=reference("audience.id", nullable=True, on_delete="SET NULL")
    )
    message_version_id: int = Field(sa_column=reference("message_version.id"))
    pool_id: int = Field(sa_column=reference("relay_pool.id"))
    pace: Pace = Field(sa_column=form_column(PACE_FORM))
    released_pace: Pace | None = Field(default=None, sa_column=form_column(PACE_FORM, nullable=True))
    criteria: str = Field(sa_column=text_column())
    snapshot: Snapshot = Field(sa_column=form_column(SNAPSHOT_FORM))
    clearance: ReleasedClearance = Field(sa_column=form_column(CLEARANCE_FORM))
    planned: int
    released_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    released_at: datetime = Field(sa_column=instant_column())
    next_batch_at: datetime = Field(sa_column=instant_column())
    paused_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    ended_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    slice_batches: int | None = None
    slice_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    brake: Braked | None = Field(default=None, sa_column=form_column(BRAKED_FORM, nullable=True))
    brake_after: int = Field(default=0, sa_column=Column(BigInteger, nullable=False))
    again_of: int | None = Field(default=None, sa_column=reference("run.id", nullable=True))
    unknown_decided: int = 0
    signing_keys: list[int] = Field(default_factory=list, sa_column=Column(ARRAY(BigInteger), nullable=False))
    is_public: bool = False
    readers: dict[str, int] | None = Field(default=None, sa_column=form_column(ZONES_FORM, nullable=True))


class RunPause(SQLModel, table=True):
    """When a run was paused; the last has no end while it is."""

    __tablename__ = "run_pause"
    run_id: int = Field(sa_column=reference("run.id", primary_key=True))
    began_at: datetime = Field(sa_column=Column(DateTime(timezone=True), primary_key=True))
    ended_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class PlannedRelease(SQLModel, table=True):
    """A release that goes at a moment by itself, as it was on screen; `trouble` is why it did not."""

    __tablename__ = "planned_release"
    __table_args__ = (UniqueConstraint("campaign_id", name="planned_release_campaign_id_key"),)
    id: int | None = Field(default=None, sa_column=id_column())
    campaign_id: int = Field(sa_column=reference("campaign.id"))
    at: datetime = Field(sa_column=instant_column())
    revision: int
    message_number: int
    cleared: int
    planned_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    trouble: str | None = Field(default=None, sa_column=text_column(nullable=True))
