"""Requests about fields."""

from decimal import Decimal
from typing import Literal

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count
from uvarovite.services.contacts.fields import FieldDraft
from uvarovite.services.contacts.retyping import Amounts


class FieldSave(BaseModel):
    """A field as edited; `parts` are those of a list's records."""

    key: str = Field(max_length=80)
    label: str = Field(max_length=200)
    type: str = Field(max_length=20)
    currency: str | None = Field(default=None, max_length=3)
    choices: list[str] = Field(default_factory=list, max_length=1_000)
    parts: list["FieldSave"] = Field(default_factory=list, max_length=50)
    help: str = Field(default="", max_length=1_000)

    def draft(self) -> FieldDraft:
        """What the service takes."""
        return FieldDraft(
            key=self.key,
            label=self.label,
            type=self.type,
            currency=self.currency,
            choices=tuple(self.choices),
            parts=tuple(part.draft() for part in self.parts),
            help=self.help,
        )


class FieldChange(FieldSave):
    """A change of a field; `lose` is how many values were seen not to fit and may become blank.

    `amounts` says what becomes of amounts in another currency: the same numbers, or multiplied by `rate`.
    """

    lose: Count = 0
    amounts: Literal["same", "rate"] | None = None
    rate: Decimal | None = Field(default=None, gt=0, le=1_000_000, max_digits=16)

    def said(self) -> Amounts | None:
        """What was said about the amounts."""
        if self.amounts is None or (self.amounts == "rate" and self.rate is None):
            return None
        return Amounts(rate=self.rate if self.amounts == "rate" and self.rate is not None else Decimal(1))


class Order(BaseModel):
    """Keys in their order."""

    keys: list[str] = Field(max_length=500)
