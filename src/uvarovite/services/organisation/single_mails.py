"""A single message that goes straight to its relay, and what is said of it then."""

from dataclasses import dataclass

from uvarovite.core.delivery import Answer, AnswerKind
from uvarovite.core.delivery.answers import meaning_words
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


def handed_over(mail: PreparedMail, answer: Answer | None) -> HandedOver:
    """What a relay said to a message; None is a connection that broke before it said anything."""
    if answer is None:
        return HandedOver(
            accepted=False, words="The connection broke before the relay answered; it may have arrived or not."
        )
    said = f"{answer.code} {answer.text}".strip()
    if answer.kind is AnswerKind.ACCEPTED:
        return HandedOver(accepted=True, words=f"Sent to {mail.to_address}. The relay said: {said}")
    return HandedOver(
        accepted=False, words=f"The relay did not take it ({meaning_words(answer.meaning)}). It said: {said}"
    )


def not_handed_over(mail: PreparedMail, why: str) -> ServiceRefusal:
    """The refusal of a message whose relay could not be reached."""
    return ServiceRefusal("relay", f"{mail.failed} {why}")
