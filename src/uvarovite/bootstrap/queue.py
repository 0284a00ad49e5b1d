"""The queue that a delivery worker works with."""

import os
import socket
from collections.abc import Collection, Sequence
from datetime import timedelta

from uvarovite.bootstrap.clocks import Clock, recorded_at, system_clock
from uvarovite.core.delivery.troubles import RelayTrouble
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit, load_run_kit
from uvarovite.services.delivery.sending import LEASE, ClaimedBatch, MarkedGroup, Sent
from uvarovite.settings import Settings
from uvarovite.store.database import Database, DatabaseLost


class DeliveryQueue:
    """The queue of services.delivery.sending, in a database. A clock other than the system's tells its own instants."""

    unavailable: type[Exception] = DatabaseLost

    def __init__(
        self, settings: Settings, database: Database, clock: Clock = system_clock, *, rehearsed: bool = False
    ) -> None:
        self._database = database
        self._clock = clock
        self._sealing = settings.sealing()
        self._keyring = settings.keyring(rehearsed=rehearsed)
        self._worker = f"{socket.gethostname()}:{os.getpid()}"

    def claim(self, lease_token: str, but_relays: Collection[int]) -> ClaimedBatch | None:
        """The batch that is due first."""
        now = recorded_at(self._clock)
        return sending.claim(
            self._database, worker=self._worker, lease_token=lease_token, but_relays=but_relays, now=now
        )

    def next_due(self) -> timedelta | None:
        """How long it is until the next one is due."""
        return sending.next_due(self._database, recorded_at(self._clock))

    def load_kit(self, batch: ClaimedBatch) -> RunKit:
        """What a run's messages are made with, and the relay that carries a batch of it. Raises NotFound."""
        return load_run_kit(self._database, batch.run_id, batch.relay_id, keyring=self._keyring, secret=self._sealing)

    def advance(self, batch: ClaimedBatch, kit: RunKit, sent: Sequence[Sent], wanted: Sequence[int]) -> MarkedGroup:
        """Write answers and mark others. Raises LeaseLost."""
        return sending.advance(self._database, batch, kit, sent, wanted, recorded_at(self._clock))

    def pick_up(self, batch: ClaimedBatch, delivery_ids: Sequence[int]) -> tuple[MarkedDelivery, ...]:
        """Whoever was marked without our hearing of it."""
        return sending.pick_up(self._database, batch, delivery_ids)

    def going(self, batches: Collection[ClaimedBatch]) -> set[str]:
        """The lease tokens of those batches that may go on."""
        return sending.going(self._database, batches)

    def give_back(self, batch: ClaimedBatch, wait: timedelta | None) -> None:
        """Finish with a batch. Raises LeaseLost."""
        sending.give_back(self._database, batch, wait=wait, now=recorded_at(self._clock))

    def rest_relay(self, relay_id: int, trouble: RelayTrouble) -> None:
        """Leave a relay alone for a while."""
        sending.rest_relay(self._database, relay_id, trouble, recorded_at(self._clock))

    def relay_is_full(self, relay_id: int, wait: timedelta) -> None:
        """Claim nothing for a relay that has no room."""
        sending.relay_is_full(self._database, relay_id, wait, recorded_at(self._clock))

    def recover(self) -> int:
        """Take back what dead workers held."""
        return sending.recover(self._database, recorded_at(self._clock))


# A worker that hangs, or is cut off, in the middle of a step holds locks that all others wait for: PostgreSQL takes them
# away long before its lease runs out.
_QUEUE_SETTINGS = (f"idle_in_transaction_session_timeout={LEASE.total_seconds() / 3:.0f}s",)
_QUEUE_CONNECTIONS = 8


def open_queue(settings: Settings) -> Database:
    """The database for a delivery worker's short steps."""
    return Database(settings.database(), connections=_QUEUE_CONNECTIONS, settings=_QUEUE_SETTINGS)
