"""Opens and clicks, many at a time: where links lead, and what is noted of whoever fetched something."""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from sqlalchemy import Row

from uvarovite.core.delivery import DeliveryState
from uvarovite.core.delivery.answers import as_kept
from uvarovite.core.messages import Tracked
from uvarovite.core.responses import TOGETHER, Beside, Fetch, Keyring, ResponseDetail, machine_reason
from uvarovite.services.messages.composing import composer_of
from uvarovite.store import responses as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery.links import AskedLink, kept_links
from uvarovite.store.tables import Delivery, MessageVersion, Run
from uvarovite.store.tables.responses import ResponseKind

__all__ = ["AskedLink", "Seen", "link_targets", "record_seen"]


@dataclass(frozen=True, slots=True)
class Seen:
    """A fetch of the pixel (`link` is None) or of a link, by which program, at an instant of ours.

    `unseen`: of the link that nobody sees. What is only counted is of `counted_run`, and of no delivery.
    """

    delivery_id: int
    link: int | None
    method: str
    agent: str
    at: datetime
    unseen: bool = False
    counted_run: int | None = None


# A run, what was done, and the link's number, 0 for the pixel.
_Counted = tuple[int, ResponseKind, int]


def record_seen(database: Database, seen: Sequence[Seen]) -> int:
    """Note what was fetched, in one transaction; how much of it belongs to a delivery or a run of ours."""
    with database.transaction() as tx:
        store.one_writer(tx)
        about = store.runs_of_deliveries(tx, sorted({one.delivery_id for one in seen}))
        released = store.release_times(tx, sorted({one.counted_run for one in seen if one.counted_run}))
        theirs = [one for one in seen if one.delivery_id in about and about[one.delivery_id].wish != Tracked.OFF]
        known = _known(tx, theirs)
        beside = {
            delivery: tuple(dict.fromkeys(one.fetch for one in all_of_it)) for delivery, all_of_it in known.items()
        }
        events, counted = _judged(theirs, about, beside)
        counted += _only_counted(seen, released)
        _take_back(tx, about, known, beside)
        store.add_events(tx, events)
        store.count_only(tx, counted)
    return len(theirs) + sum(one.counted_run in released for one in seen)


def _judged(
    theirs: Sequence[Seen], about: Mapping[int, Row[Any]], beside: Mapping[int, tuple[Beside, ...]]
) -> tuple[list[store.NewEvent], Counter[_Counted]]:
    """What is noted of deliveries, and what is only counted since somebody wishes so."""
    events, counted = [], Counter[_Counted]()
    for one in theirs:
        delivery = about[one.delivery_id]
        rule = machine_reason(
            Fetch(
                method=one.method,
                agent=one.agent,
                at=one.at,
                accepted_at=_accepted_at(delivery),
                link=one.link,
                unseen=one.unseen,
                beside=beside[one.delivery_id],
            )
        )
        if delivery.wish == Tracked.COUNTED:
            counted[delivery.run_id, _kind(one), one.link or 0] += rule is None
            continue
        events.append(
            store.NewEvent(
                delivery_id=one.delivery_id,
                run_id=delivery.run_id,
                contact_id=delivery.contact_id,
                kind=_kind(one),
                at=one.at,
                machine_rule=rule,
                detail=ResponseDetail(agent=_kept(one.agent), link=one.link, unseen=one.unseen),
            )
        )
    return events, counted


def _only_counted(seen: Sequence[Seen], released: Mapping[int, datetime]) -> Counter[_Counted]:
    """What is counted of runs. When a message was accepted nobody knows: whoever comes before the release is early for certain."""
    counted = Counter[_Counted]()
    for one in seen:
        if one.counted_run is not None and one.counted_run in released:
            fetch = Fetch(
                method=one.method, agent=one.agent, at=one.at, accepted_at=released[one.counted_run], link=one.link
            )
            counted[one.counted_run, _kind(one), one.link or 0] += machine_reason(fetch) is None
    return counted


@lru_cache(maxsize=4_096)
def _kept(agent: str) -> str:
    return as_kept(agent, 300)


def _kind(seen: Seen) -> ResponseKind:
    return ResponseKind.OPENED if seen.link is None and not seen.unseen else ResponseKind.CLICKED


@dataclass(frozen=True, slots=True)
class _Known:
    """A fetch of a delivery, noted already (under `event`) or about to be; of a noted one, whether by a person."""

    fetch: Beside
    event: Row[Any] | None = None


def _known(tx: Transaction, seen: Sequence[Seen]) -> Mapping[int, list[_Known]]:
    """All that was and is fetched of the same messages about the same time, by delivery."""
    known: dict[int, list[_Known]] = defaultdict(list)
    for one in seen:
        known[one.delivery_id].append(_Known(Beside(link=one.link, at=one.at, unseen=one.unseen)))
    if seen:
        first, last = min(one.at for one in seen), max(one.at for one in seen)
        for row in store.fetches_between(tx, sorted(known), first - TOGETHER, last + TOGETHER):
            fetch = Beside(link=row.detail.link, at=row.at, unseen=row.detail.unseen)
            known[row.delivery_id].append(_Known(fetch, row))
    return known


def _accepted_at(delivery: Row[Any]) -> datetime | None:
    accepted_at: datetime | None = delivery.settled_at if delivery.state == DeliveryState.ACCEPTED else None
    return accepted_at


def _take_back(
    tx: Transaction,
    about: Mapping[int, Row[Any]],
    known: Mapping[int, Sequence[_Known]],
    beside: Mapping[int, tuple[Beside, ...]],
) -> None:
    """What was noted of people, and turns out by what came since to be machines'."""
    found: dict[int, str] = {}
    for delivery_id, all_of_it in known.items():
        for one in all_of_it:
            event = one.event
            if event is None or event.machine_rule is not None:
                continue
            rule = machine_reason(
                Fetch(
                    method="GET",
                    agent=event.detail.agent or "",
                    at=event.at,
                    accepted_at=_accepted_at(about[delivery_id]),
                    link=event.detail.link,
                    beside=beside[delivery_id],
                )
            )
            if rule is not None:
                found[event.id] = rule
    store.machines_after_all(tx, found)


def link_targets(database: Database, asked: Sequence[AskedLink], *, keyring: Keyring) -> list[str | None]:
    """Where links lead, None for one that leads nowhere.

    It is the address that stood in the message as it was sent: a token can lead nowhere else.
    """
    with database.transaction() as tx:
        kept = kept_links(tx, asked)
        return [
            link.address if link.kept else _made_again(tx, one.delivery_id, one.number, keyring)
            for one, link in zip(asked, kept, strict=True)
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
