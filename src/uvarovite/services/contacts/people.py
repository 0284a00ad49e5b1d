"""One person beside the table: their record, consent, what they were sent, and the history of it all."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.consent import ConsentEvidence, ConsentState, SuppressionReason, may_be_lifted_by_user
from uvarovite.core.consent.own_limit import AtMost
from uvarovite.core.contacts.acts import act_words
from uvarovite.core.contacts.verification import Verdict
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.messages import Tracked
from uvarovite.core.values import Address, read_address
from uvarovite.core.values.address_hints import address_hints
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import NotFound
from uvarovite.store import responses as response_store
from uvarovite.store.campaigns.printing import letters_of_contact
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent.own_limits import limit_of
from uvarovite.store.consent.post import post_refusal
from uvarovite.store.consent.suppressions import suppressions_of
from uvarovite.store.consent.tracking_wishes import wish_of
from uvarovite.store.contacts import changes as change_store
from uvarovite.store.contacts import people as people_store
from uvarovite.store.contacts import records as store
from uvarovite.store.contacts.tags import tags_of
from uvarovite.store.contacts.verification import verdict_of
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables.responses import ResponseKind


@dataclass(frozen=True, slots=True, kw_only=True)
class ClosedAddress:
    """Somebody left a topic for an address: `by` is None when they are erased by now."""

    by_id: int | None
    by: str | None
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class TopicState:
    """Where a person stands with a topic: never, asked, subscribed, paused or left. With `closed` they get nothing about
    it, whatever they said: the address that they have was closed.
    """

    id: int
    key: str
    name: str
    state: str
    since: datetime | None
    paused_until: datetime | None
    closed: ClosedAddress | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerLine:
    """One event of a person's consent. `until` is the end of a pause."""

    id: int
    at: datetime
    topic_key: str
    topic: str
    kind: str
    until: datetime | None
    channel: str
    evidence: ConsentEvidence
    recorded_by: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SentLine:
    """One message that a person was to get."""

    delivery_id: int
    run_id: int
    campaign_id: int
    campaign: str
    state: DeliveryState
    at: datetime
    came: list[ResponseKind]


@dataclass(frozen=True, slots=True, kw_only=True)
class PostRefusalView:
    """That a person wants no letters on paper, in what words."""

    at: datetime
    wording: str
    recorded_by: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintedLine:
    """A letter that was printed for a person."""

    campaign_id: int
    campaign: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class SuppressionLine:
    """An entry of the suppression list that concerns a person. `liftable`: somebody with an account may take it off."""

    id: int
    reason: str
    at: datetime
    topic: str | None
    domain: str | None
    evidence: ConsentEvidence
    liftable: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteLine:
    """What somebody wrote down."""

    id: int
    at: datetime
    by: str | None
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HistoryLine:
    """One change set as far as it concerns a person: {field: {before, after}} in stored form."""

    change_set_id: int
    at: datetime
    by: str | None
    channel: str
    what: str
    changes: dict[str, Any]
    undone: bool
    undone_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SameAddress:
    """Somebody else with the same address."""

    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HintLine:
    """What looks odd about an address: role, or typo with the address that was probably meant."""

    code: str
    suggestion: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class VerificationView:
    """Can the address's domain take mail: the verdict, why, and when its name servers said so."""

    verdict: str
    reason: str
    checked_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """One contact with everything that is known."""

    id: int
    name: str
    address: str | None
    record: dict[str, Any]
    tags: list[str]
    topics: list[TopicState]
    ledger: list[LedgerLine]
    suppressions: list[SuppressionLine]
    sent: list[SentLine]
    post_refusal: PostRefusalView | None
    own_limit: AtMost | None
    wish: Tracked | None
    printed: list[PrintedLine]
    notes: list[NoteLine]
    history: list[HistoryLine]
    same_address: list[SameAddress]
    hints: list[HintLine]
    verification: VerificationView | None
    came_from: str | None
    created_at: datetime
    updated_at: datetime


# More lines than anybody has.
ALL = 1_000_000


def state_now(state: str | None, paused_until: datetime | None, now: datetime) -> str:
    """A consent's state as it is shown: a pause that has not ended is told apart."""
    if state == ConsentState.SUBSCRIBED and paused_until is not None and paused_until > now:
        return "paused"
    return state or ConsentState.NEVER.value


@needs(Permission.LOOK)
def person(database: Database, actor: Actor, contact_id: int, now: datetime, *, whole: bool = False) -> Person:
    """One contact. Raises NotFound."""
    with database.transaction() as tx:
        contact = store.get_contact(tx, contact_id)
        if contact is None:
            raise NotFound("contact")
        return Person(
            id=contact_id,
            name=" ".join(filter(None, [contact.first_name, contact.last_name])),
            address=contact.address,
            record={**store.standard_values(contact), **contact.own},
            tags=tags_of(tx, contact_id),
            topics=[
                TopicState(
                    id=row.id,
                    key=row.key,
                    name=row.name,
                    state=state_now(row.state, row.paused_until, now),
                    since=row.since,
                    paused_until=row.paused_until,
                    closed=ClosedAddress(by_id=row.left_by, by=row.left_name, at=row.left_at)
                    if row.left_address
                    else None,
                )
                for row in consent_store.consent_of_contact(tx, contact_id)
            ],
            ledger=[LedgerLine(**row._mapping) for row in consent_store.ledger_of_contact(tx, contact_id)],
            suppressions=[
                SuppressionLine(
                    id=row.id,
                    reason=row.reason,
                    at=row.at,
                    topic=row.topic,
                    domain=row.domain,
                    evidence=row.evidence,
                    liftable=may_be_lifted_by_user(SuppressionReason(row.reason)),
                )
                for row in suppressions_of(tx, contact.address_folded)
            ],
            sent=[
                SentLine(
                    delivery_id=row.id,
                    run_id=row.run_id,
                    campaign_id=row.campaign_id,
                    campaign=row.campaign,
                    state=DeliveryState(row.state),
                    at=row.at,
                    came=[ResponseKind(kind) for kind in row.came],
                )
                for row in response_store.deliveries_of_contact(tx, contact_id, ALL if whole else 20)
            ],
            post_refusal=_post_refusal(tx, contact_id),
            own_limit=limit_of(tx, contact_id),
            wish=wish_of(tx, contact_id),
            printed=[PrintedLine(**row._mapping) for row in letters_of_contact(tx, contact_id)],
            notes=[NoteLine(**row._mapping) for row in people_store.notes_of(tx, contact_id)],
            history=[
                HistoryLine(
                    change_set_id=row.change_set_id,
                    at=row.at,
                    by=row.by,
                    channel=row.channel,
                    what=act_words(row.act, row.facts),
                    changes=row.changes,
                    undone=row.undone_at is not None,
                    undone_at=row.undone_at,
                )
                for row in change_store.changes_of_contact(tx, contact_id, ALL if whole else 50)
            ],
            same_address=[
                SameAddress(id=row.id, name=row.name)
                for row in store.others_with(tx, contact_id=contact_id, address_folded=contact.address_folded)
            ],
            hints=[
                HintLine(code=hint.code, suggestion=hint.suggestion)
                for hint in address_hints(contact.address_folded or "", people_store.usual_domains(tx))
            ],
            verification=_verification(tx, contact.address_folded),
            came_from=people_store.file_of(tx, contact.import_id),
            created_at=contact.created_at,
            updated_at=contact.updated_at,
        )


def _post_refusal(tx: Transaction, contact_id: int) -> PostRefusalView | None:
    found = post_refusal(tx, contact_id)
    return PostRefusalView(**found._mapping) if found else None


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressView:
    """What is to be said about an address before somebody is added with it; `fault` is why it is none."""

    fault: str
    hints: list[HintLine]
    same_address: list[SameAddress]


@needs(Permission.LOOK)
def look_at_address(database: Database, actor: Actor, text: str) -> AddressView:
    """What is odd about an address that is being typed, and who has it already."""
    read = read_address(text)
    if not isinstance(read, Address):
        return AddressView(fault=read.message, hints=[], same_address=[])
    with database.transaction() as tx:
        return AddressView(
            fault="",
            hints=[
                HintLine(code=hint.code, suggestion=hint.suggestion)
                for hint in address_hints(read.folded, people_store.usual_domains(tx))
            ],
            same_address=[
                SameAddress(id=row.id, name=row.name)
                for row in store.others_with(tx, contact_id=0, address_folded=read.folded)
            ],
        )


def _verification(tx: Transaction, address_folded: str | None) -> VerificationView | None:
    if address_folded is None:
        return None
    found = verdict_of(tx, address_folded)
    if found is None:
        return VerificationView(
            verdict=Verdict.UNCHECKED, reason="nobody has asked its name servers yet", checked_at=None
        )
    return VerificationView(verdict=found.verdict, reason=found.reason, checked_at=found.checked_at)


@needs(Permission.CONTACTS)
def domain_of(database: Database, actor: Actor, contact_id: int) -> str:
    """The domain of a contact's address. Raises NotFound."""
    with database.transaction() as tx:
        contact = store.get_contact(tx, contact_id)
        if contact is None or contact.address_folded is None:
            raise NotFound("address")
        return contact.address_folded.rpartition("@")[2]
