"""A single message that goes straight to its relay, and what is said of it then."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.delivery.dkim import signed
from uvarovite.core.delivery.outcomes import Outcome, Told, Unknowable, is_accepted, outcome_words
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.organisation.relays import RelayAccess, relay_access
from uvarovite.services.organisation.signing import open_keys, signing_keys_for
from uvarovite.store.database import Database
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


def on_the_wire(database: Database, mail: PreparedMail, *, secret: bytes, now: datetime) -> tuple[RelayAccess, bytes]:
    """How to reach the message's relay, and its bytes, signed by the keys of its sender's domain. Raises SecretLost."""
    with database.transaction() as tx:
        keys = open_keys(tx, signing_keys_for(tx, mail.from_address), secret)
    return relay_access(mail.relay, secret), signed(mail.raw, keys, now)


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
