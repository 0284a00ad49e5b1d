"""People who work here, and how they sign in. Tokens are stored as hashes only."""

from datetime import datetime

from sqlmodel import Field, SQLModel

from uvarovite.store.tables.columns import id_column, instant_column, key_column, reference, text_column


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


class LoginAttempt(SQLModel, table=True):
    """A log-in that failed; `key` is an address or an account, for the rate limit."""

    __tablename__ = "login_attempt"
    id: int | None = Field(default=None, sa_column=id_column())
    key: str = Field(sa_column=text_column(index=True))
    at: datetime = Field(sa_column=instant_column())
