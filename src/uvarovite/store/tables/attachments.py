"""Files that go with letters."""

from datetime import datetime

from sqlalchemy import Column, LargeBinary
from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import id_column, instant_column, reference, text_column


class KeptAttachment(SQLModel, table=True):
    """A file as it is sent; the same one is kept once, under the digest of its bytes, by the name that it first had."""

    __tablename__ = "attachment"
    id: int | None = Field(default=None, sa_column=id_column())
    digest: str = Field(sa_column=text_column(unique=True))
    kind: str = Field(sa_column=text_column())
    name: str = Field(sa_column=text_column())
    content: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    created_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column(index=True))
