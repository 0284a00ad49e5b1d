"""SQL as a value: text with named places, and what stands in them."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True, kw_only=True)
class SqlFragment:
    """SQL text with `:name` places and their values."""

    text: str
    parameters: Mapping[str, Any]


class Binder:
    """Gives each value a place of its own, so that nothing that an author wrote stands in the text."""

    def __init__(self, prefix: str) -> None:
        self._prefix = prefix
        self.parameters: dict[str, Any] = {}

    def bind(self, value: Any, sql_type: str) -> str:
        """The place of a value, as an expression of the type."""
        name = f"{self._prefix}{len(self.parameters)}"
        self.parameters[name] = value
        return f"CAST(:{name} AS {sql_type})"
