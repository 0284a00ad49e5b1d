"""The states of a delivery, as a table. A pair that is not in it is a broken promise.

          claim            mark               accept
waiting ---------> claimed ------> sending ----------> accepted
   ^                  |              |  |  refuse
   |     give back    |              |  +------------> refused
   +------------------+              |  |  lose
   |                     defer       |  +------------> unknown
   +---- deferred <------------------+
hold: waiting, claimed, deferred -> held      stop: waiting, claimed, deferred -> stopped
"""

from enum import StrEnum


class DeliveryState(StrEnum):
    """Where a delivery stands. What comes later (bounces, opens) is an event beside it, no state."""

    WAITING = "waiting"
    CLAIMED = "claimed"
    SENDING = "sending"
    ACCEPTED = "accepted"
    DEFERRED = "deferred"
    REFUSED = "refused"
    UNKNOWN = "unknown"
    HELD = "held"
    STOPPED = "stopped"


class DeliveryEvent(StrEnum):
    """What moves a delivery on. LOSE: the worker died between handing over and recording the answer."""

    CLAIM = "claim"
    GIVE_BACK = "give_back"
    MARK = "mark"
    ACCEPT = "accept"
    DEFER = "defer"
    REFUSE = "refuse"
    LOSE = "lose"
    HOLD = "hold"
    STOP = "stop"


class IllegalTransition(Exception):
    """An event that a state does not allow. Whose doing: ours. Trying again is of no use."""


_S, _E = DeliveryState, DeliveryEvent

TRANSITIONS: dict[tuple[DeliveryState, DeliveryEvent], DeliveryState] = {
    (_S.WAITING, _E.CLAIM): _S.CLAIMED,
    (_S.DEFERRED, _E.CLAIM): _S.CLAIMED,
    (_S.CLAIMED, _E.GIVE_BACK): _S.WAITING,
    (_S.CLAIMED, _E.MARK): _S.SENDING,
    (_S.SENDING, _E.ACCEPT): _S.ACCEPTED,
    (_S.SENDING, _E.DEFER): _S.DEFERRED,
    (_S.SENDING, _E.REFUSE): _S.REFUSED,
    (_S.SENDING, _E.LOSE): _S.UNKNOWN,
    (_S.WAITING, _E.HOLD): _S.HELD,
    (_S.CLAIMED, _E.HOLD): _S.HELD,
    (_S.DEFERRED, _E.HOLD): _S.HELD,
    (_S.WAITING, _E.STOP): _S.STOPPED,
    (_S.CLAIMED, _E.STOP): _S.STOPPED,
    (_S.DEFERRED, _E.STOP): _S.STOPPED,
}

FINAL_STATES = frozenset(state for state in DeliveryState if all(state != before for before, _ in TRANSITIONS))


def next_state(state: DeliveryState, event: DeliveryEvent) -> DeliveryState:
    """The state after an event. Raises IllegalTransition."""
    try:
        return TRANSITIONS[state, event]
    except KeyError:
        raise IllegalTransition(f"{event} does not go with {state}") from None


def states_before(event: DeliveryEvent) -> frozenset[DeliveryState]:
    """The states that allow an event, for guarded updates in the database."""
    return frozenset(state for state, allowed in TRANSITIONS if allowed is event)
