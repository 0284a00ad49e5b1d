"""Requests about signing in."""

from pydantic import BaseModel, Field


class PasswordSignIn(BaseModel):
    """Address and password."""

    email: str = Field(max_length=320)
    password: str = Field(max_length=500)


class LinkSignIn(BaseModel):
    """The token of a one-time link."""

    token: str = Field(max_length=200)
