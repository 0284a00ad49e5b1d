"""Requests about the suppression list."""

from pydantic import BaseModel, Field


class SuppressText(BaseModel):
    """An address or a domain, and why."""

    text: str = Field(max_length=400)
    reason: str = Field(max_length=1_000)
