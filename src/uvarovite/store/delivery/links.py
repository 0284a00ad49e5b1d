"""Where the links of a run lead: kept when it is released, and for each delivery when it is marked as being sent."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

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


def kept_link(tx: Transaction, run_id: int, delivery_id: int, number: int) -> KeptLink:
    """Where link `number` of a delivery leads."""
    row = run_sql(
        tx,
        """SELECT EXISTS (SELECT FROM run_link WHERE run_id = :run) AS kept,
            coalesce((SELECT address FROM run_link WHERE run_id = :run AND number = :number),
                (SELECT address FROM delivery_link WHERE delivery_id = :delivery AND number = :number)) AS address""",
        {"run": run_id, "delivery": delivery_id, "number": number},
    )[0]
    return KeptLink(address=row.address, kept=row.kept)
