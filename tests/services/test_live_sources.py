"""Live sources in the museum: pulled by hand and by themselves, compared with their last pull, and never trusted blindly."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.museum import HASHER, NOW, SECRET, Museum
from tests.support.till import GROUND, Till
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts.live_sources import Every, Schedule, next_pull
from uvarovite.services.contacts.retention import let_go_of_deleted
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal
from uvarovite.services.imports.undo import undo_import
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.services.selection.bulk import Selection, delete, erase
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.services.sources import jobs, live_sources
from uvarovite.services.sources.live_sources import ScheduleDraft, SourceAccessDraft
from uvarovite.store.database import run_sql


@pytest.fixture
def till(museum: Museum, tmp_path: Path) -> Till:
    return Till(museum, tmp_path)


def people(museum: Museum, search: str = "") -> int:
    return count_contacts(museum.database, SYSTEM, wanted=Wanted(search=search), now=NOW)


def test_a_pull_is_looked_at_and_the_next_one_says_what_differs(till: Till) -> None:
    first = till.pull()
    assert (first.new, first.same, first.since) == (1, 1, None)
    assert people(till.museum, "nora") == 0
    till.write(first, topic="museum_news")
    assert people(till.museum, "nora") == 1

    till.now += timedelta(hours=1)
    till.run("DELETE FROM customer WHERE first_name = 'Benoît'")
    till.run("UPDATE customer SET town = 'Skarn' WHERE first_name = 'Nora'")
    till.put("otto@tinmail.example", "Otto", "Breccia")
    second = till.pull()
    assert second.since is not None
    assert (second.since.new, second.since.changed, second.since.gone) == (1, 1, 1)
    assert [one.name for one in second.since.gone_people] == ["Benoît d’Ardoise"]
    assert (second.topic, second.legal_basis) == ("museum_news", GROUND)
    till.write(second, topic="museum_news")
    assert till.tags("M-02") == ["gone from the till"]
    assert people(till.museum) == 12

    # Taken back as a whole, the tag with it; the pull before is then what the next one is compared with.
    undo_import(till.museum.database, SYSTEM, second.id, now=till.now)
    assert till.tags("M-02") == []
    third = till.pull()
    assert third.since is not None
    assert (third.since.new, third.since.changed, third.since.gone) == (1, 1, 1)


def test_a_source_is_pulled_by_itself_as_it_was_by_hand(till: Till) -> None:
    database = till.museum.database
    till.save(replace(till.draft(), schedule=ScheduleDraft(every="day", at="05:30"), revision=1), till.id)
    assert till.view().next_pull_at == datetime(2026, 11, 24, 5, 30, tzinfo=UTC)
    assert not jobs.pull_due(database, till.tools)

    # Nobody has said yet what its columns are.
    till.now = datetime(2026, 11, 24, 5, 31, tzinfo=UTC)
    assert jobs.pull_due(database, till.tools)
    assert "by hand once" in str(till.view().pulls[0].fault)
    assert till.view().next_pull_at == till.now + jobs.RETRY

    till.write(till.pull(), topic="museum_news")
    till.now += jobs.RETRY
    till.put("otto@tinmail.example", "Otto", "Breccia")
    assert jobs.pull_due(database, till.tools)
    assert (till.found().since_new, till.found().new) == (1, 1)
    assert till.view().next_pull_at == datetime(2026, 11, 25, 5, 30, tzinfo=UTC)
    otto = count_contacts(database, SYSTEM, wanted=Wanted(criteria='first_name is "Otto"'), now=till.now)
    assert otto == 1
    with database.transaction() as tx:
        told = run_sql(tx, "SELECT evidence->>'legal_basis' AS legal_basis FROM consent_event ORDER BY id DESC LIMIT 1")
    assert told[0].legal_basis == GROUND

    # Nothing new: nothing is written, and that it was looked for is on record.
    before = len(till.view().pulls)
    till.by_itself()
    assert len(till.view().pulls) == before + 1
    assert till.view().pulls[0].import_id is None
    assert not jobs.pull_due(database, till.tools)


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ("ALTER TABLE customer ADD COLUMN shoe_size INTEGER", "columns are not those"),
        ("DELETE FROM customer", "no rows any more"),
        ("DROP TABLE customer", "no such table"),
    ],
)
def test_what_a_person_should_look_at_is_not_written(till: Till, spoil: str, says: str) -> None:
    till.write(till.pull())
    till.run(spoil)
    with pytest.raises(ServiceRefusal, match=says):
        till.by_itself()
    assert says in str(till.view().pulls[0].fault)
    assert people(till.museum) == 11
    # And where a run is to wait for it, it waits.
    till.save(replace(till.draft(), before_runs=True, revision=till.view().revision), till.id)
    with pytest.raises(ServiceRefusal, match="Nothing was released"):
        jobs.pull_before_run(till.museum.database, till.tools)


def test_a_run_waits_for_the_sources_that_are_to_be_fresh(till: Till) -> None:
    till.write(till.pull())
    till.save(replace(till.draft(), before_runs=True, revision=1), till.id)
    till.put("otto@tinmail.example", "Otto", "Breccia")
    jobs.pull_before_run(till.museum.database, till.tools)
    assert people(till.museum, "otto") == 0, "it was pulled a moment ago"
    till.now += jobs.FRESH + timedelta(seconds=1)
    jobs.pull_before_run(till.museum.database, till.tools)
    assert people(till.museum, "otto") == 1
    assert till.view().pulls[0].channel == "before_run"


def test_who_was_erased_stays_erased_and_leaves_no_trace_in_the_pulls(till: Till) -> None:
    database = till.museum.database
    till.write(till.pull())
    nora = Selection(wanted=Wanted(search="nora"), seen=1)
    erase(database, SYSTEM, nora, hasher=HASHER, now=till.now)
    with database.transaction() as tx:
        assert not run_sql(tx, "SELECT key FROM source_row WHERE key LIKE '%new@tinmail%'")
    again = till.pull()
    assert [row.code for row in again.refusals] == ["erased"]
    assert again.new == 0


def test_two_editors_and_a_stolen_password(till: Till) -> None:
    database = till.museum.database
    access = SourceAccessDraft(kind="postgresql", database="d", host="db.example", username="u", password="s3cret")
    made = till.save(replace(till.draft(), name="Ledger", access=access))
    with database.transaction() as tx:
        stored = run_sql(tx, "SELECT CAST(live_source AS text) AS row FROM live_source WHERE id = :id", {"id": made.id})
    assert "s3cret" not in stored[0].row
    assert made.has_password

    def opened(**change: Any) -> str:
        asked = replace(access, password=None, source_id=made.id, **change)
        return live_sources.draft_access(database, SYSTEM, asked, secret=SECRET, directory=None).password

    assert opened() == "s3cret"
    # A stored password is not sent to a host that somebody just typed in.
    for change in ({"host": "elsewhere.example"}, {"port": 6000}, {"username": "another"}, {"tls": True}):
        with pytest.raises(BadInput, match="Enter it again"):
            opened(**change)
    with pytest.raises(SecretLost):
        live_sources.draft_access(
            database, SYSTEM, replace(access, password=None, source_id=made.id), secret=b"another", directory=None
        )
    till.save(replace(till.draft(), name="Ledger 2", access=replace(access, password=None), revision=1), made.id)
    with pytest.raises(Conflict):
        till.save(replace(till.draft(), name="Ledger 3", access=access, revision=1), made.id)
    # Nor does it move along when the source is saved for another server, or without its encryption.
    for change in ({"host": "elsewhere.example"}, {"tls": True}):
        moved = replace(till.draft(), name="Ledger 2", access=replace(access, password=None, **change), revision=2)
        with pytest.raises(BadInput, match="Enter it again"):
            till.save(moved, made.id)
    # And who writes another server into the database itself opens nothing.
    with database.transaction() as tx:
        run_sql(tx, "UPDATE live_source SET host = 'elsewhere.example' WHERE id = :id", {"id": made.id})
        with pytest.raises(SecretLost, match="another server"):
            live_sources.source_access(live_sources.require_source(tx, made.id), secret=SECRET, directory=None)


@pytest.mark.parametrize(
    "change",
    [
        {"name": " "},
        {"name": "TILL"},
        {"table": ""},
        {"select": "UPDATE customer SET town = ''"},
        {"access": SourceAccessDraft(kind="sqlite", database="../../etc/passwd")},
        {"access": SourceAccessDraft(kind="oracle", database="x")},
        {"access": SourceAccessDraft(kind="mysql", database="x")},
        {"schedule": ScheduleDraft(every="minute")},
        {"schedule": ScheduleDraft(every="day", at="25:00")},
        {"schedule": ScheduleDraft(every="week", weekday=7)},
        {"gone_tag": "x" * 100},
    ],
)
def test_a_source_that_cannot_be_is_refused(till: Till, change: dict[str, object]) -> None:
    with pytest.raises(BadInput):
        till.save(replace(till.draft(), **{"name": "Another", **change}))  # type: ignore[arg-type]
    assert len(live_sources.source_list(till.museum.database, SYSTEM, NOW)) == 1


def test_removing_a_source_keeps_its_people(till: Till) -> None:
    till.write(till.pull())
    live_sources.remove_source(till.museum.database, SYSTEM, till.id)
    assert people(till.museum, "nora") == 1
    assert live_sources.source_list(till.museum.database, SYSTEM, NOW) == []


INSTANTS = st.integers(0, 2 * 365 * 24 * 60).map(lambda minutes: NOW + timedelta(minutes=minutes))
ZONES = st.sampled_from(["Europe/London", "America/New_York", "Australia/Lord_Howe", "UTC"])


@given(INSTANTS, ZONES, st.sampled_from(["day", "week"]), st.times(), st.integers(0, 6))
def test_the_next_pull_is_the_first_such_moment(
    after: datetime, zone_name: str, every: str, at: object, weekday: int
) -> None:
    zone = ZoneInfo(zone_name)
    schedule = Schedule(every=Every(every), at=at.replace(second=0, microsecond=0), weekday=weekday)  # type: ignore[attr-defined]
    moment = next_pull(schedule, after, zone)
    assert after < moment <= after + timedelta(days=8 if every == "week" else 2)
    local = moment.astimezone(zone)
    # But for an hour that the clocks leave out, it is the local time that was asked for.
    there_and_back = datetime.combine(local.date(), schedule.at, tzinfo=zone).astimezone(UTC).astimezone(zone)
    assert local.time() == there_and_back.time()
    assert every == "day" or local.weekday() == weekday or there_and_back.date() != local.date()
    earlier = moment - timedelta(days=1)
    assert every == "week" or next_pull(schedule, earlier - timedelta(hours=2), zone) < moment


def test_what_was_deleted_long_ago_is_let_go(museum: Museum) -> None:
    database = museum.database
    delete(database, SYSTEM, Selection(wanted=Wanted(search="ivy"), seen=1), now=NOW)
    assert let_go_of_deleted(database, NOW + timedelta(days=30)) == 0
    assert let_go_of_deleted(database, NOW + timedelta(days=31)) == 1
    assert let_go_of_deleted(database, NOW + timedelta(days=31)) == 0
    with database.transaction() as tx:
        left = run_sql(tx, "SELECT CAST(contact AS text) AS row FROM contact WHERE erased_at IS NOT NULL")
        assert len(left) == 1
        assert "ivy" not in left[0].row.lower()
        # Her suppression is no part of her record: were she brought in again, it would hold her.
        assert run_sql(tx, "SELECT 1 FROM suppression WHERE address_folded = 'ivy@slatepost.example'")
