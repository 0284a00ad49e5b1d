"""The relays that carry the organisation's mail."""

import re
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.campaigns import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.note_message import assemble_note
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.secrets import SecretLost, seal, unseal
from uvarovite.store import organisation as organisation_store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import permits, queue
from uvarovite.store.tables import Relay
from uvarovite.store.tables.organisation import Security


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayView:
    """A relay; its password is never shown."""

    id: int
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
    hello_name: str | None
    envelope_domain: str | None
    trouble: str | None


def relay_view(tx: Transaction, relay: Relay) -> RelayView:
    """A relay as it is shown."""
    scope = permits.relay_scope(relay.id or 0)
    limits = permits.limits_of(tx, [scope])[scope]
    return RelayView(
        id=relay.id or 0,
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
        hello_name=relay.hello_name,
        envelope_domain=relay.envelope_domain,
        trouble=relay.trouble.message if relay.trouble else None,
    )


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
    """A relay's settings as edited; a `password` of None leaves the stored one."""

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
    hello_name: str | None = None
    envelope_domain: str | None = None


@needs(Permission.SET_UP)
def change_relay(database: Database, actor: Actor, relay_id: int, change: RelayChange, *, secret: bytes) -> RelayView:
    """Save a relay's settings. Raises NotFound, BadInput, also when a stored password would go to another server."""
    if not change.name.strip() or not change.host.strip():
        raise BadInput("blank", "A relay needs a name and a host.")
    if change.security not in set(Security):
        raise BadInput("security", f"Security is one of {', '.join(Security)}.")
    with database.transaction() as tx:
        relay = tx.get(Relay, relay_id)
        if relay is None:
            raise NotFound("relay")
        # Before the relay's own row, as whoever settles what it answered does.
        limits = {
            MINUTE_SECONDS: change.minute_limit,
            HOUR_SECONDS: change.hourly_limit,
            DAY_SECONDS: change.daily_limit,
        }
        permits.set_limits(tx, permits.relay_scope(relay_id), limits)
        before = relay_server(relay)
        relay.name, relay.host, relay.port = change.name.strip(), change.host.strip(), change.port
        relay.security, relay.username = change.security, change.username or None
        relay.connections, relay.messages_per_connection = change.connections, change.messages_per_connection
        relay.timeout_seconds = change.timeout_seconds
        relay.hello_name = _host_name(change.hello_name, "What we are called")
        relay.envelope_domain = _host_name(change.envelope_domain, "Where undeliverable mail comes back to")
        if change.password is not None:
            sealed = seal(change.password, secret, given_for=relay_server(relay)) if change.password else None
            relay.sealed_password = sealed
        elif relay.sealed_password is not None and relay_server(relay) != before:
            raise password_again()
        # Whatever was wrong may be mended now: it is tried at once.
        relay.trouble, relay.rests, relay.rests_until = None, 0, None
        relay.revision += 1
        tx.add(relay)
        tx.flush()
        queue.wake_workers(tx)
        audit(tx, actor, Action.RELAY_CHANGED, relay.id, name=relay.name)
        return relay_view(tx, relay)


@needs(Permission.SET_UP)
def note_largest(database: Database, actor: Actor, relay_id: int, largest_bytes: int | None) -> None:
    """Note how large a relay says that messages may be. Raises NotFound."""
    with database.transaction() as tx:
        relay = tx.get(Relay, relay_id)
        if relay is None:
            raise NotFound("relay")
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
        relay = tx.get(Relay, relay_id)
        sender = next(iter(organisation_store.senders(tx)), None)
        if relay is None:
            raise NotFound("relay")
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
