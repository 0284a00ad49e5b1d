"""What left the application with people in it, besides messages to them."""

from datetime import datetime

from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import id_column, instant_column, reference, text_column, texts_column


class TableMail(SQLModel, table=True):
    """A table of contacts that somebody sent by mail: to whom, how many people, which columns, what the relay said."""

    __tablename__ = "table_mail"
    id: int | None = Field(default=None, sa_column=id_column())
    at: datetime = Field(sa_column=instant_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    to_address: str = Field(sa_column=text_column())
    contacts: int
    columns: list[str] = Field(sa_column=texts_column())
    form: str = Field(sa_column=text_column())
    accepted: bool
    answer: str = Field(sa_column=text_column())
