"""Audiences at 1,000,000 contacts with twelve fields, 5,000,000 ledger events and 10,000,000 deliveries of history.

Counting, the clearance through every gate, and conditions about what happened: each beside SQL written by hand over the
same tables in the same run. The rows are made within the database, so that they are there in minutes; a delivery's
record is short, since nothing here reads it. `python -m bench.audience DIRECTORY` keeps the cluster there for another
round.
"""

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again, Caps
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.messages import MessageContent, Paragraph
from uvarovite.core.responses import derive_keyring
from uvarovite.demo.story import founding
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import KeptRecord, take_clearance, terms_for
from uvarovite.services.expressions.criteria import read_criteria
from uvarovite.services.messages.lens import lens_person, look_through_lens
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.services.organisation.frequency import FrequencyLimits, change_limits
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, psycopg_connection, run_sql
from uvarovite.store.schema import upgrade

PEOPLE, RUNS = 1_000_000, 100
PORT = 8_048
NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)

# Every tenth has no membership; towns, visits and pledges are spread by numbers that have no common factor.
FILL = f"""
INSERT INTO contact (contact_no, address, address_folded, first_name, last_name, language, own, folded,
        created_at, updated_at)
    SELECT 'SV-' || n, address, address, 'Ada', 'Wren', language,
        jsonb_strip_nulls(jsonb_build_object('membership', membership, 'pledge', jsonb_build_object('amount',
            (10 + n % 1990)::text, 'currency', 'EUR'), 'renews_on', (date '2026-01-01' + n % 700)::text, 'town', town,
            'postcode', 'SK' || n % 19, 'country', 'Skarnland', 'visits_last_year', (n % 31)::text,
            'volunteer', n % 5 = 0)),
        jsonb_strip_nulls(jsonb_build_object('first_name', 'ada', 'last_name', 'wren', 'language', language,
            'membership', lower(membership), 'town', lower(town), 'postcode', 'sk' || n % 19, 'country', 'skarnland')),
        timestamptz '2025-01-01' + n * interval '10 seconds', timestamptz '2026-11-01'
    FROM (SELECT n, CASE WHEN n % 200 = 0 THEN NULL WHEN n % 97 = 0 THEN 'person.' || n - 1 ELSE 'person.' || n END
                || '@' || (ARRAY['slatepost', 'quartzmail', 'tinmail', 'garnetpost'])[1 + n % 4] || '.example' AS address,
            (ARRAY['en', 'de', 'fr', 'pl'])[1 + n % 4] AS language,
            (ARRAY['Friend', 'Fellow', 'Patron', NULL])[1 + n / 7 % 4] AS membership,
            (ARRAY['Skarn', 'Skellbeck', 'Breccia', 'Tuffton', 'Gabbro Bridge'])[1 + n / 3 % 5] AS town
        FROM generate_series(1, {PEOPLE}) AS n) AS made;
INSERT INTO domain_check (domain, verdict, reason, checked_at, again_at)
    SELECT domain, 'takes mail', '', now(), now() FROM unnest(ARRAY['slatepost.example', 'quartzmail.example']) AS domain;
WITH told AS (
    INSERT INTO consent_event (contact_id, topic_id, kind, at, channel, evidence)
        SELECT id, topic, 'imported', timestamptz '2025-06-01', 'import', '{{}}'
        FROM contact CROSS JOIN generate_series(1, 5) AS topic RETURNING id, contact_id, topic_id, kind, at)
INSERT INTO consent (contact_id, topic_id, state, since, last_kind, event_id, confirmed)
    SELECT contact_id, topic_id, CASE WHEN (contact_id + topic_id) % 4 = 0 THEN 'left' ELSE 'subscribed' END, at, kind,
        id, contact_id % 2 = 0 FROM told;
INSERT INTO suppression (address_folded, reason, evidence, at)
    SELECT DISTINCT address_folded, 'hard_bounce', '{{}}'::jsonb, now() FROM contact
    WHERE id % 100 = 7 AND address_folded IS NOT NULL;
INSERT INTO message (name, created_at, revision, is_starter, is_shared) VALUES ('Bench', now(), 1, FALSE, FALSE);
INSERT INTO message_version (message_id, number, content, created_at) VALUES (1, 1, '{{}}', now());
INSERT INTO campaign (name, topic_id, message_id, pool_id, pace, again, lifted, revision, updated_at)
    SELECT 'Campaign ' || n, 1 + n % 5, 1, 1, '{{}}', 'everybody', '{{}}', 1, now() FROM generate_series(1, {RUNS}) AS n;
INSERT INTO run (campaign_id, number, state, topic_id, message_version_id, pool_id, pace, criteria, snapshot, clearance,
        planned, released_at, next_batch_at, ended_at, brake_after, unknown_decided, signing_keys, is_public)
    SELECT id, 1, 'ended', topic_id, 1, 1, '{{}}', '', '{{}}', '{{}}', {PEOPLE // 10}, at, at, at, 0, 0, '{{}}', false
    FROM (SELECT *, timestamptz '2026-11-22' - id * interval '3 days' AS at FROM campaign ORDER BY id) AS campaign;
INSERT INTO batch (run_id, number, size, state, due_at) SELECT id, 1, planned, 'done', released_at FROM run;
"""
# A tenth of the people in each run, another tenth each time.
FILL_RUN = f"""
INSERT INTO delivery (run_id, batch_number, first_batch, contact_id, address, address_folded, record, state, attempts,
        settled_at)
    SELECT :run, 1, 1, n, 'person.' || n, 'person.' || n, '{{"first_name": "Ada"}}', 'accepted', 1, run.released_at
    FROM generate_series(1 + :run % 10, {PEOPLE}, 10) AS n, run WHERE run.id = :run;
INSERT INTO sent_mail (run_id, contact_id, at, accepted, address_folded)
    SELECT :run, contact_id, settled_at, TRUE, address_folded FROM delivery WHERE run_id = :run ORDER BY id;
INSERT INTO response_event (delivery_id, run_id, contact_id, kind, at, machine_rule, detail)
    SELECT id, :run, contact_id, 'opened', settled_at + interval '2 hours', CASE WHEN id % 3 = 0 THEN 'scanner' END, '{{}}'
    FROM delivery WHERE run_id = :run AND contact_id % 7 < 3;
"""

FOUR = 'membership in ("Patron", "Fellow") and town starts with "Sk" and visits_last_year >= 10 and language is "en"'
FOUR_BY_HAND = """contact.deleted_at IS NULL AND folded->>'membership' IN ('patron', 'fellow')
    AND starts_with(folded->>'town', 'sk') AND CAST(own->>'visits_last_year' AS numeric) >= 10
    AND folded->>'language' = 'en'"""
OPENED = "opened within last 60 days"
OPENED_BY_HAND = """contact.deleted_at IS NULL AND id IN (SELECT contact_id FROM response_event
    WHERE kind = 'opened' AND machine_rule IS NULL AND at >= timestamptz '2026-09-24')"""
RECEIVED = "received within last 30 days and never opened"
RECEIVED_BY_HAND = """contact.deleted_at IS NULL AND id IN (SELECT contact_id FROM sent_mail
        WHERE accepted AND at >= timestamptz '2026-10-24')
    AND id NOT IN (SELECT contact_id FROM response_event WHERE kind = 'opened' AND machine_rule IS NULL)"""
# What somebody who knows the tables well would write for these gates.
CLEARANCE_BY_HAND = """WITH mail AS MATERIALIZED (
        SELECT contact_id FROM sent_mail WHERE at > :now - interval '30 days' GROUP BY 1
        HAVING count(*) >= 8 OR count(*) FILTER (WHERE at > :now - interval '7 days') >= 3),
    got AS MATERIALIZED (SELECT contact_id, address_folded FROM sent_mail WHERE run_id IN (SELECT id FROM run WHERE campaign_id = 1)),
    judged AS MATERIALIZED (
        SELECT contact.id, contact.address_folded, CASE WHEN contact.address_folded IS NULL THEN 'address'
            WHEN domain_check.verdict = 'cannot take mail' THEN 'undeliverable'
            WHEN consent.state IS DISTINCT FROM 'subscribed' THEN 'consent'
            WHEN consent.paused_until > :now THEN 'paused'
            WHEN contact.address_folded IN (SELECT address_folded FROM suppression
                WHERE lifted_at IS NULL AND (topic_id IS NULL OR topic_id = 1)) THEN 'suppressed'
            WHEN split_part(contact.address_folded, '@', 2) IN (SELECT domain FROM suppression
                WHERE lifted_at IS NULL AND domain IS NOT NULL) THEN 'suppressed'
            WHEN contact.id IN (SELECT contact_id FROM audience_member WHERE audience_id = 1 AND kind = 'left_out')
                THEN 'left_out' END AS gate
        FROM contact LEFT JOIN consent ON consent.contact_id = contact.id AND consent.topic_id = 1
        LEFT JOIN domain_check ON domain = split_part(contact.address_folded, '@', 2)
        WHERE {matched}),
    -- Of each address the first.
    kept AS (SELECT min(id) AS id FROM judged WHERE gate IS NULL GROUP BY address_folded)
    SELECT coalesce(gate, CASE WHEN id NOT IN (SELECT id FROM kept) THEN 'duplicate'
        WHEN id IN (SELECT contact_id FROM mail) THEN 'recent'
        WHEN id IN (SELECT contact_id FROM got) OR address_folded IN (SELECT address_folded FROM got)
            THEN 'again' END) AS gate, count(*)
    FROM judged GROUP BY 1"""


def seconds(act: Callable[[], object]) -> float:
    """How long something takes."""
    began = time.perf_counter()
    act()
    return time.perf_counter() - began


def fill(database: Database) -> None:
    """Make everything. Triggers that guard each row stay as they are."""
    for statement in FILL.split(";\n"):
        if statement.strip():
            with database.transaction() as tx:
                run_sql(tx, statement)
    for run in range(1, RUNS + 1):
        with database.transaction() as tx:
            for statement in FILL_RUN.split(";\n"):
                if statement.strip():
                    run_sql(tx, statement, {"run": run})
    with database.transaction() as tx:
        connection = psycopg_connection(tx)
        connection.commit()
        connection.autocommit = True
        connection.execute("VACUUM ANALYZE")
        connection.autocommit = False


def compare(database: Database) -> None:
    """Every pair, ours and by hand: medians of five rounds, in turn."""

    def by_hand(sql: str) -> Callable[[], object]:
        def act() -> object:
            with database.transaction() as tx:
                return run_sql(tx, sql, {"now": NOW})

        return act

    def count(text: str) -> Callable[[], object]:
        return lambda: read_criteria(database, SYSTEM, text=text, now=NOW)

    def clear(text: str) -> Callable[[], object]:
        def act() -> object:
            with database.transaction() as tx:
                terms = replace(
                    terms_for(tx, topic_id=1, now=NOW),
                    campaign_id=1,
                    again=Again.NEW_TO_CAMPAIGN,
                    caps=Caps(week=3, month=8),
                )
                people: SqlFragment = audience_sql(tx, text, None, NOW)
                people = replace(people, parameters={**people.parameters, "audience_id": 1})
                return take_clearance(tx, people, terms)

        return act

    def counted(matched: str) -> str:
        # What the screen shows beside it, too.
        return f"SELECT count(*) FILTER (WHERE {matched}), count(*) FROM contact WHERE deleted_at IS NULL"

    pairs = {
        "count of four conditions": (count(FOUR), by_hand(counted(FOUR_BY_HAND)), "1.5, 300 ms"),
        "first estimate of them": (
            lambda: read_criteria(database, SYSTEM, text=FOUR, now=NOW, estimate=True),
            by_hand(counted(FOUR_BY_HAND)),
            "300 ms",
        ),
        OPENED: (count(OPENED), by_hand(f"SELECT count(*) FROM contact WHERE {OPENED_BY_HAND}"), "1 s"),
        RECEIVED: (count(RECEIVED), by_hand(f"SELECT count(*) FROM contact WHERE {RECEIVED_BY_HAND}"), "1 s"),
        "clearance of four conditions": (
            clear(FOUR),
            by_hand(CLEARANCE_BY_HAND.replace("{matched}", FOUR_BY_HAND)),
            "2, 3 s",
        ),
        "clearance of everyone": (
            clear("everyone"),
            by_hand(CLEARANCE_BY_HAND.replace("{matched}", "contact.deleted_at IS NULL")),
            "2, 3 s",
        ),
    }
    for name, (ours, hand, meant) in pairs.items():
        rounds = [(seconds(ours), seconds(hand)) for _ in range(6)][1:]
        mine, theirs = (statistics.median(column) * 1_000 for column in zip(*rounds, strict=True))
        print(f"  {name:46} {mine:6.0f} ms, by hand {theirs:6.0f} ms: ratio {mine / theirs:.2f} ({meant} meant)")


def look(database: Database) -> None:
    """The lens among so many: finding somebody looks at everybody, a keystroke at one person."""
    content = MessageContent(
        subject='@{first_name else "Hello"}, two walks are still open',
        blocks=tuple(Paragraph(text=f'@{{first_name else "friend"}}, this is paragraph {n}.') for n in range(60)),
    )
    keyring = derive_keyring(b"a secret for measurements")
    person = lens_person(
        database, SYSTEM, content=content, criteria="everyone", topic_id=1, contact_id=PEOPLE // 2, step=1, now=NOW
    )

    def step() -> object:
        return lens_person(
            database, SYSTEM, content=content, criteria="everyone", topic_id=1, contact_id=PEOPLE // 2, step=1, now=NOW
        )

    def letter() -> object:
        return look_through_lens(
            database, SYSTEM, content=content, topic_id=1, sender_id=None, contact_id=person.contact_id or 0,
            keyring=keyring, now=NOW,
        )  # fmt: skip

    for name, act, meant in (
        ("somebody for the lens, of everyone", step, "once for 50 steps"),
        ("their letter, 60 blocks, at a keystroke", letter, "100 ms"),
    ):
        taken = statistics.median([seconds(act) for _ in range(6)][1:]) * 1_000
        print(f"  {name:46} {taken:6.0f} ms ({meant} meant)")


def main(directory: Path | None = None) -> None:
    """Fill a cluster, unless one is there already, and compare."""
    with tempfile.TemporaryDirectory() as name:
        place = directory or Path(name)
        place.mkdir(exist_ok=True)
        place.chmod(0o755)
        there = (place / "postgres").exists()
        cluster = Cluster(place / "postgres", PORT)
        cluster.start()
        try:
            database = Database(cluster.url())
            if not there:
                upgrade(cluster.url())
                found_organisation(database, SYSTEM, founding(smtp_host="127.0.0.1", smtp_port=8_041))
                change_limits(
                    database, SYSTEM, FrequencyLimits(week_cap=3, month_cap=8, kept_record=KeptRecord.FIRST_ADDED)
                )
                print(f"filled in {seconds(lambda: fill(database)):.0f} s")
            print(f"audiences of {PEOPLE:,} contacts, 5,000,000 ledger events, {PEOPLE * RUNS // 10:,} deliveries")
            compare(database)
            look(database)
            database.close()
        finally:
            cluster.stop()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
