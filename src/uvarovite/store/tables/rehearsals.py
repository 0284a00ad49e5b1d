"""Rehearsals: runs in the simulated world."""

from datetime import datetime

from sqlalchemy import BigInteger, Column
from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import id_column, instant_column, reference, text_column


class Rehearsal(SQLModel, table=True):
    """A run of a campaign in the simulated world, of which everything that it writes stands in a schema of its own.

    It begins at `starts_at` in its own time, and `its_time` is how far it has come. It is over at `ended_at` by everybody
    else's clock; `trouble` is why it did not come to an end. `run_id` is the number of its run within its schema, and of so many
    `planned` messages so many were `accepted` there when it was over.
    """

    __tablename__ = "rehearsal"
    id: int | None = Field(default=None, sa_column=id_column())
    campaign_id: int = Field(sa_column=reference("campaign.id", index=True))
    scenario: str = Field(sa_column=text_column())
    starts_at: datetime = Field(sa_column=instant_column())
    asked_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    asked_at: datetime = Field(sa_column=instant_column())
    begun_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    heard_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    its_time: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    ended_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    run_id: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    planned: int | None = None
    accepted: int | None = None
    trouble: str | None = Field(default=None, sa_column=text_column(nullable=True))
