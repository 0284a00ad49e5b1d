"""Asking name servers about the contacts' domains. No transaction is open while they are asked."""

import asyncio
from collections.abc import Callable
from datetime import datetime

from uvarovite.core.contacts.verification import DomainVerdict, LookUp, domain_verdict
from uvarovite.services.errors import BadInput
from uvarovite.store.contacts import verification as store
from uvarovite.store.database import Database

# Asked for at once; name servers mind more.
_AT_ONCE = 20
_IN_ONE_GO = 200


async def check_domains(database: Database, look_up: LookUp, clock: Callable[[], datetime]) -> int:
    """Ask about the domains whose turn it is, some hundred at most; how many."""

    def wanted() -> list[str]:
        with database.transaction() as tx:
            return store.domains_to_check(tx, clock(), _IN_ONE_GO)

    domains = await asyncio.to_thread(wanted)
    await _check(database, domains, look_up, clock)
    return len(domains)


async def check_domain(database: Database, domain: str, look_up: LookUp, clock: Callable[[], datetime]) -> None:
    """Ask about one domain now. Raises BadInput."""
    if not domain or len(domain) > 253 or "@" in domain:
        raise BadInput("domain", "This is no domain.")
    await _check(database, [domain.lower()], look_up, clock)


async def _check(database: Database, domains: list[str], look_up: LookUp, clock: Callable[[], datetime]) -> None:
    gate = asyncio.Semaphore(_AT_ONCE)

    async def one(domain: str) -> tuple[str, DomainVerdict]:
        async with gate:
            return domain, domain_verdict(await look_up(domain))

    found = await asyncio.gather(*(one(domain) for domain in domains))

    def keep() -> None:
        with database.transaction() as tx:
            store.put_verdicts(tx, found, clock())

    if found:
        await asyncio.to_thread(keep)
