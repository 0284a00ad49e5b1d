"""Consent: events are appended and never changed; the current state is their fold.

One table says what an event does to a state. The Python fold walks it, and the SQL that keeps the table of current
states in step is made from it, so the two cannot drift apart. What the table refuses to do is the point of it: an
import or a question never opens what a person has closed.
"""

from collections.abc import Iterable
from enum import StrEnum


class ConsentState(StrEnum):
    """Where one person stands with one topic."""

    NEVER = "never"
    ASKED = "asked"
    SUBSCRIBED = "subscribed"
    LEFT = "left"


class ConsentEventKind(StrEnum):
    """What happened. IMPORTED is a consent that somebody else recorded, with the ground they state."""

    ASKED = "asked"
    GRANTED = "granted"
    CONFIRMED = "confirmed"
    IMPORTED = "imported"
    WITHDRAWN = "withdrawn"


_S, _K = ConsentState, ConsentEventKind

TRANSITIONS: dict[tuple[ConsentState, ConsentEventKind], ConsentState] = {
    (_S.NEVER, _K.ASKED): _S.ASKED,
    (_S.NEVER, _K.GRANTED): _S.SUBSCRIBED,
    (_S.NEVER, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.NEVER, _K.IMPORTED): _S.SUBSCRIBED,
    (_S.NEVER, _K.WITHDRAWN): _S.LEFT,
    (_S.ASKED, _K.ASKED): _S.ASKED,
    (_S.ASKED, _K.GRANTED): _S.SUBSCRIBED,
    (_S.ASKED, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.ASKED, _K.IMPORTED): _S.SUBSCRIBED,
    (_S.ASKED, _K.WITHDRAWN): _S.LEFT,
    (_S.SUBSCRIBED, _K.ASKED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.GRANTED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.IMPORTED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.WITHDRAWN): _S.LEFT,
    (_S.LEFT, _K.ASKED): _S.LEFT,
    (_S.LEFT, _K.GRANTED): _S.SUBSCRIBED,
    (_S.LEFT, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.LEFT, _K.IMPORTED): _S.LEFT,
    (_S.LEFT, _K.WITHDRAWN): _S.LEFT,
}


def fold_consent(events: Iterable[ConsentEventKind]) -> ConsentState:
    """The state after the events, oldest first."""
    state = ConsentState.NEVER
    for event in events:
        state = TRANSITIONS[state, event]
    return state


def next_state_sql(state: str, kind: str) -> str:
    """An SQL expression for the next state, given the SQL expressions of the state and of the event's kind."""
    cases = " ".join(
        f"WHEN {state} = '{before}' AND {kind} = '{event}' THEN '{after}'"
        for (before, event), after in TRANSITIONS.items()
    )
    return f"CASE {cases} END"
