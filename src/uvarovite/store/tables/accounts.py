"""People who work here, and how they sign in. Tokens are stored as hashes only."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import BigInteger, Column, Identity, Integer
from sqlmodel import Field, SQLModel

from uvarovite.core.accounts import Role
from uvarovite.store.tables.columns import (
    id_column,
    instant_column,
    key_column,
    one_of,
    plain_key_column,
    reference,
    text_column,
    texts_column,
)


class User(SQLModel, table=True):
    """A person with an account. One who was invited has no password before they have come; one who left stays by name."""

    __tablename__ = "user_account"
    __table_args__ = (one_of("role", Role, "user_account_role"),)
    id: int | None = Field(default=None, sa_column=id_column())
    email: str = Field(sa_column=text_column(unique=True))
    name: str = Field(sa_column=text_column())
    role: str = Field(sa_column=text_column())
    password_hash: str | None = Field(default=None, sa_column=text_column(nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
    seen_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    left_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class LinkPurpose(StrEnum):
    """What a link is for: to come in once, or to choose a password and come in."""

    SIGN_IN = "sign_in"
    PASSWORD = "password"  # noqa: S105 - what it is for, no password


class LoginLink(SQLModel, table=True):
    """A link that works once."""

    __tablename__ = "login_link"
    __table_args__ = (one_of("purpose", LinkPurpose, "login_link_purpose"),)
    token_hash: str = Field(sa_column=key_column())
    user_id: int = Field(sa_column=reference("user_account.id"))
    purpose: str = Field(sa_column=text_column())
    expires_at: datetime = Field(sa_column=instant_column())
    used_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class UserSession(SQLModel, table=True):
    """A browser that is signed in; `agent` is what it calls itself."""

    __tablename__ = "user_session"
    token_hash: str = Field(sa_column=key_column())
    id: int | None = Field(default=None, sa_column=Column(BigInteger, Identity(), unique=True))
    user_id: int = Field(sa_column=reference("user_account.id", index=True))
    csrf_token: str = Field(sa_column=text_column())
    origin: str = Field(sa_column=text_column())
    agent: str = Field(sa_column=text_column())
    created_at: datetime = Field(sa_column=instant_column())
    seen_at: datetime = Field(sa_column=instant_column())
    expires_at: datetime = Field(sa_column=instant_column())


class ApiToken(SQLModel, table=True):
    """What a program comes in with, for the user who made it. `beginning` is what it is recognised by."""

    __tablename__ = "api_token"
    id: int | None = Field(default=None, sa_column=id_column())
    user_id: int = Field(sa_column=reference("user_account.id", index=True, cascade=True))
    name: str = Field(sa_column=text_column())
    token_hash: str = Field(sa_column=text_column(unique=True))
    beginning: str = Field(sa_column=text_column())
    scopes: list[str] = Field(sa_column=texts_column())
    created_at: datetime = Field(sa_column=instant_column())
    expires_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    used_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    revoked_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


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
