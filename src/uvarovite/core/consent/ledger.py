"""Consent: events are appended and never changed; the current state is their fold.

One table says what an event does to a state. The Python fold walks it, and the SQL that keeps the table of current
states in step is made from it, so the two cannot drift apart. What the table refuses to do is the point of it: an
import or a question never opens what a person has closed.

A pause is no state of its own: who is subscribed stays so and gets nothing until a moment that stands in the event.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum


class ConsentState(StrEnum):
    """Where one person stands with one topic."""

    NEVER = "never"
    ASKED = "asked"
    SUBSCRIBED = "subscribed"
    LEFT = "left"


class ConsentEventKind(StrEnum):
    """What happened. IMPORTED is a consent that somebody else recorded, with the legal basis they state.

    RETRACTED takes back what was recorded by mistake, such as an import that is undone: it is not the person's doing,
    so it never opens anything and never counts as leaving.
    """

    ASKED = "asked"
    GRANTED = "granted"
    CONFIRMED = "confirmed"
    IMPORTED = "imported"
    WITHDRAWN = "withdrawn"
    PAUSED = "paused"
    RETRACTED = "retracted"


_S, _K = ConsentState, ConsentEventKind

TRANSITIONS: dict[tuple[ConsentState, ConsentEventKind], ConsentState] = {
    (_S.NEVER, _K.ASKED): _S.ASKED,
    (_S.NEVER, _K.GRANTED): _S.SUBSCRIBED,
    (_S.NEVER, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.NEVER, _K.IMPORTED): _S.SUBSCRIBED,
    (_S.NEVER, _K.WITHDRAWN): _S.LEFT,
    (_S.NEVER, _K.PAUSED): _S.NEVER,
    (_S.NEVER, _K.RETRACTED): _S.NEVER,
    (_S.ASKED, _K.ASKED): _S.ASKED,
    (_S.ASKED, _K.GRANTED): _S.SUBSCRIBED,
    (_S.ASKED, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.ASKED, _K.IMPORTED): _S.SUBSCRIBED,
    (_S.ASKED, _K.WITHDRAWN): _S.LEFT,
    (_S.ASKED, _K.PAUSED): _S.ASKED,
    (_S.ASKED, _K.RETRACTED): _S.NEVER,
    (_S.SUBSCRIBED, _K.ASKED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.GRANTED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.IMPORTED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.WITHDRAWN): _S.LEFT,
    (_S.SUBSCRIBED, _K.PAUSED): _S.SUBSCRIBED,
    (_S.SUBSCRIBED, _K.RETRACTED): _S.NEVER,
    (_S.LEFT, _K.ASKED): _S.LEFT,
    (_S.LEFT, _K.GRANTED): _S.SUBSCRIBED,
    (_S.LEFT, _K.CONFIRMED): _S.SUBSCRIBED,
    (_S.LEFT, _K.IMPORTED): _S.LEFT,
    (_S.LEFT, _K.WITHDRAWN): _S.LEFT,
    (_S.LEFT, _K.PAUSED): _S.LEFT,
    (_S.LEFT, _K.RETRACTED): _S.LEFT,
}

# What only the person themselves can say ends a pause; an import or a question does not.
ENDS_PAUSE = frozenset({_K.GRANTED, _K.CONFIRMED, _K.WITHDRAWN, _K.RETRACTED})


@dataclass(frozen=True, slots=True, kw_only=True)
class ConsentEvent:
    """One event of the ledger, as far as the fold needs it. `until` is set for PAUSED alone."""

    kind: ConsentEventKind
    at: datetime
    until: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ConsentStanding:
    """Where a person stands with a topic. `since` is when this state began; None when nothing ever happened.

    `confirmed` tells that the person answered from the address itself since they subscribed: the double opt-in.
    """

    state: ConsentState = ConsentState.NEVER
    since: datetime | None = None
    paused_until: datetime | None = None
    confirmed: bool = False


def fold_consent(events: Iterable[ConsentEvent]) -> ConsentStanding:
    """The standing after the events, in the order in which they were recorded."""
    standing = ConsentStanding()
    for event in events:
        state = TRANSITIONS[standing.state, event.kind]
        paused = standing.paused_until
        if event.kind in ENDS_PAUSE:
            paused = None
        elif event.kind is ConsentEventKind.PAUSED and standing.state is ConsentState.SUBSCRIBED:
            paused = event.until
        since = standing.since if standing.since is not None and state is standing.state else event.at
        subscribed = state is ConsentState.SUBSCRIBED
        confirmed = subscribed and (standing.confirmed or event.kind is ConsentEventKind.CONFIRMED)
        standing = ConsentStanding(state=state, since=since, paused_until=paused, confirmed=confirmed)
    return standing


def standing_at(events: Iterable[ConsentEvent], moment: datetime) -> ConsentStanding:
    """The standing at a moment: the fold of what had happened by then."""
    return fold_consent(event for event in events if event.at <= moment)


# How two entries for one person become one when duplicates are merged: the narrower holds, so that a merge can close
# but never open. Somebody who left in one place has left; somebody subscribed in one place alone was asked there alone.
_NARROWEST_FIRST = (ConsentState.LEFT, ConsentState.NEVER, ConsentState.ASKED, ConsentState.SUBSCRIBED)


def narrower(one: ConsentState, other: ConsentState) -> ConsentState:
    """The narrower of two states."""
    return min(one, other, key=_NARROWEST_FIRST.index)


def next_state_sql(state: str, kind: str) -> str:
    """An SQL expression for the next state, given the SQL expressions of the state and of the event's kind."""
    cases = " ".join(
        f"WHEN {state} = '{before}' AND {kind} = '{event}' THEN '{after}'"
        for (before, event), after in TRANSITIONS.items()
    )
    return f"CASE {cases} END"


def was_subscribed_sql(id_: str, kind: str) -> str:
    """An SQL condition over a person's events of one topic, grouped: does their fold end in subscribed?

    Given the SQL expressions of an event's number and kind. Whoever left is back by their own word alone; whatever else
    subscribes must have come after what was taken back last.
    """

    def last(*kinds: ConsentEventKind) -> str:
        listed = ", ".join(f"'{one}'" for one in kinds)
        return f"coalesce(max({id_}) FILTER (WHERE {kind} IN ({listed})), 0)"

    own = last(_K.GRANTED, _K.CONFIRMED)
    return f"({last(_K.WITHDRAWN)} <= {own} AND greatest({own}, {last(_K.IMPORTED)}) > {last(_K.RETRACTED)})"


def next_confirmed_sql(next_state: str, confirmed: str, kind: str) -> str:
    """An SQL expression for `confirmed` after an event, given those of the state after it and of the event's kind."""
    return f"({next_state} = 'subscribed' AND ({confirmed} OR {kind} = 'confirmed'))"


def next_pause_sql(state: str, paused_until: str, kind: str, until: str) -> str:
    """An SQL expression for the pause after an event, given those of the state and pause before it and of the event."""
    ends = ", ".join(f"'{one}'" for one in sorted(ENDS_PAUSE))
    return (
        f"CASE WHEN {kind} IN ({ends}) THEN NULL "
        f"WHEN {kind} = 'paused' AND {state} = 'subscribed' THEN {until} ELSE {paused_until} END"
    )
