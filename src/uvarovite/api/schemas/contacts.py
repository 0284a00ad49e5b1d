"""Requests about imports."""

from typing import Literal

from pydantic import BaseModel, Field

from uvarovite.core.contacts import DateOrder


class PastedCells(BaseModel):
    """Cells as a spreadsheet puts them on the clipboard: tabs between them, a line for each row."""

    text: str = Field(max_length=20_000_000)


class FormChoice(BaseModel):
    """How a file is to be read; what is not said stays as it is."""

    encoding: str | None = Field(default=None, max_length=40)
    delimiter: str | None = Field(default=None, max_length=4)
    quote: str | None = Field(default=None, max_length=4)
    sheet: str | None = Field(default=None, max_length=200)
    range: str | None = Field(default=None, max_length=40)


class ColumnPick(BaseModel):
    """What becomes of a column."""

    use: str = Field(max_length=20)
    field: str | None = Field(default=None, max_length=63)
    date_order: DateOrder | None = None
    century: Literal[1900, 2000] | None = None
    decimal_comma: bool | None = None
    policy: str = Field(default="overwrite", max_length=20)


class ImportPreviewAsk(BaseModel):
    """Look at a file again: None leaves a choice as it is; a topic of "" takes the topic back."""

    form: FormChoice | None = None
    columns: list[ColumnPick] | None = Field(default=None, max_length=500)
    key: str | None = Field(default=None, max_length=20)
    topic: str | None = Field(default=None, max_length=100)
    tags: list[str] | None = Field(default=None, max_length=50)


class ImportWrite(BaseModel):
    """Write a file. With a topic, `legal_basis` says how these people opted in."""

    topic: str | None = Field(default=None, max_length=100)
    legal_basis: str = Field(default="", max_length=1_000)
