"""Where the links of a run lead: kept when it is released, and for each delivery when it is marked as being sent."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from uvarovite.core.messages import MessageLink
from uvarovite.store.database import Transaction, change_sql, run_sql


def keep_links(tx: Transaction, run_id: int, links: Sequence[MessageLink]) -> None:
    """Keep the links of a run's message."""
    change_sql(
        tx,
        """INSERT INTO run_link (run_id, number, block, address)
            SELECT :run, number, block, address
            FROM unnest(CAST(:numbers AS integer[]), CAST(:blocks AS text[]), CAST(:addresses AS text[]))
                AS told(number, block, address)""",
        {
            "run": run_id,
            "numbers": [link.number for link in links],
            "blocks": [link.block for link in links],
            "addresses": [link.address for link in links],
        },
    )


def keep_own_addresses(tx: Transaction, addresses: Mapping[int, Mapping[int, str]]) -> None:
    """Keep where the links of deliveries lead that hold something of their own: by delivery, then by number.

    What is marked a second time is sent anew, with what its record says of that moment.
    """
    told = [(delivery, number, to) for delivery, own in addresses.items() for number, to in own.items()]
    if not told:
        return
    change_sql(
        tx,
        """INSERT INTO delivery_link (delivery_id, number, address)
            SELECT * FROM unnest(CAST(:deliveries AS bigint[]), CAST(:numbers AS integer[]), CAST(:addresses AS text[]))
            ON CONFLICT (delivery_id, number) DO UPDATE SET address = excluded.address""",
        {
            "deliveries": [one[0] for one in told],
            "numbers": [one[1] for one in told],
            "addresses": [one[2] for one in told],
        },
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptLink:
    """Where a link leads, if it is known; `kept` is False for a run that was released before links were kept."""

    address: str | None
    kept: bool


class AskedLink(NamedTuple):
    """A link of a delivery by its number; or one of all of a run (`run_id`), when there is no delivery."""

    delivery_id: int
    number: int
    run_id: int = 0


def kept_links(tx: Transaction, asked: Sequence[AskedLink]) -> list[KeptLink]:
    """Where links lead, in their order; nowhere before the delivery was marked as being sent."""
    rows = run_sql(
        tx,
        """SELECT coalesce(run_link.address, delivery_link.address) AS address,
                delivery.marked_at IS NULL OR EXISTS (SELECT FROM run_link AS any_link WHERE any_link.run_id = delivery.run_id) AS kept
            FROM unnest(CAST(:deliveries AS bigint[]), CAST(:numbers AS integer[]), CAST(:runs AS bigint[]))
                WITH ORDINALITY AS asked(delivery, number, run, place)
            LEFT JOIN delivery ON delivery.id = asked.delivery AND delivery.marked_at IS NOT NULL
            LEFT JOIN run_link ON run_link.run_id IN (delivery.run_id, asked.run) AND run_link.number = asked.number
            LEFT JOIN delivery_link ON delivery_link.delivery_id = delivery.id AND delivery_link.number = asked.number
            ORDER BY place""",
        {
            "deliveries": [one.delivery_id for one in asked],
            "numbers": [one.number for one in asked],
            "runs": [one.run_id for one in asked],
        },
    )
    return [KeptLink(address=row.address, kept=row.kept) for row in rows]
