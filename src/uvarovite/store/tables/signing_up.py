"""Forms by which people sign up, and those who did."""

from datetime import datetime

from sqlalchemy import ARRAY, BigInteger, Column, Index, text
from sqlmodel import Field, SQLModel

from uvarovite.core.responses.signing_up import WORDS_FORM, FormWords
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    reference,
    text_column,
    texts_column,
)


class SignUpForm(SQLModel, table=True):
    """A form: for which topics, which fields it asks for, and the wording that people agree to. A closed one takes nobody in.

    `key` stands in its address and cannot be guessed from others; `seen` is how often its page was shown. `others` are its words
    in other languages than its own; who has confirmed is welcomed with `welcome_message_id`.
    """

    __tablename__ = "sign_up_form"
    id: int | None = Field(default=None, sa_column=id_column())
    key: str = Field(sa_column=text_column(unique=True))
    name: str = Field(sa_column=text_column())
    title: str = Field(sa_column=text_column())
    intro: str = Field(sa_column=text_column())
    wording: str = Field(sa_column=text_column())
    topics: list[int] = Field(sa_column=Column(ARRAY(BigInteger), nullable=False))
    asks: list[str] = Field(sa_column=texts_column())
    language: str = Field(sa_column=text_column())
    others: tuple[FormWords, ...] = Field(default=(), sa_column=form_column(WORDS_FORM))
    welcome_message_id: int | None = Field(
        default=None, sa_column=reference("message.id", nullable=True, on_delete="SET NULL")
    )
    sender_id: int = Field(sa_column=reference("sender.id"))
    created_at: datetime = Field(sa_column=instant_column())
    closed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    seen: int = Field(default=0, sa_column=Column(BigInteger, nullable=False))
    revision: int = 1


class SignUp(SQLModel, table=True):
    """Somebody who signed up, with what they agreed to, on which page and from which origin (a keyed hash).

    `due_at` is when the next mail to them is due, None for none; `mails` were sent. Nothing is anybody's contact before it
    is confirmed from the mailbox.
    """

    __tablename__ = "sign_up"
    __table_args__ = (
        Index("sign_up_due", "due_at", postgresql_where=text("due_at IS NOT NULL")),
        Index("sign_up_by_address", "address_folded"),
        Index("sign_up_by_form", "form_id", "id"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    form_id: int = Field(sa_column=reference("sign_up_form.id"))
    at: datetime = Field(sa_column=instant_column())
    address: str = Field(sa_column=text_column())
    address_folded: str = Field(sa_column=text_column())
    topics: list[int] = Field(sa_column=Column(ARRAY(BigInteger), nullable=False))
    field_keys: list[str] = Field(sa_column=texts_column())
    field_texts: list[str] = Field(sa_column=texts_column())
    language: str = Field(sa_column=text_column())
    wording: str = Field(sa_column=text_column())
    page: str = Field(sa_column=text_column())
    origin: str = Field(sa_column=text_column())
    agent: str = Field(sa_column=text_column())
    mails: int = 0
    tries: int = 0
    due_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    confirmed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    contact_id: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    welcomed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
