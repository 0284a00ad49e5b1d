"""A domain that tells us to slow down is left alone for a while; nobody is tried for nothing, and nobody else waits."""

import itertools
from datetime import datetime, timedelta

import pytest

from tests.support.museum import NOW, Museum, make_museum
from tests.support.sending import OK, claim, give_back, kit_of, mark, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.delivery.answers import Meaning, classify_answer
from uvarovite.core.delivery.outcomes import Told
from uvarovite.core.delivery.slowing import SLOWED_BY, slow_for
from uvarovite.services.delivery.sending import ClaimedBatch, MarkedDelivery, RunKit
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.store.database import Database, run_sql

SLOW_DOWN = Told(classify_answer(450, "4.7.28 Too many messages from you, slow down"))
LEASES = itertools.count()


@pytest.fixture
def crowd(database: Database) -> Museum:
    """Six people at a provider that limits, and two at another, in one batch."""
    rows = [f"P-{n},p{n}@copperbox.example" for n in range(6)] + [
        "P-6,p6@slatepost.example",
        "P-7,p7@slatepost.example",
    ]
    return make_museum(database, people="Contact no.,E-mail address\n" + "\n".join(rows) + "\n", batch_size=50)


def claimed(museum: Museum, now: datetime) -> ClaimedBatch:
    batch = claim(museum, f"lease {next(LEASES)}", now)
    assert batch is not None
    return batch


def marked(museum: Museum, batch: ClaimedBatch, kit: RunKit, now: datetime) -> tuple[MarkedDelivery, ...]:
    return mark(museum, batch, kit, now=now).marked


def names(deliveries: tuple[MarkedDelivery, ...]) -> list[str]:
    return [one.address.partition("@")[0] for one in deliveries]


def told_to_slow_down(museum: Museum, kit: RunKit, now: datetime) -> None:
    """The first of a batch is told to slow down, the rest is given back."""
    batch = claimed(museum, now)
    first = mark(museum, batch, kit, batch.delivery_ids[:1], now).marked
    assert first
    settle(museum, batch, kit, first, SLOW_DOWN, now)
    give_back(museum, batch, now)


def test_the_others_there_are_put_off_without_an_attempt_and_nobody_else_waits(crowd: Museum) -> None:
    run_id = crowd.release()
    kit = kit_of(crowd, run_id)
    told_to_slow_down(crowd, kit, NOW)
    batch = claimed(crowd, NOW)
    there = marked(crowd, batch, kit, NOW)
    assert names(there) == ["p6", "p7"]
    settle(crowd, batch, kit, there, OK, NOW)
    give_back(crowd, batch, NOW)
    assert claim(crowd, "nobody", NOW) is None
    view = dispatch_view(crowd.database, SYSTEM, run_id, NOW)
    assert {(line.people, line.words) for line in view.troubles} == {
        (1, "rate limit: told to slow down"), (5, "wait, since we were told there to slow down"),
    }  # fmt: skip
    with crowd.database.transaction() as tx:
        rows = run_sql(tx, "SELECT attempts, next_at FROM delivery WHERE trouble = :why", {"why": Meaning.DOMAIN_SLOW})
        assert {(row.attempts, row.next_at) for row in rows} == {(0, NOW + slow_for(1))}

    later = NOW + slow_for(1)
    went = []
    while following := claim(crowd, f"lease {next(LEASES)}", later):
        there = marked(crowd, following, kit, later)
        went += names(there)
        settle(crowd, following, kit, there, OK, later)
        give_back(crowd, following, later)
    assert sorted(went) == ["p0", "p1", "p2", "p3", "p4", "p5"]
    with crowd.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM slow_domain")[0][0] == 0


def test_told_so_again_it_is_left_alone_for_longer_and_many_at_once_count_once(crowd: Museum) -> None:
    kit, now = kit_of(crowd, crowd.release()), NOW
    for times in (1, 2, 3):
        batch = claimed(crowd, now)
        there = mark(crowd, batch, kit, batch.delivery_ids[:2], now).marked
        settle(crowd, batch, kit, there, SLOW_DOWN, now)
        give_back(crowd, batch, now)
        with crowd.database.transaction() as tx:
            [row] = run_sql(tx, "SELECT domain, times, until FROM slow_domain")
        assert (row.domain, row.times, row.until) == ("copperbox.example", times, now + slow_for(times))
        # Those who are put off now wait for as long as it is left alone.
        if rest := claim(crowd, f"rest {times}", now):
            settle(crowd, rest, kit, marked(crowd, rest, kit, now), OK, now)
            give_back(crowd, rest, now)
        now = row.until


def test_it_is_the_relays_own_matter(crowd: Museum) -> None:
    kit = kit_of(crowd, crowd.release())
    told_to_slow_down(crowd, kit, NOW)
    with crowd.database.transaction() as tx:
        [row] = run_sql(tx, "SELECT relay_id FROM slow_domain")
    assert row.relay_id == crowd.relay_id


def test_only_answers_about_how_much_we_send_slow_us_down() -> None:
    said = {
        "450 4.7.28 Slow down": True, "451 4.7.1 Greylisted": False, "452 4.2.2 The mailbox is full": False,
        "452 4.5.3 Too many recipients": True, "250 2.0.0 Ok": False, "550 5.7.1 No": False,
    }  # fmt: skip
    for answer, slows in said.items():
        code, _, text = answer.partition(" ")
        assert (classify_answer(int(code), text).meaning in SLOWED_BY) is slows, answer
    assert [slow_for(times) for times in (1, 2, 99)] == [timedelta(minutes=n) for n in (1, 2, 30)]
