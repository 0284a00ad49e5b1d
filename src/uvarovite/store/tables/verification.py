"""Which domains can take mail."""

from datetime import datetime

from sqlmodel import Field, SQLModel

from uvarovite.core.contacts.verification import Verdict
from uvarovite.store.tables.columns import instant_column, one_of, plain_key_column, text_column


class DomainCheck(SQLModel, table=True):
    """What the name servers said of a domain last, and when they are asked again."""

    __tablename__ = "domain_check"
    __table_args__ = (one_of("verdict", Verdict, "domain_check_verdict"),)
    domain: str = Field(sa_column=plain_key_column())
    verdict: str = Field(sa_column=text_column())
    reason: str = Field(sa_column=text_column())
    checked_at: datetime = Field(sa_column=instant_column())
    again_at: datetime = Field(sa_column=instant_column())
