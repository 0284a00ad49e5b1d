"""The relay against relays that behave badly: what it costs whom, and what can be known."""

import asyncio
import time
from dataclasses import replace
from typing import Any

import psycopg
import pytest

from tests.support.museum import KEYRING, NOW, Museum, changed_campaign, make_museum
from tests.support.relays import DROP, Script
from tests.support.working import ended, work
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.queue import DeliveryQueue
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.messages import Composer
from uvarovite.core.responses import read_return_address
from uvarovite.services.campaigns.campaigns import save_campaign
from uvarovite.services.delivery.dispatch import go_on, pause
from uvarovite.services.delivery.sending import ClaimedBatch
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, DatabaseLost, run_sql
from uvarovite.workers import delivery
from uvarovite.workers.carrier import MOST_REFUSALS


def test_everybody_gets_their_own_message_once(museum: Museum) -> None:
    script = Script()
    view = work(museum, script, museum.release(), ended)
    assert view.states == {"accepted": 5}
    assert len(script.messages) == 5
    recipients = [raw.split(b"To: ")[1].split(b"\r\n")[0] for raw in script.messages]
    assert len(set(recipients)) == 5
    assert sum(b"Ada, two walks" in raw for raw in script.messages) == 1


def test_a_break_after_the_message_is_unknown_and_not_tried_again(database: Database) -> None:
    # Fewer people than breaks that make the relay rest.
    people = "Contact no.,E-mail address\nM-01,ada@slatepost.example\nM-02,benoit@slatepost.example\n"
    museum = make_museum(database, people=people)
    script = Script(replies={".": DROP})
    view = work(museum, script, museum.release(), ended)
    assert view.states == {"unknown": 2}
    assert len(script.messages) == 2
    assert [line.words for line in view.troubles] == ["the connection broke before the answer"]


def test_a_relay_that_takes_one_connection_costs_nobody_an_attempt(database: Database) -> None:
    museum = make_museum(database, batch_size=5)

    class OneAtATime(Script):
        """Greets the first connection; turns the others away, but not before the first has sent for nearly everybody."""

        async def greet(self, number: int) -> str:
            while number > 1 and len(self.messages) < 4:
                await asyncio.sleep(0.01)
            return "220 ready" if number == 1 else "421 4.7.0 One connection is enough"

    view = work(museum, OneAtATime(), museum.release(), ended)
    assert view.states == {"accepted": 5}
    with database.transaction() as tx:
        assert run_sql(tx, "SELECT max(attempts) FROM delivery")[0][0] == 1


# What no database keeps as text: a byte that is no UTF-8, and a zero byte.
BYTES = "Nobody \udcff\0 here"


@pytest.mark.parametrize(
    ("replies", "states"),
    [({"RCPT": f"550 5.1.1 {BYTES}"}, {"refused": 5}), ({".": f"250 2.0.0 {BYTES}"}, {"accepted": 5})],
)
def test_a_relay_may_answer_with_any_bytes(museum: Museum, replies: dict[str, str], states: dict[str, int]) -> None:
    view = work(museum, Script(replies=replies), museum.release(), ended)
    assert view.states == states
    with museum.database.transaction() as tx:
        assert {row.text for row in run_sql(tx, "SELECT text FROM attempt")} == {
            next(iter(replies.values()))[4:].replace("\udcff\0", "\ufffd\ufffd")
        }


def test_a_relay_that_turns_us_away_with_any_bytes_is_shown_and_tried_again(museum: Museum) -> None:
    away = Script(greeting=f"554 5.7.1 {BYTES}")
    view = work(museum, away, museum.release(), lambda view: view.trouble is not None)
    assert "Nobody \ufffd\ufffd here" in (view.trouble or "")
    assert view.states == {"waiting": 5}


def test_one_message_that_cannot_be_made_takes_nobody_along(museum: Museum, monkeypatch: pytest.MonkeyPatch) -> None:
    run_id = museum.release()
    broken = museum.delivery_id(run_id, "M-03")
    whole = Composer.compose

    def compose(self: Composer, **asked: Any) -> Any:
        if asked["delivery_id"] == broken:
            raise RuntimeError("a fault of ours")
        return whole(self, **asked)

    monkeypatch.setattr(Composer, "compose", compose)
    view = work(museum, Script(), run_id, ended)
    assert view.states == {"accepted": 4, "refused": 1}
    assert museum.states(run_id)["M-03"] == "refused"
    assert [line.words for line in view.troubles] == ["the message could not be made"]
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM suppression WHERE reason = 'hard_bounce'")[0][0] == 0


def test_a_database_that_goes_away_for_a_while_ends_no_worker(museum: Museum, cluster: Cluster) -> None:
    run_id = museum.release()
    pause(museum.database, SYSTEM, run_id, NOW)
    cut: list[bool] = []

    def after_the_cut(view: DispatchView) -> bool:
        name = museum.database.url.rsplit("/", 1)[1]
        if not cut:
            with psycopg.connect(cluster.keeper_url(), autocommit=True) as connection:
                connection.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s AND state = 'idle'",
                    (name,),
                )
            cut.append(True)
            go_on(museum.database, SYSTEM, run_id, system_clock())
        return view.state == "ended"

    assert work(museum, Script(), run_id, after_the_cut).states == {"accepted": 5}


def test_a_refusal_of_the_relay_is_never_held_against_the_contact(museum: Museum) -> None:
    script = Script(replies={"RCPT": "550 5.7.1 Your address is on our list"})
    view = work(museum, script, museum.release(), ended)
    assert view.states == {"refused": 5}
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM suppression WHERE reason = 'hard_bounce'")[0][0] == 0


def test_a_paused_run_sends_nothing_and_a_new_release_wakes_the_worker(museum: Museum) -> None:
    run_id = museum.release(NOW)
    pause(museum.database, SYSTEM, run_id, NOW)
    script = Script()

    def started(view: DispatchView) -> bool:
        if view.state == "paused":
            assert view.states == {"waiting": 5}
            go_on(museum.database, SYSTEM, run_id, system_clock())
        return view.state == "ended"

    assert work(museum, script, run_id, started).states == {"accepted": 5}


def test_the_envelope_takes_the_domain_in_its_ascii_form(database: Database) -> None:
    people = "Contact no.,E-mail address,First name\nM-01,ada@bücher.example,Ada\n"
    museum = make_museum(database, people=people)
    script = Script(replies={"EHLO": "250 relay.example"})
    view = work(museum, script, museum.release(), ended)
    assert view.states == {"accepted": 1}
    assert b"<ada@xn--bcher-kva.example>" in script.messages[0]


def attempts(museum: Museum) -> set[int]:
    """How many attempts each delivery has had."""
    with museum.database.transaction() as tx:
        return {row.attempts for row in run_sql(tx, "SELECT attempts FROM delivery")}


def test_lines_live_from_batch_to_batch(museum: Museum) -> None:
    script = Script()
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET connections = 1")
    view = work(museum, script, museum.release(), ended)
    assert view.states == {"accepted": 5}
    assert len(view.batches) == 3
    assert script.connections == 1
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT DISTINCT relay_id FROM attempt")
    assert [row.relay_id for row in rows] == [museum.relay_id]


def test_undeliverable_mail_comes_back_to_an_address_of_its_own_where_it_can(museum: Museum) -> None:
    class Minutes(Script):
        """Notes who each message is from."""

        async def hears(self, line: bytes) -> bool:
            if line.startswith(b"MAIL"):
                senders.append(line.partition(b"<")[2].partition(b">")[0].decode())
            return True

    senders: list[str] = []
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET envelope_domain = NULL, revision = revision + 1")
    run_id = museum.release()
    assert work(museum, Minutes(), run_id, ended).states == {"accepted": 5}
    assert set(senders) == {"walks@skarnmuseum.example"}
    senders.clear()
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET envelope_domain = 'bounces.skarnmuseum.example', revision = revision + 1")
    museum.change(again=Again.EVERYBODY)
    run_id = museum.release()
    assert work(museum, Minutes(), run_id, ended).states == {"accepted": 5}
    with museum.database.transaction() as tx:
        ids = {row.id for row in run_sql(tx, "SELECT id FROM delivery WHERE run_id = :run", {"run": run_id})}
    assert {read_return_address(sender, KEYRING) for sender in senders} == ids
    assert len(senders) == 5


def test_a_line_carries_no_more_messages_than_the_relay_is_set_to(museum: Museum) -> None:
    script = Script()
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET connections = 1, messages_per_connection = 2")
    assert work(museum, script, museum.release(), ended).states == {"accepted": 5}
    assert script.connections == 3


@pytest.mark.parametrize("connections", [1, 8])
def test_a_relay_that_breaks_off_at_once_rests_and_costs_nobody_an_attempt(museum: Museum, connections: int) -> None:
    script = Script(replies={"MAIL": DROP})
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET connections = :n", {"n": connections})
    run_id = museum.release()
    view = work(museum, script, run_id, lambda view: view.trouble is not None and view.states == {"waiting": 5})
    assert "broke" in (view.trouble or "")
    assert attempts(museum) == {0}
    assert script.messages == []
    # It is mended, and tried again when it has rested.
    script.replies = {}
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET rests_until = now()")
    view = work(museum, script, run_id, ended)
    assert (view.states, view.trouble) == ({"accepted": 5}, None)
    assert attempts(museum) == {1}


@pytest.mark.parametrize("said", ["550 5.7.1 You may not send here", "530 5.7.0 Log in first", "550 Who are you?"])
def test_a_relay_that_takes_no_mail_from_us_costs_nobody_their_message(museum: Museum, said: str) -> None:
    script = Script(replies={"MAIL": said})
    run_id = museum.release()
    view = work(museum, script, run_id, lambda view: view.trouble is not None and view.states == {"waiting": 5})
    assert said in (view.trouble or "")
    assert "takes no mail from us" in (view.trouble or "")
    assert attempts(museum) == {0}
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM suppression WHERE reason = 'hard_bounce'")[0][0] == 0


def test_many_refusals_in_a_row_that_are_about_nobodys_address_stop_the_relay(database: Database) -> None:
    people = "Contact no.,E-mail address\n" + "".join(f"P-{n},p{n}@slatepost.example\n" for n in range(60))
    museum = make_museum(database, people=people, batch_size=60)
    script = Script(replies={"RCPT": "554 5.7.1 Relay access denied"})
    run_id = museum.release()
    view = work(museum, script, run_id, lambda view: view.trouble is not None and "claimed" not in view.states)
    assert "Relay access denied" in (view.trouble or "")
    assert view.states == {"refused": MOST_REFUSALS, "waiting": 60 - MOST_REFUSALS}
    # One word to the contrary, and the rest goes out.
    script.replies = {}
    with database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET rests_until = now()")
    assert work(museum, script, run_id, ended).states == {"refused": MOST_REFUSALS, "accepted": 60 - MOST_REFUSALS}


def test_a_message_that_breaks_every_line_is_put_off_and_takes_nobody_along(museum: Museum) -> None:
    class Allergic(Script):
        """Hangs up whenever one certain person is named."""

        async def hears(self, line: bytes) -> bool:
            return b"RCPT TO:<zoe@" not in line

    run_id = museum.release()

    def put_off(view: DispatchView) -> bool:
        return view.states == {"accepted": 4, "deferred": 1}

    work(museum, Allergic(), run_id, put_off)
    assert museum.states(run_id)["M-03"] == "deferred"
    assert attempts(museum) == {1}


def test_a_run_that_cannot_be_begun_takes_no_other_along(museum: Museum) -> None:
    broken = museum.release()
    other = save_campaign(
        museum.database,
        SYSTEM,
        campaign_id=None,
        change=changed_campaign(museum.view(), name="Another", again=Again.EVERYBODY),
        revision=None,
        now=NOW,
    )
    whole = replace(museum, campaign_id=other.id).release()

    class Forgetful(DeliveryQueue):
        """Cannot make the messages of one run."""

        def __init__(self, queue: DeliveryQueue) -> None:
            self.__dict__ = queue.__dict__

        def load_kit(self, batch: ClaimedBatch) -> Any:
            if batch.run_id == broken:
                raise RuntimeError("a fault of ours")
            return super().load_kit(batch)

    assert work(museum, Script(), whole, ended, Forgetful).states == {"accepted": 5}
    assert dispatch_view(museum.database, SYSTEM, broken, system_clock()).states == {"waiting": 5}


class HardOfHearing(DeliveryQueue):
    """A queue whose answers get lost now and then: the connection breaks when everything is written already."""

    def __init__(self, queue: DeliveryQueue) -> None:
        self.__dict__ = queue.__dict__
        self.lost = 0

    def advance(self, *told: Any) -> Any:
        group = super().advance(*told)
        if self.lost < 3:
            self.lost += 1
            raise DatabaseLost("gone", None, Exception("the connection broke"))
        return group


def test_whoever_was_marked_without_our_hearing_of_it_gets_their_message_once(museum: Museum) -> None:
    script = Script()
    view = work(museum, script, museum.release(), ended, HardOfHearing)
    assert view.states == {"accepted": 5}
    assert len({raw.split(b"To: ")[1].split(b"\r\n")[0] for raw in script.messages}) == len(script.messages) == 5
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM attempt")[0][0] == 5
        assert run_sql(tx, "SELECT count(*) FROM send_open")[0][0] == 0


def test_nothing_is_handed_over_once_the_lease_has_run_out(museum: Museum, monkeypatch: pytest.MonkeyPatch) -> None:
    script, began, asleep = Script(), time.monotonic(), [0.0]
    sent_before: list[int] = []

    class Sleeps(DeliveryQueue):
        """The machine sleeps for a minute between the mark and what follows, once."""

        def __init__(self, queue: DeliveryQueue) -> None:
            self.__dict__ = queue.__dict__

        def advance(self, *told: Any) -> Any:
            sent_before.append(len(script.messages))
            group = super().advance(*told)
            asleep[0] = 60.0
            return group

    monkeypatch.setattr(delivery, "_awake", lambda: time.monotonic() - began + asleep[0])
    view = work(museum, script, museum.release(), ended, Sleeps)
    # Those who were marked before it slept were not sent then, and lost no attempt by it.
    assert sent_before[:2] == [0, 0]
    assert view.states == {"accepted": 5}
    assert len(script.messages) == 5
    assert attempts(museum) == {1}
