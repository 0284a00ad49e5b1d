"""Rehearsals, played with real lines into the simulated world."""

from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from pydantic import SecretStr

import uvarovite.bootstrap.rehearsing as rehearsing
from tests.support.museum import HASHER, NOW, SECRET, Museum, make_museum
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.campaigns import MINUTE_SECONDS, Brake, Pace, SendingWindow, reader_zone
from uvarovite.core.responses import derive_keyring
from uvarovite.services.contacts.fields import FieldDraft, make_field
from uvarovite.services.delivery.traces import sent_message
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.rehearsals.asking import (
    MOST_KEPT,
    RehearsalAsk,
    RehearsalState,
    RehearsalView,
    ask_for_rehearsal,
    database_of,
    drop_left,
    rehearsal_view,
    rehearsals_of,
    throw_away,
)
from uvarovite.services.selection.bulk import Selection, erase
from uvarovite.settings import Settings
from uvarovite.store.database import Database, RuleBroken, SchemaGone, change_sql, run_sql
from uvarovite.store.delivery import permits
from uvarovite.store.rehearsals.schemas import OWN, schema_of, schemas, seen_in
from uvarovite.store.schema import upgrade
from uvarovite.store.tables import metadata

# What asking and throwing away write themselves.
ABOUT_REHEARSALS = {"rehearsal", "audit_entry"}


def settings_for(database: Database) -> Settings:
    return Settings(database_url=SecretStr(database.url), secret_key=SecretStr(SECRET.decode()))


def asked(museum: Museum, scenario: str = "calm", starts_at: datetime | None = None) -> int:
    ask = RehearsalAsk(campaign_id=museum.campaign_id, scenario=scenario, starts_at=starts_at)
    return ask_for_rehearsal(museum.database, SYSTEM, ask, now=system_clock())


def played(museum: Museum, scenario: str = "calm", starts_at: datetime | None = None) -> RehearsalView:
    rehearsal_id = asked(museum, scenario, starts_at)
    rehearsing.play_rehearsal(settings_for(museum.database), museum.database, rehearsal_id)
    return rehearsal_view(museum.database, SYSTEM, rehearsal_id, now=system_clock())


def states_of(view: RehearsalView) -> dict[str, int]:
    assert view.dispatch is not None
    return {state: n for state, n in view.dispatch.states.items() if n}


def everything(database: Database) -> dict[str, int]:
    """A digest of all rows of each real table, but for those about rehearsals."""
    with database.transaction() as tx:
        return {
            table: run_sql(tx, f"SELECT coalesce(sum(hashtextextended(t::text, 0)), 0) AS n FROM {table} AS t")[0].n
            for table in sorted(metadata.tables.keys() - ABOUT_REHEARSALS)
        }


def crowd(database: Database, people: int, pace: Pace | None = None) -> Museum:
    """A museum with so many cleared people, of several providers, whose relay has no limit."""
    domains = ("slatepost", "quartzmail", "fjordnet", "copperbox")
    rows = "\n".join(f"P-{n:05d},person{n}@{domains[n % 4]}.example" for n in range(people))
    museum = make_museum(database, people=f"Contact no.,E-mail address\n{rows}\n", batch_size=20)
    with database.transaction() as tx:
        permits.set_limits(tx, permits.relay_scope(museum.relay_id), {})
    if pace:
        museum.change(pace=pace)
    return museum


def test_a_rehearsal_goes_through_the_whole_engine_and_changes_nothing_that_is_real(database: Database) -> None:
    museum = crowd(database, 200)
    before, listed_before = everything(database), listed(database)
    view = played(museum, "ordinary")
    assert view.rehearsal.state is RehearsalState.OVER
    assert view.dispatch is not None
    assert view.dispatch.planned == 200 == sum(view.dispatch.states.values())
    # One provider greylists for five minutes, one knows not everybody, one slows us down: waited for in no time.
    states = states_of(view)
    assert set(states) == {"accepted", "refused"}
    assert (view.rehearsal.planned, view.rehearsal.accepted) == (200, states["accepted"])
    assert timedelta(minutes=5) < view.dispatch.ended_at - view.rehearsal.starts_at < timedelta(hours=3)
    assert system_clock() - view.rehearsal.asked_at < timedelta(minutes=2)
    assert everything(database) == before
    there = database_of(database, view.rehearsal.id)
    assert listed(there) == states["refused"] + listed_before
    with there.transaction() as tx:
        tries = run_sql(tx, "SELECT kind, count(*) AS n FROM attempt GROUP BY 1")
    assert Counter({row.kind: row.n for row in tries})["try_later"] > 40


def listed(database: Database) -> int:
    with database.transaction() as tx:
        return int(run_sql(tx, "SELECT count(*) AS n FROM suppression")[0].n)


def test_the_same_scenario_gives_the_same_people_the_same_end(database: Database) -> None:
    museum = crowd(database, 60)
    first, second = played(museum, "full"), played(museum, "full")

    def refused(view: RehearsalView) -> list[str]:
        with database_of(database, view.rehearsal.id).transaction() as tx:
            rows = run_sql(tx, "SELECT address FROM delivery WHERE state = 'refused' ORDER BY 1")
        return [row.address for row in rows]

    assert refused(first) == refused(second) != []


def test_its_own_time_keeps_limits_and_windows(database: Database) -> None:
    museum = crowd(database, 50, Pace(batch_size=50, gap_seconds=0, minute_limit=10, window=SendingWindow()))
    # Three minutes before the end of a Friday: the rest goes on Monday.
    friday = (system_clock() + timedelta(days=14)).replace(hour=16, minute=57, second=0, microsecond=0)
    friday += timedelta(days=(4 - friday.weekday()) % 7)
    view = played(museum, "calm", friday)
    assert states_of(view) == {"accepted": 50}
    with database_of(database, view.rehearsal.id).transaction() as tx:
        times = [row.at for row in run_sql(tx, "SELECT at FROM attempt ORDER BY at")]
    assert {at.weekday() for at in times} == {4, 0}
    assert all(times[n + 10] - times[n] > timedelta(seconds=MINUTE_SECONDS) for n in range(len(times) - 10))
    # At most ten in each of the three minutes; and no minute of Monday is wasted.
    assert 20 <= sum(at.weekday() == 4 for at in times) <= 30
    monday = [at for at in times if at.weekday() == 0]
    assert monday[0] - friday == timedelta(days=2, hours=16, minutes=3) + (monday[0] - friday) % timedelta(minutes=1)
    assert monday[-1] - monday[0] < timedelta(minutes=4)


def test_each_reader_gets_it_by_their_own_clock(database: Database) -> None:
    museum = crowd(database, 60)
    make_field(database, SYSTEM, FieldDraft(key="clock", label="Clock", type="text"))
    zones = ("America/New_York", "Australia/Lord_Howe", "Not/A zone", None)
    with database.transaction() as tx:
        change_sql(
            tx,
            """UPDATE contact SET own = own || jsonb_strip_nulls(jsonb_build_object('clock',
                (CAST(:zones AS text[]))[id % 4 + 1]))""",
            {"zones": list(zones)},
        )
    # An hourly limit of the relay that is nobody's who sleeps.
    pace = Pace(batch_size=7, gap_seconds=0, hourly_limit=20, window=SendingWindow(zone_field="clock"))
    museum.change(pace=pace)
    monday = (system_clock() + timedelta(days=14)).replace(hour=8, minute=0, second=0, microsecond=0)
    monday -= timedelta(days=monday.weekday())
    view = played(museum, "calm", monday)
    assert states_of(view) == {"accepted": 60}
    assert view.dispatch is not None
    with database_of(database, view.rehearsal.id).transaction() as tx:
        rows = run_sql(
            tx,
            "SELECT record->>'clock' AS clock, at FROM attempt JOIN delivery ON delivery.id = delivery_id ORDER BY at",
        )
    home = ZoneInfo("Europe/London")
    assert all(pace.hours(reader_zone(row.clock, home)).is_open(row.at) for row in rows)
    when = {zone: [row.at - monday for row in rows if row.clock == zone] for zone in zones}
    hour = timedelta(hours=1)
    # Twenty of London at nine and the rest at ten, with no regard to who sleeps; New York at two.
    assert sum(told < 2 * hour for zone in (None, "Not/A zone") for told in when[zone]) == 20
    assert all(told < 3 * hour for zone in (None, "Not/A zone") for told in when[zone])
    assert all(6 * hour <= told < 7 * hour for told in when["America/New_York"])
    assert all(13 * hour < told < 24 * hour for told in when["Australia/Lord_Howe"])
    # The forecast saw it coming, to the minute.
    foretold = view.dispatch.planned_curve[-1].at
    assert abs(foretold - view.dispatch.ended_at) < timedelta(minutes=1)
    assert "by each reader’s own clock" in view.dispatch.pace_words
    with pytest.raises(BadInput, match="not there"):
        museum.change(pace=pace.model_copy(update={"window": SendingWindow(zone_field="nothing")}))


def test_a_brake_and_a_relay_that_turns_us_away_end_it_with_words(database: Database) -> None:
    museum = crowd(database, 200, Pace(batch_size=20, gap_seconds=60, brake=Brake(last=50, bounce_percent=1)))
    braked = played(museum, "full")
    assert braked.rehearsal.state is RehearsalState.OVER
    assert braked.dispatch is not None
    assert braked.dispatch.brake
    assert braked.moving > 0
    turned = played(museum, "turned-away")
    assert turned.rehearsal.state is RehearsalState.BROKEN_OFF
    assert "sending too much that nobody wants" in str(turned.rehearsal.trouble)
    assert states_of(turned) == {"waiting": 200}


def test_what_was_rehearsed_can_be_looked_at_and_its_links_lead_nowhere(museum: Museum) -> None:
    view = played(museum)
    assert view.dispatch is not None
    there = database_of(museum.database, view.rehearsal.id)
    with there.transaction() as tx:
        delivery = run_sql(tx, "SELECT id FROM delivery ORDER BY id LIMIT 1")[0].id
    keyring = derive_keyring(SECRET, rehearsed=True)
    shown = sent_message(there, SYSTEM, delivery, keyring=keyring, secret=SECRET, now=system_clock())
    assert shown.identical
    other = sent_message(there, SYSTEM, delivery, keyring=derive_keyring(SECRET), secret=SECRET, now=system_clock())
    assert not other.identical


def test_thrown_away_in_the_middle_it_touches_nothing_real(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    museum = crowd(database, 100)
    museum.change(again=Again.EVERYBODY)
    # A run of the same number is on its way, and all its batches wait.
    assert museum.release(NOW) == 1
    before = everything(database)
    claim = rehearsing._WoundQueue.claim
    claims = 0

    def thrown_away_first(queue: Any, *told: Any) -> Any:
        nonlocal claims
        claims += 1
        if claims == 3:
            throw_away(database, SYSTEM, rehearsal_id)
        return claim(queue, *told)

    monkeypatch.setattr(rehearsing._WoundQueue, "claim", thrown_away_first)
    rehearsal_id = asked(museum)
    rehearsing.play_rehearsal(settings_for(database), database, rehearsal_id)
    drop_left(database)
    assert everything(database) == before
    with database.transaction() as tx:
        assert schemas(tx) == []
    with pytest.raises(NotFound):
        rehearsal_view(database, SYSTEM, rehearsal_id, now=system_clock())
    with pytest.raises(SchemaGone), seen_in(database, rehearsal_id).transaction():
        pass


@contextmanager
def inside(museum: Museum) -> Iterator[Database]:
    view = played(museum)
    yield database_of(museum.database, view.rehearsal.id)


def test_every_table_is_its_own_or_refuses_to_be_written(museum: Museum) -> None:
    with inside(museum) as there:
        with there.transaction() as tx:
            kinds = run_sql(
                tx,
                "SELECT relname, relkind FROM pg_class WHERE relnamespace = to_regnamespace(:schema) AND relkind IN ('r', 'v')",
                {"schema": schema_of(1)},
            )
        told = {row.relname: row.relkind for row in kinds}
        assert told == {name: "r" if name in OWN else "v" for name in metadata.tables}
        for statement in (
            "UPDATE contact SET first_name = 'X'",
            "DELETE FROM consent",
            "UPDATE organisation SET name = ''",
        ):
            with pytest.raises(RuleBroken), there.transaction() as tx:
                change_sql(tx, statement)
        # The guards of its own tables are those of the real ones.
        with pytest.raises(Exception, match="waiting"), there.transaction() as tx:
            change_sql(tx, "UPDATE delivery SET state = 'waiting'")


def test_whoever_is_erased_takes_their_rehearsals_along(museum: Museum) -> None:
    played(museum)

    def erased(contact_no: str) -> None:
        who = Selection(ids=(museum.contact_id(contact_no),), seen=1)
        erase(museum.database, SYSTEM, who, hasher=HASHER, now=NOW)

    erased("M-09")
    # She was not in it, and stood on its list.
    with database_of(museum.database, 1).transaction() as tx:
        assert [row.address_folded for row in run_sql(tx, "SELECT address_folded FROM suppression")] == [
            "jude@slatepost.example"
        ]
    assert len(rehearsals_of(museum.database, SYSTEM, museum.campaign_id, now=system_clock())) == 1
    erased("M-01")
    assert rehearsals_of(museum.database, SYSTEM, museum.campaign_id, now=system_clock()) == []
    with museum.database.transaction() as tx:
        assert schemas(tx) == []


def test_an_upgrade_that_changes_something_throws_them_away_first(
    museum: Museum, monkeypatch: pytest.MonkeyPatch
) -> None:
    played(museum)
    kept: list[list[int]] = []

    def look(*_: object) -> None:
        with museum.database.transaction() as tx:
            kept.append(schemas(tx))

    monkeypatch.setattr("uvarovite.store.schema.command.upgrade", look)
    upgrade(museum.database.url)
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE alembic_version SET version_num = '0001'")
    upgrade(museum.database.url)
    assert kept == [[1], []]
    assert rehearsals_of(museum.database, SYSTEM, museum.campaign_id, now=system_clock()) == []


def test_what_cannot_be_rehearsed_is_said(museum: Museum) -> None:
    now = system_clock()
    with pytest.raises(ServiceRefusal, match="to come"):
        asked(museum, starts_at=now - timedelta(days=1))
    first = asked(museum)
    with pytest.raises(Conflict, match="not over yet"):
        asked(museum)
    throw_away(museum.database, SYSTEM, first)
    for _ in range(MOST_KEPT):
        played(museum)
    with pytest.raises(Conflict, match="Throw one away"):
        asked(museum)
    last = rehearsals_of(museum.database, SYSTEM, museum.campaign_id, now=now)[0]
    throw_away(museum.database, SYSTEM, last.id)
    museum.change(sender_id=None)
    view = played(museum)
    assert (view.rehearsal.state, view.dispatch) == (RehearsalState.BROKEN_OFF, None)
    assert "who it comes from" in str(view.rehearsal.trouble)
    # Nobody has heard of its process for a while.
    throw_away(museum.database, SYSTEM, view.rehearsal.id)
    silent = asked(museum)
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE rehearsal SET begun_at = :at, heard_at = :at WHERE id = :id", {"at": now, "id": silent})
    later = rehearsal_view(museum.database, SYSTEM, silent, now=now + timedelta(minutes=4))
    assert later.rehearsal.state is RehearsalState.BROKEN_OFF


def test_a_clock_can_be_wound() -> None:
    seconds = iter([100.0, 101.5, 103.0])
    clock = rehearsing.WoundClock(datetime(2026, 11, 23, 9, 0, tzinfo=UTC), lambda: next(seconds))
    assert clock() == datetime(2026, 11, 23, 9, 0, 1, 500_000, tzinfo=UTC)
    clock.wind(timedelta(hours=2))
    assert clock() == datetime(2026, 11, 23, 11, 0, 3, tzinfo=UTC)
