"""Setting an organisation up for the first time, and entries into the ledger by hand."""

from dataclasses import dataclass

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.campaigns import HOUR_SECONDS
from uvarovite.core.contacts import Field, field_problem
from uvarovite.core.delivery import RETRY_DELAYS_SECONDS
from uvarovite.core.values import CURRENCIES
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.store import organisation as store
from uvarovite.store.contacts.fields import add_field
from uvarovite.store.database import Database
from uvarovite.store.delivery import permits
from uvarovite.store.expressions.by_hand import rebuild_views
from uvarovite.store.tables import Organisation, Relay, RelayPool, Sender, Topic


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTopic:
    """A topic to begin with. `sender` is the place, among the senders, of who its messages come from."""

    key: str
    name: str
    description: str
    sender: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class NewRelay:
    """A relay to begin with; those of a pool share what goes out where they stand at the same place."""

    pool: str
    name: str
    host: str
    port: int
    security: str
    hourly_limit: int | None
    place: int = 1
    envelope_domain: str | None = None
    connections: int = 4
    timeout_seconds: int = 120
    retry_delays_seconds: tuple[int, ...] = RETRY_DELAYS_SECONDS


@dataclass(frozen=True, slots=True, kw_only=True)
class Founding:
    """What an organisation begins with. `time_zone` is an IANA name."""

    name: str
    postal_address: str
    locale: str
    time_zone: str
    list_domain: str
    fields: tuple[Field, ...]
    topics: tuple[NewTopic, ...]
    senders: tuple[tuple[str, str], ...]
    relays: tuple[NewRelay, ...]


def is_founded(database: Database) -> bool:
    """Is the organisation set up already?"""
    with database.transaction() as tx:
        return store.organisation(tx) is not None


@needs(Permission.SET_UP)
def found_organisation(database: Database, actor: Actor, founding: Founding) -> None:
    """Set an organisation up, in one transaction. Raises BadInput for a field that cannot be."""
    with database.transaction() as tx:
        tx.add(
            Organisation(
                name=founding.name,
                postal_address=founding.postal_address,
                locale=founding.locale,
                time_zone=founding.time_zone,
                list_domain=founding.list_domain,
            )
        )
        for field in founding.fields:
            if fault := field_problem(field, list(CURRENCIES)):
                raise BadInput("field", fault)
            add_field(tx, field)
        rebuild_views(tx)
        senders = [Sender(name=name, address=address) for name, address in founding.senders]
        tx.add_all(senders)
        tx.flush()
        for position, topic in enumerate(founding.topics):
            sender_id = senders[topic.sender].id if senders else None
            tx.add(
                Topic(
                    key=topic.key,
                    name=topic.name,
                    description=topic.description,
                    sender_id=sender_id,
                    position=position,
                )
            )
        pools = {relay.pool: RelayPool(name=relay.pool) for relay in founding.relays}
        tx.add_all(pools.values())
        tx.flush()
        for relay in founding.relays:
            row = Relay(
                pool_id=pools[relay.pool].id or 0,
                place=relay.place,
                name=relay.name,
                host=relay.host,
                port=relay.port,
                security=relay.security,
                envelope_domain=relay.envelope_domain,
                connections=relay.connections,
                timeout_seconds=relay.timeout_seconds,
                retry_delays_seconds=list(relay.retry_delays_seconds),
            )
            tx.add(row)
            tx.flush()
            permits.set_limits(tx, permits.relay_scope(row.id or 0), {HOUR_SECONDS: relay.hourly_limit})
