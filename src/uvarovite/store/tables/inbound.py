"""Mail that comes in."""

from datetime import datetime

from sqlalchemy import BigInteger, Column, Index, LargeBinary, text
from sqlmodel import Field, SQLModel

from uvarovite.core.responses.groups import ReplyAct
from uvarovite.store.tables.columns import (
    id_column,
    instant_column,
    key_column,
    one_of,
    reference,
    text_column,
    texts_column,
)


class InboundMail(SQLModel, table=True):
    """A message that came in, as it came; what it is and what was done about it is known from `acted_at` on.

    `times` is how often the very same came, `sender` and `recipients` are those of its envelope. `raw` is let go of after a
    while, and with whoever it is about is erased. `matched_by` says how its delivery was found. A reply is looked after by
    whom it is `assigned_to` until it is done; one that is to be forwarded is tried at `forward_at`.
    """

    __tablename__ = "inbound_mail"
    __table_args__ = (
        Index("inbound_mail_to_do", "id", postgresql_where=text("acted_at IS NULL")),
        Index("inbound_mail_waiting", "id", postgresql_where=text("kind = 'reply' AND done_at IS NULL")),
        Index("inbound_mail_to_forward", "forward_at", postgresql_where=text("forward_at IS NOT NULL")),
        Index("inbound_mail_lately", "received_at"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    digest: str = Field(sa_column=text_column(unique=True))
    times: int = 1
    received_at: datetime = Field(sa_column=instant_column())
    sender: str = Field(sa_column=text_column())
    recipients: list[str] = Field(sa_column=texts_column())
    raw: bytes | None = Field(default=None, sa_column=Column(LargeBinary, nullable=True))
    size: int
    kind: str | None = Field(default=None, sa_column=text_column(nullable=True))
    sign: str | None = Field(default=None, sa_column=text_column(nullable=True))
    subject: str | None = Field(default=None, sa_column=text_column(nullable=True))
    from_name: str | None = Field(default=None, sa_column=text_column(nullable=True))
    from_address: str | None = Field(default=None, sa_column=text_column(nullable=True))
    own: str | None = Field(default=None, sa_column=text_column(nullable=True))
    delivery_id: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    contact_id: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True, index=True))
    matched_by: str | None = Field(default=None, sa_column=text_column(nullable=True))
    effect: str | None = Field(default=None, sa_column=text_column(nullable=True))
    acted_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    tries: int = 0
    assigned_to: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    done_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    forward_to: str | None = Field(default=None, sa_column=text_column(nullable=True))
    forward_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    forward_tries: int = 0


class InboundMailbox(SQLModel, table=True):
    """A mailbox that mail is read from: up to which message, as long as its numbers have this validity (RFC 9051 section 2.3.1).

    `looked_at` is when it was last read to its end, `trouble` why it cannot be read now.
    """

    __tablename__ = "inbound_mailbox"
    name: str = Field(sa_column=key_column())
    uid_validity: int = Field(sa_column=Column(BigInteger, nullable=False))
    last_uid: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    looked_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    trouble: str | None = Field(default=None, sa_column=text_column(nullable=True))


class ReplyEntry(SQLModel, table=True):
    """Something that was done about a reply, by whom (None: by itself); `text` are a note's words, an answer's, or a name."""

    __tablename__ = "reply_entry"
    __table_args__ = (
        one_of("act", ReplyAct, "reply_entry_act"),
        Index("reply_entry_by_mail", "mail_id", "id"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    mail_id: int = Field(sa_column=reference("inbound_mail.id", cascade=True))
    at: datetime = Field(sa_column=instant_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    act: str = Field(sa_column=text_column())
    text: str = Field(default="", sa_column=text_column())
