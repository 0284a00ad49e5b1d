"""States in SQL, from the tables of the core: none is spelled a second time."""

from collections.abc import Iterable
from enum import StrEnum

from uvarovite.core.values.state_table import Event, State, StateTable


def states_sql(states: Iterable[StrEnum]) -> str:
    """States as a list for IN (…)."""
    return ", ".join(f"'{state}'" for state in sorted(states))


def before_sql(table: StateTable[State, Event], event: Event) -> str:
    """The states that allow an event, as a list for IN (…)."""
    return states_sql(table.before(event))
