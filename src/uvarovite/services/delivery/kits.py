"""What a worker loads once of a run and the relay that carries it: how messages are made, signed, sent and counted."""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery.dkim import Algorithm, SigningKey, signed
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.core.messages import Composer, Tracked
from uvarovite.core.responses import Keyring, TokenWriter, return_address
from uvarovite.core.values import wire_form
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.organisation.relays import RelayAccess, relay_access
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.services.organisation.signing import open_keys
from uvarovite.store.database import Database
from uvarovite.store.delivery import permits
from uvarovite.store.tables import MessageVersion, Relay, Run


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkedDelivery:
    """A delivery that is durably marked as being sent."""

    id: int
    address: str
    domain: str
    record: dict[str, Any]
    consent_since: date | None
    attempt: int
    marked_at: datetime
    wish: Tracked | None = None


def marked_delivery(row: Row[Any], marked_at: datetime) -> MarkedDelivery:
    """A delivery as the store tells it."""
    return MarkedDelivery(
        id=row.id,
        address=row.address,
        domain=row.domain,
        record=row.record,
        consent_since=row.consent_since,
        attempt=row.attempts,
        marked_at=marked_at,
        wish=Tracked(row.wish) if row.wish else None,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class RunKit:
    """What a worker needs of a run, loaded once. `relay` is None where its `trouble` is that it cannot even be tried."""

    run_id: int
    composer: Composer
    relay_id: int
    relay: RelayAccess | None
    trouble: RelayTrouble | None
    from_address: str
    envelope_domain: str | None
    signing: tuple[SigningKey, ...]
    tokens: TokenWriter
    retry_delays_seconds: tuple[int, ...]

    def envelope_sender(self, delivery_id: int) -> str:
        """Where the message of a delivery comes back to, when it cannot be delivered."""
        if self.envelope_domain is None:
            return wire_form(self.from_address)
        return return_address(self.tokens, delivery_id, self.envelope_domain)

    @property
    def is_slow(self) -> bool:
        """Does a message take long enough to be made away from the lines?"""
        return self.composer.is_slow or any(key.algorithm is Algorithm.RSA for key in self.signing)

    def made(self, delivery: MarkedDelivery) -> tuple[str, bytes]:
        """(address, bytes) of one message, signed. Raises whatever rendering raises, which a checked message never does."""
        composed = self.composer.compose(
            delivery_id=delivery.id,
            address=delivery.address,
            record_json=delivery.record,
            consent_since=delivery.consent_since,
            marked_at=delivery.marked_at,
            wish=delivery.wish,
        )
        return composed.to_address, signed(composed.raw, self.signing, delivery.marked_at)

    @property
    def scopes(self) -> tuple[str, ...]:
        """What limits may be about that hold for each of its messages."""
        return permits.relay_scope(self.relay_id), permits.run_scope(self.run_id)

    def numbers(self, deliveries: Collection[MarkedDelivery], limited: Collection[str]) -> dict[str, int]:
        """How many of some deliveries count in each scope; of domains only the `limited` ones are told."""
        told = Counter(one.domain for one in deliveries if one.domain in limited)
        return {
            **dict.fromkeys(self.scopes, len(deliveries)),
            **{permits.domain_scope(self.run_id, domain): n for domain, n in told.items()},
        }


def load_run_kit(database: Database, run_id: int, relay_id: int, *, keyring: Keyring, secret: bytes) -> RunKit:
    """Compile a run's message and read the relay that carries it. Raises NotFound."""
    with database.transaction() as tx:
        run = tx.get(Run, run_id)
        version = tx.get(MessageVersion, run.message_version_id) if run else None
        relay = tx.get(Relay, relay_id)
        if run is None or version is None or relay is None:
            raise NotFound("run")
        composer = composer_of(tx, run, keyring, press=press_of(database))
        trouble, access = None, None
        keys: tuple[SigningKey, ...] = ()
        try:
            keys = open_keys(tx, run.signing_keys, secret)
            access = relay_access(relay, secret)
        except SecretLost as fault:
            trouble = fault.trouble
        return RunKit(
            run_id=run_id,
            composer=composer,
            relay_id=relay_id,
            relay=access,
            trouble=trouble,
            from_address=composer.letterhead.from_address,
            envelope_domain=relay.envelope_domain,
            signing=keys,
            tokens=TokenWriter(keyring),
            retry_delays_seconds=tuple(relay.retry_delays_seconds),
        )
