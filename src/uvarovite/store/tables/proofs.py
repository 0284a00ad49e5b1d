"""Sheets of proofs, and which letters somebody has read and found right."""

from datetime import datetime

from sqlmodel import Field, SQLModel

from uvarovite.core.messages.proof_sheet import PROOF_SHEET_FORM, ProofSheet
from uvarovite.store.tables.columns import form_column, instant_column, key_column, reference, text_column


class ProofSheetRow(SQLModel, table=True):
    """The latest sheet of a campaign, and the one that is being made. `made_of` tells what went into it, in one text.

    While one is being made, `making` is what it will be of and `heard_at` when its process was last heard of.
    """

    __tablename__ = "proof_sheet"
    campaign_id: int = Field(sa_column=reference("campaign.id", primary_key=True, cascade=True))
    made_of: str = Field(default="", sa_column=text_column())
    sheet: ProofSheet | None = Field(default=None, sa_column=form_column(PROOF_SHEET_FORM, nullable=True))
    made_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    making: str = Field(default="", sa_column=text_column())
    done: int = 0
    total: int = 0
    heard_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class ProofSeen(SQLModel, table=True):
    """A letter that was read and found right: the very letter, so that the same one need not be read again."""

    __tablename__ = "proof_seen"
    campaign_id: int = Field(sa_column=reference("campaign.id", primary_key=True, cascade=True))
    contact_id: int = Field(sa_column=reference("contact.id", primary_key=True, cascade=True))
    digest: str = Field(sa_column=key_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    at: datetime = Field(sa_column=instant_column())
