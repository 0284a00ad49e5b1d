"""What a person closed stays closed for their address: the record may be deleted, merged, corrected or brought in anew."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

import psycopg.errors
import pytest
import sqlalchemy.exc
from hypothesis import given
from hypothesis import strategies as st

from tests.services.test_leaving_in_flight import leave
from tests.support.importing import import_people, preview
from tests.support.museum import HASHER, NOW, Museum, explained
from tests.support.sending import OK, claim, kit_of, send, send_all
from tests.support.till import Till
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import closed_sql
from uvarovite.services.audiences.clearance import people_behind
from uvarovite.services.contacts import duplicates, editing
from uvarovite.services.contacts.people import person
from uvarovite.services.delivery.traces import trace
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, run_sql

WALKS = {"topic": "field_walks", "legal_basis": "Signed a list"}
LATER = NOW + timedelta(days=1)


def behind(museum: Museum, gate: str | None, now: datetime = LATER) -> dict[str, str | None]:
    """Who is cleared (None) or held by a gate, by address, with the reason."""
    found = people_behind(
        museum.database, SYSTEM, text="everyone", topic_id=museum.topic_id, gate=gate, after_id=0, now=now
    )
    return {one.address.lower(): one.reason for one in found}


def say(museum: Museum, contact_no: str, kind: str, **more: object) -> None:
    editing.record_consent(
        museum.database, SYSTEM, museum.contact_id(contact_no), topic="field_walks", kind=kind, wording="by telephone",
        **{"until": None, "now": NOW, **more},  # type: ignore[arg-type]
    )  # fmt: skip


def delete(museum: Museum, contact_no: str) -> int:
    some = Selection(ids=(museum.contact_id(contact_no),), seen=1)
    return bulk.delete(museum.database, SYSTEM, some, now=NOW + timedelta(hours=1)).change_set_id or 0


def correct(museum: Museum, contact_no: str, before: str, address: str) -> None:
    editing.change_value(
        museum.database, SYSTEM, museum.contact_id(contact_no), key="address", before=before, text=address, hasher=HASHER,
        now=NOW + timedelta(hours=1),
    )  # fmt: skip


@pytest.mark.parametrize("brought_in", ["by a file", "by a pull"])
def test_a_deleted_record_that_comes_back_is_still_closed(museum: Museum, tmp_path: Path, brought_in: str) -> None:
    say(museum, "M-02", "withdrawn")
    delete(museum, "M-02")
    if brought_in == "by a file":
        view = import_people(museum, "E-mail address,First name\nBENOIT@slatepost.example,Benoît\n", now=LATER, **WALKS)
    else:
        till = Till(museum, tmp_path)
        till.now = LATER
        view = till.write(till.pull(), topic="field_walks")
    assert view.new >= 1
    assert view.outlook is not None
    assert view.outlook.left == 1
    assert behind(museum, "consent")["benoit@slatepost.example"] == "the topic was left from this address"
    # A statement by somebody else opens nothing, and neither does one for many at once.
    again = Selection(ids=(person_at(museum, "benoit@slatepost.example"),), seen=1)
    done = bulk.subscribe(museum.database, SYSTEM, again, topic="field_walks", legal_basis="A list", now=LATER)
    assert done.contacts == 0
    assert "benoit@slatepost.example" not in behind(museum, None)


def person_at(museum: Museum, address: str) -> int:
    with museum.database.transaction() as tx:
        sql = "SELECT id FROM contact WHERE address_folded = :address AND deleted_at IS NULL"
        return int(run_sql(tx, sql, {"address": address})[-1].id)


def test_the_old_address_of_somebody_who_moved_is_still_closed_and_so_are_they(museum: Museum) -> None:
    say(museum, "M-02", "withdrawn")
    correct(museum, "M-02", "benoit@slatepost.example", "b.ardoise@tinmail.example")
    import_people(museum, "E-mail address\nbenoit@slatepost.example\n", now=LATER, **WALKS)
    held = behind(museum, "consent")
    assert held["benoit@slatepost.example"] == "the topic was left from this address"
    assert held["b.ardoise@tinmail.example"] == "left the topic"


def test_a_pause_and_a_confirmation_are_of_the_address_too(museum: Museum) -> None:
    say(museum, "M-02", "paused", until=NOW + timedelta(days=30))
    say(museum, "M-03", "confirmed")
    delete(museum, "M-02")
    correct(museum, "M-03", "zoe@slatepost.example", "zoe@tinmail.example")
    import_people(museum, "E-mail address\nbenoit@slatepost.example\n", now=LATER, **WALKS)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE topic SET double_opt_in = TRUE WHERE key = 'field_walks'")
    assert "did not confirm from this address" in str(behind(museum, "consent")["zoe@tinmail.example"])
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE topic SET double_opt_in = FALSE")
    assert behind(museum, "consent")["benoit@slatepost.example"] == "the topic pauses at this address"
    assert "benoit@slatepost.example" in behind(museum, None, NOW + timedelta(days=31))


def test_leaving_through_the_mailbox_closes_it_for_the_household_and_says_whose_it_was(museum: Museum) -> None:
    """Ada and Gus share a mailbox; Ada is written to and presses the button."""
    run_id = museum.release()
    send_all(museum, run_id)
    leave(museum, museum.delivery_id(run_id, "M-01"))
    assert "ada@slatepost.example" not in behind(museum, None)
    gus = next(
        one
        for one in explained(
            museum.database, text="everyone", address="ada@slatepost.example", topic_id=museum.topic_id, now=LATER
        )
        if one.name.startswith("Gus")
    )
    assert gus.words == (
        "Gus Thwaite-Gray matches, and is held: the topic was left from this address: Ada Thwaite-Gray left on "
        "23 November 2026, with one click in their mail program."
    )
    shown = next(one for one in person(museum.database, SYSTEM, gus.id, LATER).topics if one.key == "field_walks")
    assert (shown.state, shown.closed and shown.closed.by) == ("subscribed", "Ada Thwaite-Gray")

    # Gus's word at the counter is his own; the mailbox stays closed until somebody answers from it.
    say(museum, "M-07", "granted", now=LATER)
    assert "ada@slatepost.example" not in behind(museum, None)
    say(museum, "M-07", "confirmed", now=LATER)
    assert "ada@slatepost.example" in behind(museum, None, LATER)


def test_leaving_told_at_the_counter_closes_one_of_a_household_unless_it_is_meant_for_the_address(
    museum: Museum,
) -> None:
    say(museum, "M-01", "withdrawn")
    assert "ada@slatepost.example" in behind(museum, None), "Gus goes on getting mail"
    back = delete(museum, "M-01")
    assert "ada@slatepost.example" in behind(museum, None), "he had subscribed before she was gone"
    import_people(museum, "Contact no.,E-mail address\nN-01,ada@slatepost.example\n", now=LATER, **WALKS)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET deleted_at = now() WHERE contact_no = 'M-07'")
    assert "ada@slatepost.example" not in behind(museum, None), "whoever came later may be her"
    bulk.undo(museum.database, SYSTEM, back, now=LATER)
    say(museum, "M-01", "granted", now=LATER)
    assert "ada@slatepost.example" in behind(museum, None), "her own word opens what she closed"
    say(museum, "M-01", "withdrawn", for_address=True, now=LATER)
    assert "ada@slatepost.example" not in behind(museum, None)


def test_whoever_shares_the_mailbox_is_held_in_a_run_that_is_on_its_way(museum: Museum) -> None:
    first = museum.release()
    send_all(museum, first)
    say(museum, "M-01", "withdrawn")
    museum.change(again="everybody")
    second = museum.release()
    gus = museum.delivery_id(second, "M-07")
    leave(museum, museum.delivery_id(first, "M-01"))
    assert museum.states(second)["M-07"] == "held"
    assert any("Ada Thwaite-Gray left on" in step.words for step in trace(museum.database, SYSTEM, gus).steps)


def test_the_last_look_asks_the_address_too(museum: Museum) -> None:
    """A mark that is made in a way that holds nothing (here: by the trigger alone) still wins."""
    run_id = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    with museum.database.transaction() as tx:
        run_sql(
            tx,
            """INSERT INTO address_closing (address_folded, topic_id, left_at)
                SELECT address_folded, :topic, now() FROM contact WHERE contact_no = 'M-01'""",
            {"topic": museum.topic_id},
        )
    assert museum.delivery_id(run_id, "M-01") not in send(museum, batch, kit_of(museum, run_id), OK)
    assert museum.states(run_id)["M-01"] == "held"


def test_a_merge_leaves_the_duplicates_address_closed(museum: Museum) -> None:
    say(museum, "M-02", "withdrawn")
    duplicates.merge(
        museum.database, SYSTEM, kept_id=museum.contact_id("M-03"), gone_ids=[museum.contact_id("M-02")], choices={},
        now=NOW + timedelta(hours=1),
    )  # fmt: skip
    import_people(museum, "E-mail address\nbenoit@slatepost.example\n", now=LATER, **WALKS)
    held = behind(museum, "consent")
    assert held["benoit@slatepost.example"] == "the topic was left from this address"
    assert held["zoe@slatepost.example"] == "left the topic"


def test_criteria_ask_for_those_who_would_get_mail(museum: Museum) -> None:
    run_id = museum.release()
    send_all(museum, run_id)
    wanted = Wanted(criteria='subscribed to "Field walks"')
    before = count_contacts(museum.database, SYSTEM, wanted=wanted, now=LATER)
    leave(museum, museum.delivery_id(run_id, "M-01"))
    assert count_contacts(museum.database, SYSTEM, wanted=wanted, now=LATER) == before - 2


def test_an_erased_person_leaves_no_address_behind_and_cannot_come_back(museum: Museum) -> None:
    say(museum, "M-02", "withdrawn")
    correct(museum, "M-02", "benoit@slatepost.example", "b.ardoise@tinmail.example")
    gone = Selection(ids=(museum.contact_id("M-02"),), seen=1)
    bulk.erase(museum.database, SYSTEM, gone, hasher=HASHER, now=LATER)
    with museum.database.transaction() as tx:
        assert not run_sql(tx, "SELECT FROM address_closing WHERE address_folded ~ 'benoit|ardoise'")
        assert not run_sql(tx, "SELECT FROM consent WHERE confirmed_address ~ 'benoit|ardoise'")
    # Both addresses are known by their keyed hash alone.
    both = preview(museum, "E-mail address\nbenoit@slatepost.example\nb.ardoise@tinmail.example\n")
    assert [one.code for one in both.refusals] == ["erased", "erased"]


def test_the_ledger_is_never_emptied(database: Database) -> None:
    for table in ("consent_event", "message_version"):
        with pytest.raises(sqlalchemy.exc.DBAPIError) as fault, database.transaction() as tx:
            run_sql(tx, f"TRUNCATE {table} CASCADE")
        assert isinstance(fault.value.orig, psycopg.errors.RestrictViolation)


@dataclass(frozen=True, slots=True, kw_only=True)
class Closing:
    """What stands at an address for one topic. Each `spares` is None where nobody is spared; instants are aware."""

    left_at: datetime | None = None
    left_spares: datetime | None = None
    paused_until: datetime | None = None
    paused_spares: datetime | None = None

    def has_left(self, subscribed_since: datetime | None) -> bool:
        """Is somebody whose present state began at `subscribed_since` (None: never asked) closed by a leaving?"""
        return self.left_at is not None and _is_late(subscribed_since, self.left_spares)

    def pauses(self, subscribed_since: datetime | None, now: datetime) -> bool:
        """Do they pause by what was said at their address?"""
        running = self.paused_until is not None and self.paused_until > now
        return running and _is_late(subscribed_since, self.paused_spares)


def _is_late(since: datetime | None, spares: datetime | None) -> bool:
    return since is None or spares is None or since > spares


moments = st.none() | st.integers(0, 5).map(lambda hours: NOW + timedelta(hours=hours))


@pytest.fixture(scope="module")
def anywhere(cluster: Cluster) -> Iterator[Database]:
    """A database for what reads no table."""
    made = Database(cluster.url("postgres"), connections=1)
    yield made
    made.close()


@given(
    closing=st.builds(Closing, left_at=moments, left_spares=moments, paused_until=moments, paused_spares=moments),
    since=moments,
    now=moments.filter(lambda one: one is not None),
)
def test_the_database_reads_a_closing_as_the_core_does(
    anywhere: Database, closing: Closing, since: datetime | None, now: datetime
) -> None:
    columns = {one: getattr(closing, one) for one in ("left_at", "left_spares", "paused_until", "paused_spares")}
    row = ", ".join(f"CAST(:{one} AS timestamptz) AS {one}" for one in columns)
    sql = f"""SELECT {closed_sql("left", "at", "since")} AS has_left, {closed_sql("paused", "at", "since")} AS pauses
        FROM (SELECT {row}, CAST(:since AS timestamptz) AS since) AS at"""
    with anywhere.transaction() as tx:
        told = run_sql(tx, sql, {**columns, "since": since, "now": now})[0]
    assert (told.has_left, told.pauses) == (closing.has_left(since), closing.pauses(since, now))
