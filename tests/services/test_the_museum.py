"""The demo's museum at its full size: known troubles in known numbers, all through the ordinary import."""

from datetime import UTC, datetime

from tests.support.lens import look
from tests.support.museum import KEYRING
from uvarovite.cli.demo import museum_files
from uvarovite.core.accounts import SYSTEM
from uvarovite.demo.contacts import PEOPLE, TROUBLE
from uvarovite.demo.seeding import seed_museum
from uvarovite.demo.story import AUDIENCE_CRITERIA, MESSAGE
from uvarovite.services.audiences.clearance import clearance
from uvarovite.services.campaigns.campaigns import get_campaign
from uvarovite.services.delivery.watching import desk
from uvarovite.services.messages.lens import LensPerson, LensView
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.store.database import Database, run_sql

NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)


def test_the_museum_is_what_its_story_says(database: Database) -> None:
    seed_museum(database, museum_files(0), smtp_host="127.0.0.1", smtp_port=8041, now=NOW)
    refused = {
        "address_malformed": TROUBLE.malformed_address,
        "address_several": TROUBLE.two_addresses,
        "no_such_date": TROUBLE.bad_date,
        "too_few_columns": TROUBLE.too_few_columns,
    }
    with database.transaction() as tx:
        told = {
            row.code: row.n
            for row in run_sql(tx, "SELECT code, count(*) AS n FROM import_refusal WHERE import_id = 1 GROUP BY 1")
        }
        shared = run_sql(tx, "SELECT count(*) - count(DISTINCT address_folded) FROM contact WHERE address IS NOT NULL")
    # Some spoilt addresses end in a domain without a dot, which is a fault of its own.
    told["address_malformed"] += told.pop("address_no_domain", 0)
    assert told == refused
    assert shared[0][0] == TROUBLE.shared_address
    kept = PEOPLE - sum(refused.values())
    assert desk(database, SYSTEM, NOW).contacts == count_contacts(database, SYSTEM, wanted=Wanted(), now=NOW) == kept

    offered = vocabulary(database, SYSTEM)
    samples = {field.key: field.samples for field in offered.fields}
    assert samples["membership"] == ["Friend", "Fellow", "Patron"]
    assert samples["pledge"][0] == "30.00 EUR"
    assert {field.key: field.blank for field in offered.fields}["first_name"] == TROUBLE.no_first_name
    topics = offered.topics
    taken = clearance(database, SYSTEM, text="everyone", topic_id=topics[0].id, now=NOW)
    held = {(gate.key, reason.key): reason.held for gate in taken.gates for reason in gate.reasons}
    assert held["address", "no_address"] == TROUBLE.no_address
    assert {reason for gate, reason in held if gate == "consent"} == {"never_asked", "asked", "left"}
    assert held["suppressed", "by_hand"] > 0
    assert taken.matched == kept

    sheet = get_campaign(database, SYSTEM, 1, NOW)
    assert sheet.criteria == AUDIENCE_CRITERIA
    assert [check.code for check in sheet.checks] == []
    assert sheet.clearance is not None
    assert sheet.clearance.cleared > 400


def look_at(
    database: Database, contact_id: int, step: int, criteria: str = AUDIENCE_CRITERIA
) -> tuple[LensPerson, LensView]:
    return look(
        database, MESSAGE, criteria=criteria, topic_id=1, contact_id=contact_id, step=step, keyring=KEYRING, now=NOW
    )


def test_the_lens_walks_through_everybody_who_is_cleared_and_around(database: Database) -> None:
    seed_museum(database, museum_files(120), smtp_host="127.0.0.1", smtp_port=8041, now=NOW)
    first, _ = look_at(database, 0, 0)
    seen = [first.contact_id]
    here = first
    for place in range(2, first.total + 1):
        here, letter = look_at(database, here.contact_id or 0, 1)
        assert (here.place, here.total) == (place, first.total)
        # Who stands next to somebody is known with them, for many steps.
        assert here.before == seen[::-1][:50]
        assert letter.subject.endswith("two walks are still open this autumn")
        assert "@{" not in letter.html + letter.text + letter.subject
        seen.append(here.contact_id)
    assert len(set(seen)) == first.total
    assert first.behind == seen[1:51]
    assert (first.before, here.behind) == ([], [])
    assert look_at(database, here.contact_id or 0, 1)[0].contact_id == first.contact_id
    assert look_at(database, first.contact_id or 0, -1)[0].contact_id == here.contact_id
    nobody, letter = look_at(database, 0, 0, 'town is "nowhere at all"')
    assert (nobody.contact_id, nobody.total, letter.html, letter.problems) == (None, 0, "", [])
