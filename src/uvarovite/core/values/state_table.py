"""States as a table: (state, event) to the state that follows. A pair that is not in it is a broken promise.

From a table come the states that an update asks for, the guard that the database keeps, and the drawing in
docs/states.md; no state is listed a second time.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar, cast

State = TypeVar("State", bound=StrEnum)
Event = TypeVar("Event", bound=StrEnum)


class IllegalStep(Exception):
    """An event that a state does not allow. Whose doing: ours. Trying again is of no use."""


@dataclass(frozen=True, slots=True, kw_only=True)
class StateTable(Generic[State, Event]):
    """All that can happen to one kind of thing, which begins in `start`."""

    name: str
    start: State
    moves: Mapping[tuple[State, Event], State]

    def next(self, state: str, event: Event) -> State:
        """The state after an event. Raises IllegalStep."""
        # A state as the database keeps it, a plain text, is found as well: an enum of texts is hashed as its text.
        after = self.moves.get((cast(State, state), event))
        if after is None:
            raise IllegalStep(f"{self.name}: {event} does not go with {state}")
        return after

    def before(self, event: Event) -> frozenset[State]:
        """The states that allow an event, for guarded updates in the database."""
        return frozenset(state for state, allowed in self.moves if allowed is event)

    @property
    def open(self) -> frozenset[State]:
        """The states that something can follow."""
        return frozenset(state for state, _ in self.moves)

    @property
    def final(self) -> frozenset[State]:
        """The states that nothing follows."""
        return frozenset(self.moves.values()) - self.open

    @property
    def steps(self) -> frozenset[tuple[State, State]]:
        """Every (state, state that may follow it)."""
        return frozenset((before, after) for (before, _), after in self.moves.items())
