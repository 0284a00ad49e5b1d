"""The states of a delivery, of a batch and of a run, as tables; drawn in docs/states.md."""

from enum import StrEnum

from uvarovite.core.values.state_table import StateTable


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
    """What moves a delivery on.

    LOSE: the worker died between handing over and recording the answer. BREAK: the connection came to nothing before the
    message can have been taken; it is in the worker's hands as before, and that was no attempt of theirs. POSTPONE: the limit
    of its domain has no room for it now.
    """

    CLAIM = "claim"
    GIVE_BACK = "give_back"
    MARK = "mark"
    ACCEPT = "accept"
    DEFER = "defer"
    REFUSE = "refuse"
    LOSE = "lose"
    BREAK = "break"
    POSTPONE = "postpone"
    HOLD = "hold"
    STOP = "stop"


_S, _E = DeliveryState, DeliveryEvent

DELIVERY = StateTable(
    name="delivery",
    start=_S.WAITING,
    moves={
        (_S.WAITING, _E.CLAIM): _S.CLAIMED,
        (_S.DEFERRED, _E.CLAIM): _S.CLAIMED,
        (_S.CLAIMED, _E.GIVE_BACK): _S.WAITING,
        (_S.CLAIMED, _E.MARK): _S.SENDING,
        (_S.CLAIMED, _E.POSTPONE): _S.DEFERRED,
        (_S.SENDING, _E.ACCEPT): _S.ACCEPTED,
        (_S.SENDING, _E.DEFER): _S.DEFERRED,
        (_S.SENDING, _E.REFUSE): _S.REFUSED,
        (_S.SENDING, _E.LOSE): _S.UNKNOWN,
        (_S.SENDING, _E.BREAK): _S.CLAIMED,
        (_S.WAITING, _E.HOLD): _S.HELD,
        (_S.CLAIMED, _E.HOLD): _S.HELD,
        (_S.DEFERRED, _E.HOLD): _S.HELD,
        (_S.WAITING, _E.STOP): _S.STOPPED,
        (_S.CLAIMED, _E.STOP): _S.STOPPED,
        (_S.DEFERRED, _E.STOP): _S.STOPPED,
    },
)

# What a person has, may have, or is just getting.
GONE_OUT = frozenset({_S.SENDING, _S.ACCEPTED, _S.UNKNOWN})


class BatchState(StrEnum):
    """Where a batch stands."""

    WAITING = "waiting"
    CLAIMED = "claimed"
    DONE = "done"


class BatchEvent(StrEnum):
    """What moves a batch on."""

    CLAIM = "claim"
    GIVE_BACK = "give_back"
    FINISH = "finish"


BATCH = StateTable(
    name="batch",
    start=BatchState.WAITING,
    moves={
        (BatchState.WAITING, BatchEvent.CLAIM): BatchState.CLAIMED,
        (BatchState.CLAIMED, BatchEvent.GIVE_BACK): BatchState.WAITING,
        (BatchState.CLAIMED, BatchEvent.FINISH): BatchState.DONE,
    },
)


class RunState(StrEnum):
    """Where a run stands."""

    GOING = "going"
    PAUSED = "paused"
    STOPPED = "stopped"
    ENDED = "ended"


class RunEvent(StrEnum):
    """What moves a run on. END: nothing of it can move any more."""

    PAUSE = "pause"
    GO_ON = "go_on"
    STOP = "stop"
    END = "end"


RUN = StateTable(
    name="run",
    start=RunState.GOING,
    moves={
        (RunState.GOING, RunEvent.PAUSE): RunState.PAUSED,
        (RunState.PAUSED, RunEvent.GO_ON): RunState.GOING,
        (RunState.GOING, RunEvent.STOP): RunState.STOPPED,
        (RunState.PAUSED, RunEvent.STOP): RunState.STOPPED,
        (RunState.GOING, RunEvent.END): RunState.ENDED,
    },
)
