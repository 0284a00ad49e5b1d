"""People who work here, and how they sign in. Tokens are stored as hashes only."""

from datetime import datetime

from sqlalchemy import Column, Integer
from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import (
    id_column,
    instant_column,
    key_column,
    plain_key_column,
    reference,
    text_column,
)


class User(SQLModel, table=True):
    """A person with an account."""

    __tablename__ = "user_account"
    id: int | None = Field(default=None, sa_column=id_column())
    email: str = Field(sa_column=text_column(unique=True))
    name: str = Field(sa_column=text_column())
    password_hash: str = Field(sa_column=text_column())
    created_at: datetime = Field(sa_column=instant_column())


class LoginLink(SQLModel, table=True):
    """A link that signs a user in once."""

    __tablename__ = "login_link"
    token_hash: str = Field(sa_column=key_column())
    user_id: int = Field(sa_column=reference("user_account.id"))
    expires_at: datetime = Field(sa_column=instant_column())
    used_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class UserSession(SQLModel, table=True):
    """A browser that is signed in."""

    __tablename__ = "user_session"
    token_hash: str = Field(sa_column=key_column())
    user_id: int = Field(sa_column=reference("user_account.id"))
    csrf_token: str = Field(sa_column=text_column())
    created_at: datetime = Field(sa_column=instant_column())
    expires_at: datetime = Field(sa_column=instant_column())


class KnownOrigin(SQLModel, table=True):
    """Where somebody has signed in from by password; a stranger's tries elsewhere do not shut it."""

    __tablename__ = "known_origin"
    user_id: int = Field(sa_column=reference("user_account.id", primary_key=True, cascade=True))
    origin: str = Field(sa_column=plain_key_column())
    at: datetime = Field(sa_column=instant_column())


class IdempotencyKey(SQLModel, table=True):
    """A request that changed something, by the key that its sender gave it. `fingerprint` is what was asked for; `answer`
    is what was answered, None where that is not known (any more).
    """

    __tablename__ = "idempotency_key"
    user_id: int = Field(sa_column=reference("user_account.id", primary_key=True, cascade=True))
    key: str = Field(sa_column=plain_key_column())
    fingerprint: str = Field(sa_column=text_column())
    at: datetime = Field(sa_column=instant_column())
    status: int | None = Field(default=None, sa_column=Column(Integer))
    kind: str | None = Field(default=None, sa_column=text_column(nullable=True))
    answer: str | None = Field(default=None, sa_column=text_column(nullable=True))


class Tally(SQLModel, table=True):
    """How often something was tried under a key since a moment, for limits that all processes share.

    It is lost when the database crashes; nothing but patience depends on it.
    """

    __tablename__ = "tally"
    __table_args__ = {"prefixes": ["UNLOGGED"]}
    key: str = Field(sa_column=plain_key_column())
    since: datetime = Field(sa_column=instant_column())
    n: int = Field(sa_column=Column(Integer, nullable=False))
