"""Opens and clicks, many at a time: where links lead, and what is noted of whoever fetched something."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.delivery import DeliveryState
from uvarovite.core.delivery.answers import as_kept
from uvarovite.core.responses import Fetch, Keyring, ResponseDetail, machine_reason
from uvarovite.services.messages.composing import composer_of
from uvarovite.store import responses as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery.links import kept_links
from uvarovite.store.tables import Delivery, MessageVersion, Run
from uvarovite.store.tables.responses import ResponseKind


@dataclass(frozen=True, slots=True)
class Seen:
    """A fetch of the pixel (`link` is None) or of a link, by which program, at an instant of ours."""

    delivery_id: int
    link: int | None
    method: str
    agent: str
    at: datetime


def record_seen(database: Database, seen: Sequence[Seen]) -> int:
    """Note what was fetched, in one transaction; how much of it belongs to a delivery of ours."""
    with database.transaction() as tx:
        about = store.runs_of_deliveries(tx, sorted({one.delivery_id for one in seen}))
        events = []
        for one in seen:
            delivery = about.get(one.delivery_id)
            if delivery is None:
                continue
            accepted_at = delivery.settled_at if delivery.state == DeliveryState.ACCEPTED else None
            fetch = Fetch(method=one.method, agent=one.agent, at=one.at, accepted_at=accepted_at)
            events.append(
                store.NewEvent(
                    delivery_id=one.delivery_id,
                    run_id=delivery.run_id,
                    contact_id=delivery.contact_id,
                    kind=ResponseKind.OPENED if one.link is None else ResponseKind.CLICKED,
                    at=one.at,
                    machine_rule=machine_reason(fetch),
                    detail=ResponseDetail(agent=as_kept(one.agent, 300), link=one.link),
                )
            )
        store.add_events(tx, events)
    return len(events)


def link_targets(database: Database, asked: Sequence[tuple[int, int]], *, keyring: Keyring) -> list[str | None]:
    """Where links lead for their people: (delivery, number) each, None for one that leads nowhere.

    It is the address that stood in the message as it was sent: a token can lead nowhere else.
    """
    with database.transaction() as tx:
        kept = kept_links(tx, asked)
        return [
            link.address if link.kept else _made_again(tx, *one, keyring) for one, link in zip(asked, kept, strict=True)
        ]


def _made_again(tx: Transaction, delivery_id: int, number: int, keyring: Keyring) -> str | None:
    """Where a link leads in a message that went out before links were kept."""
    delivery = tx.get(Delivery, delivery_id)
    run = tx.get(Run, delivery.run_id) if delivery else None
    version = tx.get(MessageVersion, run.message_version_id) if run else None
    if delivery is None or run is None or version is None or delivery.marked_at is None:
        return None
    composer = composer_of(tx, run, keyring)
    own = composer.own_addresses(delivery.record, delivery.marked_at)
    return next((link.address or own.get(number) for link in composer.links if link.number == number), None)
