"""Pictures that letters show."""

from datetime import datetime

from sqlalchemy import Column, LargeBinary
from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import id_column, instant_column, reference, text_column


class KeptPicture(SQLModel, table=True):
    """A picture as it is sent; the same one is kept once, under the digest of its bytes. `kind` is jpg, png or gif."""

    __tablename__ = "picture"
    id: int | None = Field(default=None, sa_column=id_column())
    digest: str = Field(sa_column=text_column(unique=True))
    kind: str = Field(sa_column=text_column())
    name: str = Field(sa_column=text_column())
    width: int
    height: int
    content: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    created_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
