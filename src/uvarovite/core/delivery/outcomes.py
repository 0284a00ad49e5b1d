"""What became of one message that was to be handed to a relay: four cases, and no fifth.

Which of them it is decides what may follow: only `Told` is the relay's word; after `Broken` it may be tried again, since
it cannot have been taken; after `Unknowable` never by itself; `NotMade` is our own fault and nobody's refusal.
"""

from dataclasses import dataclass
from typing import NamedTuple

from uvarovite.core.delivery.answers import Answer, AnswerKind, meaning_words


class Told(NamedTuple):
    """The relay answered."""

    answer: Answer


@dataclass(frozen=True, slots=True)
class Broken:
    """The conversation came to nothing before the message can have been taken; `answer` says how, in our words."""

    answer: Answer


@dataclass(frozen=True, slots=True)
class Unknowable:
    """The conversation broke after the message's last line had gone out and before the answer: nobody can know."""


@dataclass(frozen=True, slots=True)
class NotMade:
    """The message could not be made, or not be put on the wire; `words` is the fault."""

    words: str


Outcome = Told | Broken | Unknowable | NotMade


def is_accepted(outcome: Outcome) -> bool:
    """Did the relay take it?"""
    return isinstance(outcome, Told) and outcome.answer.kind is AnswerKind.ACCEPTED


def outcome_words(outcome: Outcome) -> str:
    """What became of a message, as a sentence."""
    match outcome:
        case Told(answer):
            said = f"{answer.code} {answer.text}".strip() if answer.code else answer.text
            if is_accepted(outcome):
                return f"The relay said: {said}"
            return f"The relay did not take it ({meaning_words(answer.meaning)}). It said: {said}"
        case Broken(answer):
            return f"{meaning_words(answer.meaning).capitalize()}: {answer.text}."
        case Unknowable():
            return "The connection broke before the relay answered; it may have arrived or not."
        case NotMade(words):
            return f"{words}."
