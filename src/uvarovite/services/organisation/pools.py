"""The pools that relays stand in: what a campaign goes through."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.delivery.relay_pools import Doing, RelayStanding, doings, shared_limits
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.store import organisation as store
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.delivery import permits, relays
from uvarovite.store.tables import Relay, RelayPool

LONGEST_NAME = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class Pool:
    """A pool with its relays in their order, how they stand, and the limits of each by seconds."""

    id: int
    name: str
    relays: tuple[Relay, ...]
    standings: tuple[RelayStanding, ...]
    limits: Mapping[int, Mapping[int, int]]

    @property
    def called(self) -> str:
        """What people know it by: its only relay, or its own name."""
        return self.relays[0].name if len(self.relays) == 1 else self.name

    def doing(self, now: datetime) -> dict[int, Doing]:
        """What each relay does at a moment, by id."""
        return doings(self.standings, now)

    def carrying(self, now: datetime) -> list[int]:
        """The relays that share what goes out: at the first place that is well, or at the very first while none is."""
        able = [id_ for id_, doing in self.doing(now).items() if doing in (Doing.CARRIES, Doing.FULL)]
        places = {one.id: one.place for one in self.standings}
        first = min((places[one] for one in able or places), default=0)
        return [one for one, place in places.items() if place == first]

    def limits_now(self, now: datetime) -> dict[int, int]:
        """What those who carry its mail let through together, by seconds."""
        return shared_limits([self.limits[one] for one in self.carrying(now)])

    @property
    def limits_meant(self) -> dict[int, int]:
        """What those at the first place let through together, in trouble or not: what one plans with."""
        first = min((one.place for one in self.standings), default=0)
        return shared_limits([self.limits[one.id] for one in self.standings if one.place == first])

    def trouble(self, now: datetime) -> str | None:
        """Why nothing goes out; None while one of them carries, and has answered since it was in trouble last."""
        if not self.relays:
            return f"There is no relay in the pool “{self.name}”. Add one in Set-up."
        carrying = self.carrying(now)
        troubles = [one.trouble for one in self.relays if one.id in carrying]
        told = next((one for one in troubles if one), None)
        return told.message if told and all(troubles) else None

    @property
    def largest_bytes(self) -> int | None:
        """How large a message may be that any of them may have to carry, as far as they have said so."""
        return min((one.largest_bytes for one in self.relays if one.largest_bytes), default=None)


def load_pool(tx: Transaction, pool_id: int | None) -> Pool | None:
    """A pool with its relays; None where there is none."""
    pool = tx.get(RelayPool, pool_id) if pool_id is not None else None
    if pool is None:
        return None
    found = store.relays_of_pool(tx, pool.id or 0)
    scopes = {permits.relay_scope(one.id or 0): one.id or 0 for one in found}
    return Pool(
        id=pool.id or 0,
        name=pool.name,
        relays=tuple(found),
        standings=tuple(relays.standings(tx, pool.id)),
        limits={scopes[scope]: limits for scope, limits in permits.limits_of(tx, scopes).items()},
    )


def relay_for_one(tx: Transaction, pool_id: int | None, now: datetime) -> Relay | None:
    """The relay for a single message: the first that carries now in a pool, or in the first one that has any."""
    for asked in [pool_id] if pool_id is not None else [one.id for one in store.pools(tx)]:
        pool = load_pool(tx, asked)
        if pool and pool.relays:
            carrying = pool.carrying(now)
            return next(one for one in pool.relays if one.id in carrying)
    return None


@needs(Permission.SET_UP)
def save_pool(database: Database, actor: Actor, pool_id: int | None, name: str) -> int:
    """Make a pool, or call it otherwise; its id. Raises BadInput, NotFound."""
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput("name", f"A pool needs a name of at most {LONGEST_NAME} characters.", field="name")
    with database.transaction() as tx:
        if any(one.name == name and one.id != pool_id for one in store.pools(tx)):
            raise BadInput("taken", f"There is a pool “{name}” already.", field="name")
        pool = require_pool(tx, pool_id) if pool_id is not None else RelayPool(name=name)
        pool.name = name
        tx.add(pool)
        tx.flush()
        audit(tx, actor, Action.POOL_SAVED, pool.id, name=name)
        return pool.id or 0


@needs(Permission.SET_UP)
def remove_pool(database: Database, actor: Actor, pool_id: int) -> None:
    """Remove a pool without relays; campaigns that went through it have to choose another. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        pool = require_pool(tx, pool_id)
        if store.relays_of_pool(tx, pool_id):
            raise Conflict("used", "There are relays in this pool. Remove them, or move them to another, first.")
        store.forget_pool(tx, pool_id)
        pool.removed_at = instant(tx)
        tx.add(pool)
        audit(tx, actor, Action.POOL_REMOVED, pool_id, name=pool.name)


def require_pool(tx: Transaction, pool_id: int) -> RelayPool:
    """A pool that was not removed, locked. Raises NotFound."""
    pool = tx.get(RelayPool, pool_id, with_for_update={"key_share": True})
    if pool is None or pool.removed_at is not None:
        raise NotFound("pool")
    return pool


def require_not_needed(tx: Transaction, pool_id: int, but_relay: int) -> None:
    """Refuse that a relay leaves a pool which has no other while runs or planned releases need it. Raises Conflict."""
    if any(one.id != but_relay for one in store.relays_of_pool(tx, pool_id)):
        return
    if needed := store.needs_pool(tx, pool_id):
        raise Conflict(
            "used", f"“{needed[0]}” goes through this relay, and no other is in its pool. Add another one there first."
        )
