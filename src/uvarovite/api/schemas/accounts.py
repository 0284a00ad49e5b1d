"""Requests about signing in, users and tokens."""

from pydantic import BaseModel, Field

from uvarovite.core.accounts import Permission, Role


class PasswordSignIn(BaseModel):
    """Address and password."""

    email: str = Field(max_length=320)
    password: str = Field(max_length=500)


class LinkToken(BaseModel):
    """The token of a one-time link."""

    token: str = Field(max_length=200)


class InvitationAccept(LinkToken):
    """The password that somebody chose, and how they are called; an empty name leaves it."""

    name: str = Field(default="", max_length=200)
    password: str = Field(max_length=500)


class NameSave(BaseModel):
    """How somebody is called."""

    name: str = Field(max_length=200)


class PasswordSave(BaseModel):
    """One's own password, old and new."""

    old: str = Field(max_length=500)
    new: str = Field(max_length=500)


class Invite(BaseModel):
    """Who is invited, as what."""

    email: str = Field(max_length=320)
    name: str = Field(default="", max_length=200)
    role: Role


class RoleSave(BaseModel):
    """Another role."""

    role: Role


class TokenMake(BaseModel):
    """What a token is for, what it may do, and for how many days it works: None for as long as it is not revoked."""

    name: str = Field(max_length=100)
    scopes: list[Permission] = Field(max_length=50)
    days: int | None = Field(default=None, ge=1, le=10_000)
