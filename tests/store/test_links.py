"""Where links lead: those of the run, and those that are a delivery's own."""

from tests.support.museum import Museum
from uvarovite.core.messages import MessageLink
from uvarovite.store.database import Transaction, change_sql
from uvarovite.store.delivery.links import AskedLink, KeptLink, keep_links, keep_own_addresses, kept_links

SHARED = "https://skarnmuseum.example/shared"


def own(delivery_id: int, number: int) -> str:
    return f"https://skarnmuseum.example/{delivery_id}/{number}"


def test_each_link_of_each_delivery_leads_to_its_own_address(museum: Museum) -> None:
    run_id = museum.release()
    first, second, third = (museum.delivery_id(run_id, contact) for contact in ("M-01", "M-02", "M-03"))

    def address(tx: Transaction, delivery_id: int, number: int) -> str | None:
        (found,) = kept_links(tx, [AskedLink(delivery_id, number)])
        assert found.kept
        return found.address

    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE delivery SET marked_at = now() WHERE id <> :third", {"third": third})
        keep_links(tx, run_id, [MessageLink(number=9, block="b", address=SHARED)])
        keep_own_addresses(tx, {one: {number: own(one, number) for number in (11, 12)} for one in (first, second)})
        for delivery_id in (first, second):
            assert [address(tx, delivery_id, number) for number in (9, 11, 12)] == [
                SHARED,
                own(delivery_id, 11),
                own(delivery_id, 12),
            ]
        assert [address(tx, third, number) for number in (9, 11, 12)] == [None, None, None]
        keep_own_addresses(tx, {first: {11: "https://skarnmuseum.example/anew"}})
        assert [address(tx, first, 11), address(tx, first, 12)] == [
            "https://skarnmuseum.example/anew",
            own(first, 12),
        ]
        # What was not marked as being sent leads nowhere; nor does what nobody was sent. Asked together, each has its own answer.
        assert kept_links(
            tx,
            [
                AskedLink(third, 9),
                AskedLink(10**9, 9),
                AskedLink(first, 9),
                AskedLink(0, 9, run_id),
                AskedLink(0, 11, run_id),
            ],
        ) == [KeptLink(address=one, kept=True) for one in (None, None, SHARED, SHARED, None)]
        change_sql(tx, "DELETE FROM run_link")
        assert kept_links(tx, [AskedLink(first, 99)]) == [KeptLink(address=None, kept=False)]
