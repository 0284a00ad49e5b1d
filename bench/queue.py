"""The queue at 1,000 and at 1,000,000 waiting: what a release costs, and what a claim and an answer cost each message.

A release takes the clearance, plans and commits; beside it a bare INSERT ... SELECT of the same rows into a table with the
same columns and indexes, in the same database. Then batches are claimed, marked and settled as workers do it, without a relay.
"""

import statistics
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

from bench import compose
from bench.clusters import own_database
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.campaigns import Pace
from uvarovite.core.delivery.answers import classify_answer
from uvarovite.core.delivery.outcomes import Told
from uvarovite.core.responses import derive_keyring
from uvarovite.demo.story import founding
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.campaigns.campaigns import CampaignChange, get_campaign, save_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.kits import load_run_kit
from uvarovite.services.delivery.sending import Sent
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.messages.messages import save_message
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import Database, change_sql, run_sql

FEW, MANY, BATCH, GROUP = 1_000, 1_000_000, 500, 32
PORT = 8_050
SECRET = b"a secret for measurements only"
NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)
OK = Told(classify_answer(250, "2.0.0 Ok: queued as 4F2A"))

FILL = """
INSERT INTO contact (contact_no, address, address_folded, first_name, last_name, language, own, folded, created_at, updated_at)
    SELECT 'SV-' || n, 'p' || n || '@slatepost.example', 'p' || n || '@slatepost.example', 'Ada', 'Wren', 'en',
        jsonb_build_object('membership', 'Friend', 'visits_last_year', (n % 31)::text, 'town', 'Skarn', 'renews_on', '2026-12-01',
            'pledge', jsonb_build_object('amount', '120', 'currency', 'EUR'), 'walk_bookings', '[]'::jsonb),
        jsonb_build_object('membership', 'friend', 'town', 'skarn', 'first_name', 'ada', 'last_name', 'wren'),
        timestamptz '2025-01-01', timestamptz '2026-11-01'
    FROM generate_series(CAST(:first AS integer), :last) AS n;
WITH told AS (
    INSERT INTO consent_event (contact_id, topic_id, kind, at, channel, evidence)
        SELECT id, 1, 'imported', timestamptz '2025-06-01', 'import', '{}' FROM contact
        WHERE id NOT IN (SELECT contact_id FROM consent) RETURNING id, contact_id, topic_id, kind, at)
INSERT INTO consent (contact_id, topic_id, state, since, last_kind, event_id, confirmed)
    SELECT contact_id, topic_id, 'subscribed', at, kind, id, TRUE FROM told;
"""


def fill(database: Database, first: int, last: int) -> None:
    """So many people more, all of them opted in."""
    for statement in FILL.split(";\n"):
        if statement.strip():
            with database.transaction() as tx:
                run_sql(tx, statement, {"first": first, "last": last} if ":first" in statement else {})
    for table in ("contact", "consent", "consent_event"):
        with database.transaction() as tx:
            change_sql(tx, f"ANALYZE {table}")


def let_go(database: Database, name: str) -> tuple[int, float]:
    """(run, seconds) of a release to everybody."""
    offered = vocabulary(database, SYSTEM)
    audience = save_audience(database, SYSTEM, audience_id=None, name=name, text="everyone", revision=None, now=NOW)
    message = save_message(
        database, SYSTEM, message_id=None, name=name, content=compose.CONTENT, revision=None, now=NOW
    )
    change = CampaignChange(
        name=name, topic_id=offered.topics[0].id, audience_id=audience.id, message_id=message.id,
        sender_id=offered.senders[0].id, pool_id=offered.pools[0].id, pace=Pace(batch_size=BATCH, gap_seconds=0),
        again=Again.EVERYBODY,
    )  # fmt: skip
    campaign = save_campaign(database, SYSTEM, campaign_id=None, change=change, revision=None, now=NOW)
    view = get_campaign(database, SYSTEM, campaign.id, NOW)
    assert view.clearance is not None
    began = time.perf_counter()
    run_id = release(
        database, SYSTEM, campaign_id=campaign.id, revision=view.revision, seen_cleared=view.clearance.cleared,
        seen_message_number=view.message_number or 0, public_url=compose.HERE, keyring=derive_keyring(SECRET), now=NOW,
    )  # fmt: skip
    return run_id, time.perf_counter() - began


def bare_insert(database: Database, run_id: int) -> float:
    """Seconds for the same rows into a table with the same columns and indexes, and nothing else about it."""
    with database.transaction() as tx:
        change_sql(tx, "DROP TABLE IF EXISTS bare")
        change_sql(tx, "CREATE TABLE bare (LIKE delivery INCLUDING ALL) WITH (fillfactor = 70)")
    began = time.perf_counter()
    with database.transaction() as tx:
        change_sql(tx, "INSERT INTO bare SELECT * FROM delivery WHERE run_id = :run ORDER BY id", {"run": run_id})
    return time.perf_counter() - began


def costs(database: Database, run_id: int, batches: int) -> tuple[float, float]:
    """(claim and give back, mark and settle) of a message, in microseconds, as the medians of some batches."""
    claims, steps = [], []
    for number in range(batches):
        began = time.perf_counter()
        batch = sending.claim(database, worker="bench", lease_token=f"{run_id}-{number}", now=None)
        claimed = time.perf_counter() - began
        assert batch is not None
        kit = load_run_kit(database, run_id, batch.relay_id, keyring=derive_keyring(SECRET), secret=SECRET)
        began, sent = time.perf_counter(), []
        for first in range(0, len(batch.delivery_ids) + GROUP, GROUP):
            group = sending.advance(database, batch, kit, sent, batch.delivery_ids[first : first + GROUP])
            sent = [Sent(delivery=one, outcome=OK, digest="0" * 64) for one in group.marked]
        steps.append((time.perf_counter() - began) / len(batch.delivery_ids))
        began = time.perf_counter()
        sending.give_back(database, batch)
        claims.append((claimed + time.perf_counter() - began) / len(batch.delivery_ids))
    return statistics.median(claims) * 1e6, statistics.median(steps) * 1e6


def main(directory: Path | None = None) -> None:
    """Few, then many."""
    with own_database(PORT, directory) as database:
        found_organisation(database, SYSTEM, founding(smtp_host="127.0.0.1", smtp_port=8_041))
        with database.transaction() as tx:
            change_sql(tx, "DELETE FROM send_limit")
            change_sql(tx, "UPDATE organisation SET week_cap = NULL, month_cap = NULL")
        fill(database, 1, FEW)
        few, _ = let_go(database, "Few")
        claim_few, step_few = costs(database, few, FEW // BATCH)
        fill(database, FEW + 1, MANY)
        many, took = let_go(database, "Many")
        bare = statistics.median(bare_insert(database, many) for _ in range(3))
        print(f"release of {MANY:,}: {took:.1f} s, bare INSERT {bare:.1f} s: {took / bare:.2f} times (1.5 meant)")
        looks = []
        for _ in range(7):
            began = time.perf_counter()
            dispatch_view(database, SYSTEM, many, NOW)
            looks.append(time.perf_counter() - began)
        print(f"a look at its dispatch: {statistics.median(looks) * 1e3:.0f} ms (200 meant)")
        for when in ("at first", "again"):
            claim_many, step_many = costs(database, many, 20)
            print(
                f"{when}, of {MANY:,} waiting, a message: claim and give back {claim_many:.0f} µs, mark and settle "
                f"{step_many:.0f} µs; of {FEW:,}: {claim_few:.0f} and {step_few:.0f} µs: "
                f"{claim_many / claim_few:.2f} and {step_many / step_few:.2f} times (1 meant)"
            )


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
