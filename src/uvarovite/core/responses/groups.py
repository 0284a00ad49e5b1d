"""What came back, in the groups that somebody works through."""

from enum import StrEnum


class ResponseGroup(StrEnum):
    """A group of what came back. Who waits for an answer waits however long; of the rest it is the last 30 days."""

    WAITING = "waiting"
    REPLIES = "replies"
    ASKS = "asks"
    LEFT = "left"
    GONE = "gone"
    BOUNCED = "bounced"
    COMPLAINED = "complained"
    AWAY = "away"
    UNMATCHED = "unmatched"


class ReplyAct(StrEnum):
    """What is done about a reply."""

    ASSIGNED = "assigned"
    DONE = "done"
    REOPENED = "reopened"
    NOTE = "note"
    ANSWERED = "answered"
    FORWARDED = "forwarded"
    NOT_FORWARDED = "not_forwarded"
