"""A single message that goes straight to its relay, and what is said of it then."""

from dataclasses import dataclass

from uvarovite.core.delivery import AnswerKind
from uvarovite.core.delivery.answers import meaning_words
from uvarovite.core.delivery.outcomes import Broken, NotMade, Outcome, Told, Unknowable
from uvarovite.services.errors import ServiceRefusal
from uvarovite.store.tables import Relay


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedMail:
    """A single message, ready to be handed to a relay; `failed` is what is said where it cannot be."""

    relay: Relay
    from_address: str
    to_address: str
    raw: bytes
    failed: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HandedOver:
    """What became of a message: whether the relay took it, and in words."""

    accepted: bool
    words: str


def handed_over(mail: PreparedMail, outcome: Outcome) -> HandedOver:
    """What became of a message, in words."""
    match outcome:
        case Unknowable():
            words = "The connection broke before the relay answered; it may have arrived or not."
        case NotMade():
            words = f"{mail.failed} {outcome.words}."
        case Broken(answer):
            words = f"{mail.failed} {meaning_words(answer.meaning).capitalize()}: {answer.text}."
        case Told(answer):
            said = f"{answer.code} {answer.text}".strip() if answer.code else answer.text
            if answer.kind is AnswerKind.ACCEPTED:
                return HandedOver(accepted=True, words=f"Sent to {mail.to_address}. The relay said: {said}")
            words = f"The relay did not take it ({meaning_words(answer.meaning)}). It said: {said}"
    return HandedOver(accepted=False, words=words)


def not_handed_over(mail: PreparedMail, why: str) -> ServiceRefusal:
    """The refusal of a message whose relay could not be reached."""
    return ServiceRefusal("relay", f"{mail.failed} {why}")
