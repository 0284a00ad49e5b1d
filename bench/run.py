"""A run to 1,000,000 people, looked at on its way and at its end, and what moving its deliveries costs on top.

The rows are made within the database. Looking is our dispatch view; beside it stands the one statement that counts the
deliveries by state. The end of a batch is timed early and late in the run. `python -m bench.run DIRECTORY` puts
the cluster there.
"""

import json
import statistics
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from bench.clusters import own_database
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import CLEARANCE_FORM, Pace, ReleasedClearance
from uvarovite.core.messages import NEWEST_RENDERER, SNAPSHOT_FORM, Letterhead, Snapshot
from uvarovite.demo.story import founding
from uvarovite.services.delivery.watching import desk, dispatch_view, fold_run_counts
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.store.database import Database, change_sql, run_sql
from uvarovite.store.delivery import giving_back, holding, planning

PEOPLE, BATCH, ROUNDS = 1_000_000, 500, 7
PORT = 8_049
NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)

FILL = f"""
INSERT INTO contact (contact_no, address, address_folded, own, folded, created_at, updated_at)
    SELECT 'SV-' || n, 'p' || n || '@slatepost.example', 'p' || n || '@slatepost.example', '{{}}', '{{}}', now(), now()
    FROM generate_series(1, {PEOPLE}) AS n;
INSERT INTO message (name, created_at, revision, is_starter, is_shared) VALUES ('Bench', now(), 1, FALSE, FALSE);
INSERT INTO message_version (message_id, number, content, created_at) VALUES (1, 1, '{{}}', now());
INSERT INTO campaign (name, topic_id, message_id, pool_id, pace, again, lifted, revision, updated_at)
    VALUES ('Bench', 1, 1, 1, '{{}}', 'everybody', '{{}}', 1, now());
INSERT INTO run (campaign_id, number, state, topic_id, message_version_id, pool_id, pace, criteria, snapshot, clearance,
        planned, released_at, next_batch_at, brake_after, unknown_decided, signing_keys, is_public)
    SELECT 1, 1, 'going', 1, 1, 1, '{{"batch_size": {BATCH}, "gap_seconds": 300}}', '', '{{}}', '{{}}', {PEOPLE}, :now, :now, 0, 0, '{{}}', false;
CREATE TABLE judged_now AS SELECT id AS contact_id, NULL::text AS gate FROM contact;
"""


def seconds(act: Callable[[], object]) -> float:
    """How long something takes."""
    began = time.perf_counter()
    act()
    return time.perf_counter() - began


def plan(database: Database) -> None:
    """Make the people and plan the run."""
    for statement in FILL.split(";\n"):
        if statement.strip():
            with database.transaction() as tx:
                run_sql(tx, statement, {"now": NOW} if ":now" in statement else {})
    with database.transaction() as tx:
        clearance = ReleasedClearance(matched=PEOPLE, cleared=PEOPLE, gates=[])
        kept = {"snapshot": SNAPSHOT_FORM.write(_snapshot()), "clearance": CLEARANCE_FORM.write(clearance)}
        change_sql(
            tx,
            "UPDATE run SET snapshot = CAST(:snapshot AS jsonb), clearance = CAST(:clearance AS jsonb)",
            {name: json.dumps(form) for name, form in kept.items()},
        )
        planning.plan_deliveries(tx, 1, Pace(batch_size=BATCH), NOW)
    with database.transaction() as tx:
        change_sql(tx, "ANALYZE delivery")


def _snapshot() -> Snapshot:
    letterhead = Letterhead(
        organisation="Museum", postal_address="1 Slate Row", locale="en_GB", time_zone="Europe/London",
        list_domain="skarnmuseum.example", topic_key="walks", topic_name="Walks", from_name="Museum",
        from_address="walks@skarnmuseum.example", reply_to=None, public_url="", key_id=1,
    )  # fmt: skip
    return Snapshot(letterhead=letterhead, fields={}, renderer=NEWEST_RENDERER)


def send(database: Database, first: int, last: int) -> None:
    """Bring the batches from `first` to `last` through, sixty-four deliveries at a time, as workers do."""
    for number in range(first, last + 1):
        at = NOW + timedelta(seconds=300 * number)
        with database.transaction() as tx:
            one = {"number": number, "at": at}
            change_sql(tx, "UPDATE batch SET state = 'claimed' WHERE run_id = 1 AND number = :number", one)
            change_sql(tx, "UPDATE delivery SET state = 'claimed' WHERE run_id = 1 AND batch_number = :number", one)
            ids = [
                row.id
                for row in run_sql(tx, "SELECT id FROM delivery WHERE run_id = 1 AND batch_number = :number", one)
            ]
        for begin in range(0, len(ids), 64):
            group = {"ids": ids[begin : begin + 64], "at": at + timedelta(seconds=begin // 64)}
            with database.transaction() as tx:
                change_sql(tx, "UPDATE delivery SET state = 'sending', attempts = 1 WHERE id = ANY(:ids)", group)
            with database.transaction() as tx:
                change_sql(
                    tx,
                    """UPDATE delivery SET settled_at = :at, trouble = CASE WHEN id % 50 = 0 THEN 'mailbox full' END,
                        state = CASE WHEN id % 50 = 0 THEN 'refused' ELSE 'accepted' END WHERE id = ANY(:ids)""",
                    group,
                )
        with database.transaction() as tx:
            change_sql(tx, "UPDATE batch SET state = 'done' WHERE run_id = 1 AND number = :number", {"number": number})


def median_ms(act: Callable[[], object]) -> float:
    """The median of some rounds, in milliseconds."""
    return statistics.median(seconds(act) for _ in range(ROUNDS)) * 1_000


def look(database: Database, when: str) -> None:
    """Time what people see, beside a count of the deliveries, and the end of a batch."""

    def counted() -> None:
        with database.transaction() as tx:
            run_sql(tx, "SELECT state, count(*) FROM delivery WHERE run_id = 1 GROUP BY 1")

    def ending() -> None:
        with database.transaction() as tx:
            giving_back.end_run_if_done(tx, 1, NOW)

    with database.transaction() as tx:
        rows = run_sql(tx, "SELECT count(*) FROM run_count")[0][0]
    print(
        f"{when}: dispatch {median_ms(lambda: dispatch_view(database, SYSTEM, 1, NOW)):.0f} ms, "
        f"desk {median_ms(lambda: desk(database, SYSTEM, NOW)):.0f} ms, a count {median_ms(counted):.0f} ms, "
        f"asking whether the run has ended {median_ms(ending):.1f} ms; {rows:,} rows of counts"
    )


def stopping(database: Database, *, counting: bool) -> float:
    """Stopping the whole run, which is taken back; the seconds that it takes."""
    try:
        with database.transaction() as tx:
            if not counting:
                change_sql(tx, "ALTER TABLE delivery DISABLE TRIGGER delivery_count")
            took = seconds(lambda: holding.stop_deliveries(tx, 1, NOW))
            raise InterruptedError
    except InterruptedError:
        return took


def main(directory: Path | None = None) -> None:
    """Plan, send a part, look; send all, look."""
    with own_database(PORT, directory) as database:
        found_organisation(database, SYSTEM, founding(smtp_host="127.0.0.1", smtp_port=8_041))
        print(f"planned in {seconds(lambda: plan(database)):.0f} s")
        look(database, "at first")
        counted, bare = stopping(database, counting=True), stopping(database, counting=False)
        print(f"stopping all of it {counted:.0f} s, {bare:.0f} s without counts: ratio {counted / bare:.1f}")
        batches = PEOPLE // BATCH
        print(f"a tenth sent in {seconds(lambda: send(database, 1, batches // 10)):.0f} s")
        look(database, "after a tenth")
        fold_run_counts(database)
        look(database, "after a tenth, folded")
        print(f"the rest sent in {seconds(lambda: send(database, batches // 10 + 1, batches)):.0f} s")
        look(database, "at the end")
        print(f"folded in {seconds(lambda: fold_run_counts(database)):.1f} s")
        look(database, "at the end, folded")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
