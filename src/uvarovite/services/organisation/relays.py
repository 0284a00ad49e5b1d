"""The relays that carry the organisation's mail."""

from dataclasses import dataclass

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.campaigns import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.secrets import seal, unseal
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
        before = relay_server(relay)
        relay.name, relay.host, relay.port = change.name.strip(), change.host.strip(), change.port
        relay.security, relay.username = change.security, change.username or None
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
        limits = {
            MINUTE_SECONDS: change.minute_limit,
            HOUR_SECONDS: change.hourly_limit,
            DAY_SECONDS: change.daily_limit,
        }
        permits.set_limits(tx, permits.relay_scope(relay_id), limits)
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
    )


@needs(Permission.SET_UP)
def get_relay(database: Database, actor: Actor, relay_id: int, secret: bytes) -> RelayAccess:
    """A relay by id. Raises NotFound."""
    with database.transaction() as tx:
        relay = tx.get(Relay, relay_id)
        if relay is None:
            raise NotFound("relay")
        return relay_access(relay, secret)
