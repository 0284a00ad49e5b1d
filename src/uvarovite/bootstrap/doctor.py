"""A look at the whole installation. Nothing is changed or sent."""

import asyncio
from collections.abc import Iterator

from uvarovite.bootstrap.clocks import Clock, system_clock
from uvarovite.bootstrap.health import is_ready
from uvarovite.core.accounts import SYSTEM
from uvarovite.net.names import NameLookUp
from uvarovite.net.relay_test import try_relay
from uvarovite.services.delivery import examination
from uvarovite.services.delivery.examination import Found
from uvarovite.services.delivery.waiting import what_waits
from uvarovite.services.organisation.relays import RelayAccess, relays_to_try
from uvarovite.services.organisation.signing import signing_view
from uvarovite.settings import Settings
from uvarovite.store.database import Database


def examine(settings: Settings, database: Database, clock: Clock = system_clock) -> Iterator[Found]:
    """Each part in the order in which they build on each other; without a database that works there is no more to say."""
    reason = is_ready(database)
    yield examination.database_found(database.place(), reason)
    if reason:
        return
    waiting = what_waits(database)
    yield examination.clocks_found(abs(waiting.now - clock()))
    yield examination.workers_found(waiting)
    for name, access, lost in relays_to_try(database, SYSTEM, secret=settings.sealing()):
        yield asyncio.run(_relay(name, access, lost))
    view = signing_view(database, SYSTEM)
    yield from examination.signing_found(view)
    yield asyncio.run(_names(settings, view.domains))
    yield examination.address_found(settings.base_url())


async def _relay(name: str, access: RelayAccess | None, lost: str) -> Found:
    if access is None:
        return examination.relay_found(name, why_not=lost, is_open=False, milliseconds=0)
    report = await try_relay(access, None)
    failed = next((step for step in report.steps if not step.worked), None)
    return examination.relay_found(
        name,
        why_not=f"{failed.name}: {failed.words}" if failed else "",
        is_open=access.security == "none",
        milliseconds=sum(step.milliseconds for step in report.steps),
    )


async def _names(settings: Settings, domains: list[str]) -> Found:
    answer = await NameLookUp(settings.name_server)(next(iter(domains), "example.org"))
    return examination.names_found(answered=answer.answered)
