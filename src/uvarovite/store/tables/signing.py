"""Keys that messages are signed with."""

from datetime import datetime

from sqlalchemy import UniqueConstraint
from sqlmodel import Field, SQLModel

from uvarovite.core.delivery.dkim import Algorithm
from uvarovite.store.tables.columns import id_column, instant_column, one_of, text_column


class SigningKeyRow(SQLModel, table=True):
    """A key of a domain. `record` is what is to stand in the DNS; `signs`: runs are signed with it from now on.

    It is never removed: what was sent is shown byte for byte, with its signature.
    """

    __tablename__ = "signing_key"
    __table_args__ = (
        one_of("algorithm", Algorithm, "signing_key_algorithm"),
        UniqueConstraint("domain", "selector", name="signing_key_name"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    domain: str = Field(sa_column=text_column())
    selector: str = Field(sa_column=text_column())
    algorithm: str = Field(sa_column=text_column())
    sealed_private: str = Field(sa_column=text_column())
    record: str = Field(sa_column=text_column())
    made_at: datetime = Field(sa_column=instant_column())
    looked_up_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    published_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    signs: bool = False
