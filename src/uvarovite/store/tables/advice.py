"""Advice that somebody accepted, in the words that it had then."""

from datetime import datetime

from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import instant_column, key_column, reference, text_column


class AcceptedAdvice(SQLModel, table=True):
    """A piece of advice on a campaign that is right as it is; `digest` is of its words, so that other words are not."""

    __tablename__ = "accepted_advice"
    campaign_id: int = Field(sa_column=reference("campaign.id", primary_key=True, cascade=True))
    digest: str = Field(sa_column=key_column())
    message: str = Field(sa_column=text_column())
    reason: str = Field(sa_column=text_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    at: datetime = Field(sa_column=instant_column())
