"""A single message that goes straight to its relay, and what is said of it then."""

from dataclasses import dataclass

from uvarovite.core.delivery.outcomes import Outcome, Told, Unknowable, is_accepted, outcome_words
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
    words = outcome_words(outcome)
    if is_accepted(outcome):
        return HandedOver(accepted=True, words=f"Sent to {mail.to_address}. {words}")
    known = isinstance(outcome, Told | Unknowable)
    return HandedOver(accepted=False, words=words if known else f"{mail.failed} {words}")


def not_handed_over(mail: PreparedMail, why: str) -> ServiceRefusal:
    """The refusal of a message whose relay could not be reached."""
    return ServiceRefusal("relay", f"{mail.failed} {why}")
