"""What pickers on screen offer: fields with samples, operators, formats, topics, senders, pools of relays."""

from dataclasses import dataclass

from babel import Locale

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts import Field, FieldMap
from uvarovite.core.contacts.verification import VERIFICATION
from uvarovite.core.expressions import EVENTS, OPERATORS, SUBJECTS, NameKind
from uvarovite.core.inlay import FORMATS, PROVIDED
from uvarovite.core.messages import LANGUAGES
from uvarovite.core.values import CURRENCIES
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.relays import PoolView, pool_views
from uvarovite.store import organisation as store
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.contacts.fields import Samples, field_samples, load_fields
from uvarovite.store.contacts.tags import all_tags
from uvarovite.store.database import Database, Transaction


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
class SubjectView:
    """What criteria can ask about besides the record; `key` is the kind of its node, `names` what it names."""

    key: str
    label: str
    names: NameKind | None


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
    reply_to: str | None
    signature: str
    users: list[int]
    revision: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LanguageView:
    """A language that messages can have, by its code and its English name."""

    code: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Vocabulary:
    """What can be asked and inserted: fields with samples, operators, subjects, formats, provided names.

    `asked_only` can be asked for in criteria, and stands in no record.
    """

    organisation: str
    locale: str
    time_zone: str
    fields: list[FieldView]
    asked_only: list[FieldView]
    operators: list[OperatorView]
    subjects: list[SubjectView]
    events: list[str]
    formats: dict[str, list[str]]
    languages: list[LanguageView]
    provided: list[str]
    tags: list[str]
    currencies: list[str]
    topics: list[TopicView]
    senders: list[SenderView]
    pools: list[PoolView]


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


@needs(Permission.LOOK)
def vocabulary(database: Database, actor: Actor) -> Vocabulary:
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
            subjects=[SubjectView(key=row.key, label=row.label, names=row.names) for row in SUBJECTS.values()],
            events=list(EVENTS),
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
            senders=[
                SenderView(
                    id=one.id or 0,
                    name=one.name,
                    address=one.address,
                    reply_to=one.reply_to,
                    signature=one.signature,
                    users=one.users,
                    revision=one.revision,
                )
                for one in store.senders(tx)
            ],
            pools=pool_views(tx),
        )
