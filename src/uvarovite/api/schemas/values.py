"""Numbers as they may come from outside: none that PostgreSQL could not hold reaches a query."""

from typing import Annotated

from pydantic import Field

# What a row is known by (bigint); 0 is nobody's.
Id = Annotated[int, Field(ge=0, le=2**63 - 1)]
# How many, an revision, a place in a text (integer).
Count = Annotated[int, Field(ge=0, le=2**31 - 1)]
