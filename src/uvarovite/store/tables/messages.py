"""Messages, their versions, and what is said of their words."""

from datetime import datetime

from sqlalchemy import UniqueConstraint
from sqlmodel import Field, SQLModel

from uvarovite.core.messages import CONTENT_FORM, MessageContent
from uvarovite.store.tables.columns import form_column, id_column, instant_column, reference, text_column


class Message(SQLModel, table=True):
    """A message by name; its words are its latest version. `revision` counts up with every change, of its name too.

    One that is put away stands in no list; new ones begin as a starter; the blocks of a shared one stand in others.
    """

    __tablename__ = "message"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    created_at: datetime = Field(sa_column=instant_column())
    revision: int = 1
    updated_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    put_away_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    is_starter: bool = False
    is_shared: bool = False


class MessageVersion(SQLModel, table=True):
    """Words as they were saved once; a trigger refuses to change them, since runs point here.

    Names of files that were uploaded for one person each are all that can go, with the person.
    """

    __tablename__ = "message_version"
    __table_args__ = (UniqueConstraint("message_id", "number", name="message_version_number"),)
    id: int | None = Field(default=None, sa_column=id_column())
    message_id: int = Field(sa_column=reference("message.id"))
    number: int
    content: MessageContent = Field(sa_column=form_column(CONTENT_FORM))
    created_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column())


class MessageComment(SQLModel, table=True):
    """What somebody says of the words at a block, or of all of them ("" as `block_id`); open until it is done."""

    __tablename__ = "message_comment"
    id: int | None = Field(default=None, sa_column=id_column())
    message_id: int = Field(sa_column=reference("message.id", index=True))
    language: str = Field(sa_column=text_column())
    block_id: str = Field(sa_column=text_column())
    quote: str = Field(sa_column=text_column())
    words: str = Field(sa_column=text_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    at: datetime = Field(sa_column=instant_column())
    done_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    done_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
