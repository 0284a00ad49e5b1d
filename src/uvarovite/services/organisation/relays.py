"""The relays that carry the organisation's mail."""

import re
from dataclasses import dataclass
from datetime import datetime

from cryptography.hazmat.primitives.serialization import Encoding
from cryptography.x509 import load_pem_x509_certificates

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.campaigns import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS
from uvarovite.core.delivery.retry import RETRY_DELAYS_SECONDS, delays_for
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.note_message import assemble_note
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.pools import load_pool, require_not_needed, require_pool
from uvarovite.services.organisation.secrets import SecretLost, seal, unseal
from uvarovite.store import organisation as organisation_store
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import permits, queue
from uvarovite.store.tables import Relay
from uvarovite.store.tables.organisation import Security


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayView:
    """A relay; its password is never shown."""

    id: int
    pool_id: int
    place: int
    name: str
    host: str
    port: int
    security: str
    username: str | None
    has_password: bool
    minute_limit: int | None
    hourly_limit: int | None
    daily_limit: int | None
    connections: int
    messages_per_connection: int
    timeout_seconds: int
    attempts: int
    hello_name: str | None
    envelope_domain: str | None
    authority: str | None
    trouble: str | None
    revision: int


def relay_view(tx: Transaction, relay: Relay) -> RelayView:
    """A relay as it is shown."""
    scope = permits.relay_scope(relay.id or 0)
    limits = permits.limits_of(tx, [scope])[scope]
    return RelayView(
        id=relay.id or 0,
        pool_id=relay.pool_id,
        place=relay.place,
        name=relay.name,
        host=relay.host,
        port=relay.port,
        security=relay.security,
        username=relay.username,
        has_password=relay.sealed_password is not None,
        minute_limit=limits.get(MINUTE_SECONDS),
        hourly_limit=limits.get(HOUR_SECONDS),
        daily_limit=limits.get(DAY_SECONDS),
        connections=relay.connections,
        messages_per_connection=relay.messages_per_connection,
        timeout_seconds=relay.timeout_seconds,
        attempts=len(relay.retry_delays_seconds) + 1,
        hello_name=relay.hello_name,
        envelope_domain=relay.envelope_domain,
        authority=relay.authority,
        trouble=relay.trouble.message if relay.trouble else None,
        revision=relay.revision,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolView:
    """A pool and its relays in their order; `called` is what people know it by."""

    id: int
    name: str
    called: str
    relays: list[RelayView]


def pool_views(tx: Transaction) -> list[PoolView]:
    """All pools as they are shown."""
    pools = [pool for one in organisation_store.pools(tx) if (pool := load_pool(tx, one.id))]
    return [
        PoolView(
            id=pool.id, name=pool.name, called=pool.called, relays=[relay_view(tx, relay) for relay in pool.relays]
        )
        for pool in pools
    ]


def relay_server(relay: Relay) -> str:
    """What a relay's password is given for."""
    return f"relay {relay.host}:{relay.port} {relay.security} {relay.username or ''}"


def password_again() -> BadInput:
    """The refusal of a stored password for another server than the one it was given for."""
    return BadInput(
        "password_again",
        "The stored password was given for another server, account or encryption. Enter it again, or remove it.",
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayChange:
    """A relay's settings as edited; a `password` of None leaves the stored one.

    A relay has to be told its pool when it is made; later, no pool and no place leave it where it is. `revision` is the one that was on
    screen; none asks for no comparison.
    """

    name: str
    host: str
    port: int
    security: str
    username: str | None
    password: str | None
    minute_limit: int | None
    hourly_limit: int | None
    daily_limit: int | None
    connections: int = 4
    messages_per_connection: int = 500
    timeout_seconds: int = 120
    attempts: int | None = None
    hello_name: str | None = None
    envelope_domain: str | None = None
    authority: str | None = None
    pool_id: int | None = None
    place: int | None = None
    revision: int | None = None


@needs(Permission.SET_UP)
def save_relay(
    database: Database, actor: Actor, relay_id: int | None, change: RelayChange, *, secret: bytes
) -> RelayView:
    """Make a relay, or save its settings. Raises NotFound, Conflict when a run needs it where it stands; BadInput, also when
    a stored password would go to another server.

    Whoever sends through it in this moment finishes what they have in hand, and goes on with the new settings.
    """
    name, host = " ".join(change.name.split()), change.host.strip()
    if not name or not host:
        raise BadInput("blank", "A relay needs a name and a host.")
    if change.security not in set(Security):
        raise BadInput("security", f"Security is one of {', '.join(Security)}.")
    with database.transaction() as tx:
        # Before anything else, as whoever settles what a relay answered does.
        limits = {
            MINUTE_SECONDS: change.minute_limit,
            HOUR_SECONDS: change.hourly_limit,
            DAY_SECONDS: change.daily_limit,
        }
        if relay_id is not None:
            permits.set_limits(tx, permits.relay_scope(relay_id), limits)
        if any(one.name == name and one.id != relay_id for one in organisation_store.relays(tx)):
            raise BadInput("taken", f"There is a relay “{name}” already.", field="name")
        relay = _relay_to_save(tx, relay_id, change)
        before = relay_server(relay)
        relay.name, relay.host, relay.port = name, host, change.port
        relay.place = change.place or relay.place
        relay.security, relay.username = change.security, change.username or None
        relay.connections, relay.messages_per_connection = change.connections, change.messages_per_connection
        relay.timeout_seconds = change.timeout_seconds
        if change.attempts is not None:
            relay.retry_delays_seconds = delays_for(change.attempts, relay.retry_delays_seconds)
        relay.hello_name = _host_name(change.hello_name, "What we are called")
        relay.envelope_domain = _host_name(change.envelope_domain, "Where undeliverable mail comes back to")
        relay.authority = _authority(change.authority)
        if change.password is not None:
            sealed = seal(change.password, secret, given_for=relay_server(relay)) if change.password else None
            relay.sealed_password = sealed
        elif relay.sealed_password is not None and relay_server(relay) != before:
            raise password_again()
        # Whatever was wrong may be mended now: it is tried at once.
        relay.trouble, relay.rests, relay.rests_until, relay.full_until = None, 0, None, None
        relay.revision += 1
        tx.add(relay)
        tx.flush()
        if relay_id is None:
            permits.set_limits(tx, permits.relay_scope(relay.id or 0), limits)
        queue.wake_workers(tx)
        audit(tx, actor, Action.RELAY_CHANGED, relay.id, name=relay.name)
        return relay_view(tx, relay)


def _relay_to_save(tx: Transaction, relay_id: int | None, change: RelayChange) -> Relay:
    """The relay that is changed, or one that is made, in its pool. Raises NotFound, Conflict."""
    if relay_id is None:
        if change.pool_id is None:
            raise BadInput("no_pool", "Say which pool the relay stands in.", field="pool_id")
        pool = require_pool(tx, change.pool_id)
        return Relay(
            pool_id=pool.id or 0,
            place=1,
            name=change.name,
            host=change.host,
            port=change.port,
            retry_delays_seconds=list(RETRY_DELAYS_SECONDS),
            revision=0,
        )
    relay = _require_relay(tx, relay_id)
    if change.revision not in (None, relay.revision):
        raise Conflict("changed", "Somebody else changed this relay meanwhile; look at it again.")
    if change.pool_id not in (None, relay.pool_id):
        require_pool(tx, relay.pool_id)
        require_not_needed(tx, relay.pool_id, relay_id)
        relay.pool_id = require_pool(tx, change.pool_id or 0).id or 0
    return relay


def _require_relay(tx: Transaction, relay_id: int) -> Relay:
    relay = tx.get(Relay, relay_id, with_for_update={"key_share": True})
    if relay is None or relay.removed_at is not None:
        raise NotFound("relay")
    return relay


@needs(Permission.SET_UP)
def remove_relay(database: Database, actor: Actor, relay_id: int) -> None:
    """Remove a relay and forget its password. What it has in hand is finished; the rest goes through others of its pool.

    Raises NotFound; Conflict while it is the last of a pool that a run needs.
    """
    with database.transaction() as tx:
        permits.set_limits(tx, permits.relay_scope(relay_id), {})
        relay = _require_relay(tx, relay_id)
        require_pool(tx, relay.pool_id)
        require_not_needed(tx, relay.pool_id, relay_id)
        relay.removed_at, relay.sealed_password = instant(tx), None
        relay.revision += 1
        tx.add(relay)
        queue.wake_workers(tx)
        audit(tx, actor, Action.RELAY_REMOVED, relay.id, name=relay.name)


@needs(Permission.SET_UP)
def note_largest(database: Database, actor: Actor, relay_id: int, largest_bytes: int | None) -> None:
    """Note how large a relay says that messages may be. Raises NotFound."""
    with database.transaction() as tx:
        relay = _require_relay(tx, relay_id)
        relay.largest_bytes = largest_bytes
        tx.add(relay)


_HOST_NAME = re.compile(r"(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?")


def _host_name(told: str | None, what: str) -> str | None:
    """A name of the DNS in its ASCII form (RFC 1123 section 2.1, RFC 5891), None for none. Raises BadInput."""
    name = (told or "").strip().rstrip(".").lower()
    if not name:
        return None
    written = wire_form(f"x@{name}").partition("@")[2]
    if len(written) > 253 or not _HOST_NAME.fullmatch(written):
        raise BadInput("host_name", f"{what} is a name such as mail.museum.example.")
    return written


def _authority(told: str | None) -> str | None:
    """Certificates in PEM (RFC 7468), None for none. Raises BadInput."""
    text = (told or "").strip()
    if not text:
        return None
    try:
        certificates = load_pem_x509_certificates(text.encode())
    except ValueError as fault:
        raise BadInput(
            "authority", "This is no certificate. It begins with -----BEGIN CERTIFICATE-----.", field="authority"
        ) from fault
    return "".join(one.public_bytes(Encoding.PEM).decode() for one in certificates)


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayAccess:
    """How to reach a relay; the password is in clear here and must not be logged."""

    name: str
    host: str
    port: int
    security: str
    username: str | None
    password: str | None
    connections: int
    messages_per_connection: int
    timeout_seconds: int
    hello_name: str | None
    authority: str | None


def relay_access(relay: Relay, secret: bytes) -> RelayAccess:
    """A relay's settings with its password opened. Raises SecretLost."""
    return RelayAccess(
        name=relay.name,
        host=relay.host,
        port=relay.port,
        security=relay.security,
        username=relay.username,
        password=unseal(relay.sealed_password, secret, given_for=relay_server(relay))
        if relay.sealed_password
        else None,
        connections=relay.connections,
        messages_per_connection=relay.messages_per_connection,
        timeout_seconds=relay.timeout_seconds,
        hello_name=relay.hello_name,
        authority=relay.authority,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayTest:
    """What a relay is tried with. Without a sender, or somebody who could get it, there is no letter (`raw` is None)."""

    relay: RelayAccess
    from_address: str
    to_address: str
    raw: bytes | None


@needs(Permission.SET_UP)
def prepare_relay_test(
    database: Database, actor: Actor, relay_id: int, *, secret: bytes, mail_id: str, now: datetime
) -> RelayTest:
    """A relay with a letter to whoever tries it, from the first sender. Raises NotFound, SecretLost."""
    with database.transaction() as tx:
        relay = _require_relay(tx, relay_id)
        sender = next(iter(organisation_store.senders(tx)), None)
        access = relay_access(relay, secret)
        if sender is None or not actor.email:
            return RelayTest(relay=access, from_address="", to_address="", raw=None)
        envelope = Envelope(
            message_id=f"relay-test.{mail_id}@{sender.address.rpartition('@')[2]}",
            date=now,
            from_name=sender.name,
            from_address=sender.address,
            to_name=actor.name,
            to_address=actor.email,
            reply_to=None,
            list_id=None,
            unsubscribe_url=None,
        )
        words = (
            f"This is a test of the relay “{relay.name}” ({relay.host}:{relay.port}).\n\n"
            f"{actor.name} tried it. It went to nobody else."
        )
        return RelayTest(
            relay=access,
            from_address=wire_form(sender.address),
            to_address=wire_form(actor.email),
            raw=assemble_note(f"Test of the relay {relay.name}", words, envelope),
        )


@needs(Permission.SET_UP)
def relays_to_try(database: Database, actor: Actor, *, secret: bytes) -> list[tuple[str, RelayAccess | None, str]]:
    """(name, access, why not) of every relay; there is no access where its password cannot be opened."""
    with database.transaction() as tx:
        told: list[tuple[str, RelayAccess | None, str]] = []
        for relay in organisation_store.relays(tx):
            try:
                told.append((relay.name, relay_access(relay, secret), ""))
            except SecretLost as fault:
                told.append((relay.name, None, fault.message))
        return told
