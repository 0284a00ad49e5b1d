"""A museum whose run is on its way through a simulated world, and what must be true of it whatever happens."""

import os
from collections import Counter
from dataclasses import dataclass

from tests.support.museum import NOW, Museum, make_museum
from tests.support.processes import Installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import MINUTE_SECONDS
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.sending import LEASE
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.store.database import Database, change_sql, run_sql
from uvarovite.store.delivery import permits

IS_LONG = bool(os.environ.get("UVAROVITE_ENDURANCE"))
PEOPLE = 5_000 if IS_LONG else 400
PATIENCE = 900.0 if IS_LONG else 90.0
# What a worker may have in hand.
IN_HAND = 16
# Whatever these stages drop may have been taken: the end of the text was out.
MAY_BE_TAKEN = ("text", "end", "reply")
FEW_IN_HAND = {"UVAROVITE_MOST_IN_HAND": str(IN_HAND)}


@dataclass(frozen=True, slots=True)
class Night:
    """A museum whose run is on its way through a simulated world."""

    museum: Museum
    world: Installation
    run_id: int

    def view(self) -> DispatchView:
        return dispatch_view(self.museum.database, SYSTEM, self.run_id, system_clock())

    def settled(self) -> int:
        states = self.view().states
        return sum(n for state, n in states.items() if state not in ("waiting", "claimed", "sending", "deferred"))

    def forget_the_dead(self) -> None:
        """What dead workers held is free once their leases have run out; nobody waits for that here, but says it has."""
        sending.recover(self.museum.database, system_clock() + 2 * LEASE)

    def until_over(self, workers: int = 2) -> None:
        for _ in range(workers):
            self.world.start("worker")
        until(lambda: self.view().state == "ended", "the end of the run", PATIENCE)

    def hold_against_the_world(self, most_unknown: int) -> Counter[str]:
        """Nobody twice, nobody missing, the sums agree; how many stand in each state."""
        view, account = self.view(), self.world.account()
        assert view.planned == PEOPLE == sum(view.states.values())
        assert set(view.states) <= {"accepted", "refused", "unknown", "held"}
        assert account["twice"] == 0
        with self.museum.database.transaction() as tx:
            rows = run_sql(tx, "SELECT address, state FROM delivery WHERE run_id = :run", {"run": self.run_id})
            assert run_sql(tx, "SELECT count(*) FROM send_open")[0][0] == 0
        states = {row.address: row.state for row in rows}
        taken = [who for _, who, _ in self.world.taken()]
        assert len(set(taken)) == len(taken) == account["taken"]
        # Accepted is the relay's word, and what it has without our knowing is among the unknown.
        assert {who for who, state in states.items() if state == "accepted"} <= set(taken)
        assert {states[who] for who in taken} <= {"accepted", "unknown"}
        assert view.states.get("unknown", 0) <= most_unknown
        return Counter(states.values())


def begun(
    database: Database, world: Installation, *, scenario: str = "calm", limit: int | None = None, connections: int = 4
) -> Night:
    """A run of so many people is released, and nobody sends it yet."""
    rows = "\n".join(f"P-{n:05d},person{n}@slatepost.example" for n in range(PEOPLE))
    museum = make_museum(
        database, people=f"Contact no.,E-mail address\n{rows}\n", smtp_port=world.ports["smtp"], batch_size=100
    )
    with database.transaction() as tx:
        change_sql(tx, "UPDATE relay SET retry_delays_seconds = '{1, 1, 1, 1}', connections = :n", {"n": connections})
        permits.set_limits(tx, permits.relay_scope(museum.relay_id), {MINUTE_SECONDS: limit})
    world.start_rehearsal(scenario=scenario)
    return Night(museum, world, museum.release(NOW))
