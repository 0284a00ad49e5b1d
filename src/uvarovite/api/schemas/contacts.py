"""Requests about bringing people in."""

from pydantic import BaseModel, Field


class ImportLook(BaseModel):
    """Look at a file again: None leaves a choice as it is; a column of None is left out."""

    columns: list[str | None] | None = Field(default=None, max_length=500)
    encoding: str | None = Field(default=None, max_length=40)
    topic: str | None = Field(default=None, max_length=100)


class ImportWrite(BaseModel):
    """Write a file. With a topic, `ground` says how these people opted in."""

    topic: str | None = Field(default=None, max_length=100)
    ground: str = Field(default="", max_length=1_000)
