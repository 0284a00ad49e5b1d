"""Letters on paper: what was laid out, for whom, and whether it was printed; and who wants no post."""

from datetime import datetime

from sqlalchemy import BigInteger, Column, Index, LargeBinary, text
from sqlmodel import Field, SQLModel

from uvarovite.core.messages.paper import Paper
from uvarovite.store.tables.columns import id_column, instant_column, one_of, reference, text_column


class Printing(SQLModel, table=True):
    """Letters of a campaign that were laid out together. At most one of a campaign waits for being printed.

    `heard_at` is when the process that makes it was last heard of, `done` how many letters are laid out by then. It ends
    by `printed_at` or by `dropped_at`.
    """

    __tablename__ = "printing"
    __table_args__ = (
        one_of("paper", Paper, "printing_paper"),
        Index(
            "printing_open",
            "campaign_id",
            unique=True,
            postgresql_where=text("printed_at IS NULL AND dropped_at IS NULL"),
        ),
        Index("printing_by_campaign", "campaign_id"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    campaign_id: int = Field(sa_column=reference("campaign.id", cascade=True))
    message_version_id: int = Field(sa_column=reference("message_version.id"))
    paper: str = Field(sa_column=text_column())
    letters: int
    pages: int = 0
    done: int = 0
    fault: str = Field(default="", sa_column=text_column())
    begun_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    begun_at: datetime = Field(sa_column=instant_column())
    heard_at: datetime = Field(sa_column=instant_column())
    made_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    printed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    printed_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    dropped_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class PrintingFile(SQLModel, table=True):
    """The PDF of a printing, as long as it is kept."""

    __tablename__ = "printing_file"
    printing_id: int = Field(sa_column=reference("printing.id", primary_key=True, cascade=True))
    pdf: bytes = Field(sa_column=Column(LargeBinary, nullable=False))


class PrintedLetter(SQLModel, table=True):
    """Whose letter stands in a printing: `place` from 1 in the order of postcodes, `page` the first of its `pages`."""

    __tablename__ = "printed_letter"
    __table_args__ = (Index("printed_letter_by_contact", "contact_id"),)
    printing_id: int = Field(sa_column=reference("printing.id", primary_key=True, cascade=True))
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    place: int = 0
    page: int = 0
    pages: int = 0


class PostRefusal(SQLModel, table=True):
    """Somebody who wants no letters on paper, and what they said."""

    __tablename__ = "post_refusal"
    contact_id: int = Field(sa_column=reference("contact.id", primary_key=True))
    at: datetime = Field(sa_column=instant_column())
    wording: str = Field(sa_column=text_column())
    recorded_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
