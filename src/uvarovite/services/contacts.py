"""The contact table and one person."""

import base64
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson

from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store import consent as consent_store
from uvarovite.store import contacts as store
from uvarovite.store import responses as response_store
from uvarovite.store.database import Database

LARGEST_PAGE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactRow:
    """One line of the table; `record` is the stored form of the custom fields."""

    id: int
    contact_no: str | None
    address: str | None
    first_name: str | None
    last_name: str | None
    language: str | None
    record: dict[str, Any]
    topics: list[str]
    suppressed: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactPage:
    """`after` fetches the next page; it is None at the end. `total` counts all that the search finds."""

    rows: list[ContactRow]
    after: str | None
    total: int


def contact_page(database: Database, *, search: str = "", after: str | None = None, limit: int = 100) -> ContactPage:
    """A page of contacts by name. Raises BadInput for an `after` that is none of ours."""
    key = _read_key(after) if after else None
    limit = min(max(limit, 1), LARGEST_PAGE)
    with database.transaction() as tx:
        found = store.contact_page(tx, search=search[:200], after=key, limit=limit)
        rows = [
            ContactRow(
                id=row.id,
                contact_no=row.contact_no,
                address=row.address,
                first_name=row.first_name,
                last_name=row.last_name,
                language=row.language,
                record=row._mapping["values"],
                topics=row.topics,
                suppressed=row.suppressed,
            )
            for row in found
        ]
        last = found[-1] if len(found) == limit else None
        return ContactPage(
            rows=rows,
            after=_key_text(last.last_key, last.first_key, last.id) if last else None,
            total=store.count_contacts(tx, search[:200]),
        )


def _key_text(last: str, first: str, contact_id: int) -> str:
    return base64.urlsafe_b64encode(orjson.dumps([last, first, contact_id])).decode("ascii")


def _read_key(text: str) -> tuple[str, str, int]:
    try:
        last, first, contact_id = orjson.loads(base64.urlsafe_b64decode(text))
        return str(last), str(first), int(contact_id)
    except (ValueError, TypeError) as fault:
        raise BadInput("bad_page", "This page of the table is not there; begin at the top again.") from fault


@dataclass(frozen=True, slots=True, kw_only=True)
class TopicState:
    """Where a person stands with a topic."""

    key: str
    name: str
    state: str
    since: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerLine:
    """One event of a person's consent."""

    at: datetime
    topic: str
    kind: str
    way: str
    evidence: dict[str, Any]
    recorded_by: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SentLine:
    """One message that a person was to get."""

    delivery_id: int
    run_id: int
    campaign_id: int
    campaign: str
    state: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """One contact with everything that is known."""

    id: int
    name: str
    address: str | None
    record: dict[str, Any]
    topics: list[TopicState]
    ledger: list[LedgerLine]
    suppressed: str | None
    suppressed_at: datetime | None
    sent: list[SentLine]
    created_at: datetime
    updated_at: datetime


def person(database: Database, contact_id: int) -> Person:
    """One contact. Raises NotFound."""
    with database.transaction() as tx:
        contact = store.get_contact(tx, contact_id)
        if contact is None:
            raise NotFound("contact")
        suppression = consent_store.suppression_of(tx, contact.address_folded)
        return Person(
            id=contact_id,
            name=" ".join(filter(None, [contact.first_name, contact.last_name])),
            address=contact.address,
            record={**store.standard_values(contact), **contact.values},
            topics=[
                TopicState(key=row.key, name=row.name, state=row.state or "never", since=row.since)
                for row in consent_store.consent_of_contact(tx, contact_id)
            ],
            ledger=[
                LedgerLine(
                    at=row.at,
                    topic=row.topic,
                    kind=row.kind,
                    way=row.way,
                    evidence=row.evidence,
                    recorded_by=row.recorded_by,
                )
                for row in consent_store.ledger_of_contact(tx, contact_id)
            ],
            suppressed=suppression.reason if suppression else None,
            suppressed_at=suppression.at if suppression else None,
            sent=[
                SentLine(
                    delivery_id=row.id,
                    run_id=row.run_id,
                    campaign_id=row.campaign_id,
                    campaign=row.campaign,
                    state=row.state,
                    at=row.at,
                )
                for row in response_store.deliveries_of_contact(tx, contact_id, 20)
            ],
            created_at=contact.created_at,
            updated_at=contact.updated_at,
        )
