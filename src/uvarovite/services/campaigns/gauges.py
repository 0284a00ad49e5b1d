"""The gauges of a pool: what each relay does, how much of its limits is used, and what other runs will take."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.delivery.relay_pools import Doing
from uvarovite.services.organisation.pools import Pool
from uvarovite.store.campaigns import pacing
from uvarovite.store.database import Transaction
from uvarovite.store.delivery import permits


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitGauge:
    """How much of a limit is used, and what other runs will take of it, as far as it goes."""

    seconds: int
    most: int
    used: int
    held: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Holder:
    """Another run that goes through these relays, and how many messages it has still to send."""

    campaign: str
    moving: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayGauges:
    """A relay with its limits and what it does; `until` when it is tried again, or has room again."""

    name: str
    doing: Doing
    until: datetime | None
    trouble: str | None
    limits: list[LimitGauge]


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolGauges:
    """A pool with its relays. `trouble` is why nothing goes out, None while one of them carries."""

    name: str
    trouble: str | None
    relays: list[RelayGauges]
    holders: list[Holder]


def pool_gauges(tx: Transaction, pool: Pool, now: datetime, but_run: int | None = None) -> PoolGauges:
    """How much of the relays' limits is used, by all runs; what others will take is told of those that carry."""
    holders = [
        Holder(campaign=one.campaign, moving=one.moving)
        for one in pacing.runs_of_pool(tx, pool.id)
        if one.id != but_run
    ]
    told, waiting, gauges = pool.doing(now), sum(one.moving for one in holders), []
    for relay in pool.relays:
        doing = told[relay.id or 0]
        limits = []
        for seconds, most in sorted(pool.limits[relay.id or 0].items()):
            used = permits.used_in(tx, permits.relay_scope(relay.id or 0), seconds, now)
            held = min(waiting, max(most - used, 0)) if doing in (Doing.CARRIES, Doing.FULL) else 0
            limits.append(LimitGauge(seconds=seconds, most=most, used=used, held=held))
        gauges.append(
            RelayGauges(
                name=relay.name,
                doing=doing,
                until={Doing.RESTS: relay.rests_until, Doing.FULL: relay.full_until}.get(doing),
                trouble=relay.trouble.message if relay.trouble else None,
                limits=limits,
            )
        )
    return PoolGauges(name=pool.called, trouble=pool.trouble(now), relays=gauges, holders=holders)
