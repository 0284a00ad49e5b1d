"""The organisation's own facts: who it is, its topics, its relays; and the clock in its time zone."""

from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from babel import Locale

from uvarovite.core.contacts import Field, FieldMap, Reading
from uvarovite.core.contacts.amounts import has_decimal_comma
from uvarovite.core.contacts.verification import VERIFICATION
from uvarovite.core.expressions import OPERATORS, Clock
from uvarovite.core.inlay import FORMATS, PROVIDED
from uvarovite.core.messages import LANGUAGES
from uvarovite.core.values import CURRENCIES, AddressFault, read_address
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.services.secrets import seal
from uvarovite.store import campaigns as store
from uvarovite.store import consent as consent_store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.fields import Samples, field_samples, load_fields
from uvarovite.store.tables import Organisation, Relay
from uvarovite.store.tables.campaigns import Security
from uvarovite.store.tags import all_tags


def require_organisation(tx: Transaction) -> Organisation:
    """The organisation. Raises ServiceRefusal before it is set up."""
    found = store.organisation(tx)
    if found is None:
        raise ServiceRefusal("not_set_up", "The organisation is not set up yet.")
    return found


def clock_for(time_zone: str, now: datetime) -> Clock:
    """The clock that criteria and messages see: now in the organisation's time zone (an IANA name)."""
    local = now.astimezone(ZoneInfo(time_zone))
    return Clock(now=local, today=local.date())


def typed_reading(tx: Transaction) -> Reading:
    """How what somebody types is read: numbers in the organisation's style, instants in its zone."""
    organisation = require_organisation(tx)
    return Reading(decimal_comma=has_decimal_comma(organisation.locale), zone=ZoneInfo(organisation.time_zone))


@dataclass(frozen=True, slots=True, kw_only=True)
class PartView:
    """A part of a list field's records."""

    key: str
    label: str
    type: str
    currency: str | None
    choices: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldView:
    """A field for pickers. `blank` counts who has none; with `estimated` it is scaled up from the latest contacts."""

    key: str
    label: str
    help: str
    type: str
    currency: str | None
    choices: list[str]
    parts: list[PartView]
    samples: list[str]
    blank: int
    estimated: bool
    standard: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OperatorView:
    """An operator for pickers; `words` is how it reads in a row."""

    key: str
    words: str
    types: list[str]
    operands: str
    meaning: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TopicView:
    """A topic."""

    id: int
    key: str
    name: str
    description: str
    sender_id: int | None
    revision: int
    double_opt_in: bool
    week_cap: int | None
    month_cap: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SenderView:
    """Who a message can come from."""

    id: int
    name: str
    address: str


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
    hourly_limit: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LanguageView:
    """A language that messages can have, by its code and its English name."""

    code: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Vocabulary:
    """What can be asked and inserted: fields with samples, operators, formats, provided names.

    `asked_only` can be asked for in criteria, and stands in no record.
    """

    organisation: str
    locale: str
    time_zone: str
    fields: list[FieldView]
    asked_only: list[FieldView]
    operators: list[OperatorView]
    formats: dict[str, list[str]]
    languages: list[LanguageView]
    provided: list[str]
    tags: list[str]
    currencies: list[str]
    topics: list[TopicView]
    senders: list[SenderView]
    relays: list[RelayView]


def _field_view(field: Field, samples: Samples) -> FieldView:
    return FieldView(
        key=field.key,
        label=field.label,
        help=field.help,
        type=field.type,
        currency=field.currency,
        choices=list(field.choices),
        parts=[part_view(part) for part in field.parts],
        samples=samples.values,
        blank=samples.blank,
        estimated=samples.estimated,
        standard=field.standard,
    )


def _field_views(tx: Transaction, fields: FieldMap) -> list[FieldView]:
    samples = field_samples(tx, list(fields.values()))
    return [_field_view(field, samples[field.key]) for field in fields.values()]


def part_view(part: Field) -> PartView:
    """A part of a list as it is shown."""
    return PartView(key=part.key, label=part.label, type=part.type, currency=part.currency, choices=list(part.choices))


def _relay_view(relay: Relay) -> RelayView:
    return RelayView(
        id=relay.id or 0,
        name=relay.name,
        host=relay.host,
        port=relay.port,
        security=relay.security,
        username=relay.username,
        has_password=relay.sealed_password is not None,
        hourly_limit=relay.hourly_limit,
    )


def vocabulary(database: Database) -> Vocabulary:
    """Everything that pickers on screen offer."""
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        fields = load_fields(tx)
        return Vocabulary(
            organisation=organisation.name,
            locale=organisation.locale,
            time_zone=organisation.time_zone,
            fields=_field_views(tx, fields),
            asked_only=[_field_view(VERIFICATION, Samples(values=[], blank=0, estimated=False))],
            operators=[
                OperatorView(
                    key=row.key, words=row.said, types=sorted(row.types), operands=row.operands, meaning=row.meaning
                )
                for row in OPERATORS.values()
            ],
            formats={row.name: sorted(row.types) for row in FORMATS.values()},
            languages=[LanguageView(code=code, name=Locale(code).get_display_name("en") or code) for code in LANGUAGES],
            provided=list(PROVIDED),
            tags=[tag.name for tag in all_tags(tx)],
            currencies=list(CURRENCIES),
            topics=[
                TopicView(
                    id=topic.id or 0,
                    key=topic.key,
                    name=topic.name,
                    description=topic.description,
                    sender_id=topic.sender_id,
                    revision=topic.revision,
                    double_opt_in=topic.double_opt_in,
                    week_cap=topic.week_cap,
                    month_cap=topic.month_cap,
                )
                for topic in consent_store.topics(tx)
            ],
            senders=[SenderView(id=one.id or 0, name=one.name, address=one.address) for one in store.senders(tx)],
            relays=[_relay_view(relay) for relay in store.relays(tx)],
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
    hourly_limit: int | None


def change_relay(database: Database, relay_id: int, change: RelayChange, *, secret: bytes) -> RelayView:
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
        relay.hourly_limit = change.hourly_limit
        if change.password is not None:
            sealed = seal(change.password, secret, given_for=relay_server(relay)) if change.password else None
            relay.sealed_password = sealed
        elif relay.sealed_password is not None and relay_server(relay) != before:
            raise password_again()
        tx.add(relay)
        return _relay_view(relay)


def require_address(text: str) -> str:
    """A usable address. Raises BadInput with the reason."""
    address = read_address(text)
    if isinstance(address, AddressFault):
        raise BadInput(address.code, address.message)
    return address.text
