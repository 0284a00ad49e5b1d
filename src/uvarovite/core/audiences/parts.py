"""A part of an audience: the people at certain places of an order, or a share that is drawn by a seed.

Everything is decided by the database from what stands in the part, so that it is the same tomorrow. Two parts that do
not overlap have nobody in common, and parts that cover everything leave nobody out, as long as the audience's people
are the same; a frozen audience's are.

Spread over a field, places take from each value in turn: equally many of each as far as there are. A share takes the
same share of each value. Blank is a value of its own.
"""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from uvarovite.core.contacts import Field as ContactField
from uvarovite.core.values import StoredForm, form_of

MOST_SEED = 999_999


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    seed: int = Field(default=1, ge=0, le=MOST_SEED)
    spread_over: str | None = Field(default=None, max_length=80)


class Places(_Part):
    """Those at the places `first` to `last`, counted from 1, in an order; random is drawn by the seed."""

    kind: Literal["places"] = "places"
    first: int = Field(default=1, ge=1, le=100_000_000)
    last: int = Field(ge=1, le=100_000_000)
    order: Literal["oldest", "latest", "random"] = "oldest"

    @model_validator(mode="after")
    def _in_order(self) -> "Places":
        if self.last < self.first:
            raise ValueError("the last place cannot come before the first")
        return self


class Share(_Part):
    """A random share, from and to a percentage: 0 to 10 is a tenth, 10 to 100 are all the others."""

    kind: Literal["share"] = "share"
    from_percent: float = Field(default=0, ge=0, lt=100)
    to_percent: float = Field(gt=0, le=100)

    @model_validator(mode="after")
    def _in_order(self) -> "Share":
        if self.to_percent <= self.from_percent:
            raise ValueError("a share ends behind where it begins")
        return self


Part = Annotated[Places | Share, Field(discriminator="kind")]
PART_FORM: StoredForm[Places | Share] = form_of(Part)


def part_words(part: Places | Share, field: ContactField | None) -> str:
    """A part, read aloud."""
    over = f", spread evenly over {field.label.lower()}" if field is not None else ""
    if isinstance(part, Share):
        if part.from_percent == 0:
            return f"a random share of {part.to_percent:g} %{over}"
        return f"the random share from {part.from_percent:g} to {part.to_percent:g} %{over}"
    which = f"the first {part.last:,}" if part.first == 1 else f"number {part.first:,} to {part.last:,}"
    order = {
        "oldest": "who were added first come first",
        "latest": "the latest come first",
        "random": "in random order",
    }
    return f"{which}, {order[part.order]}{over}"
