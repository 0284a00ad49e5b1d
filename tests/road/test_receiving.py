"""Mail that comes back over a real line, to a listener and a worker in processes of their own."""

import smtplib
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest

from tests.road.test_a_run_with_people import let_go
from tests.support.museum import KEYRING, NOW, Museum, make_museum
from tests.support.processes import Installation, installation, until
from tests.support.sending import send_all
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import TokenWriter, return_address
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.store.database import Database, change_sql, run_sql


@pytest.fixture
def world(museum: Museum, tmp_path: Path) -> Iterator[Installation]:
    with installation(museum.database.url, tmp_path) as made:
        yield made


def test_the_worlds_account_of_what_came_back_is_ours(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        people = "Contact no.,E-mail address\n" + "".join(f"P-{n},person{n}@slatepost.example\n" for n in range(600))
        museum = make_museum(database, people=people, smtp_port=world.ports["smtp"], batch_size=200)
        with database.transaction() as tx:
            change_sql(tx, "UPDATE relay SET envelope_domain = 'bounces.example'")
        world.start_rehearsal(speed=6_000, scenario="returned")
        world.start("receive")
        run_id = let_go(museum, world)
        world.start("worker")

        def came(kind: str) -> int:
            with database.transaction() as tx:
                sql = "SELECT count(DISTINCT delivery_id) AS n FROM response_event WHERE kind = :kind"
                return int(run_sql(tx, sql, {"kind": kind})[0].n)

        def listed() -> dict[str, int]:
            with database.transaction() as tx:
                rows = run_sql(tx, "SELECT reason, count(*) AS n FROM suppression GROUP BY 1")
            return {row.reason: row.n for row in rows}

        def kinds() -> dict[str, int]:
            with database.transaction() as tx:
                rows = run_sql(tx, "SELECT kind, count(*) AS n FROM inbound_mail WHERE acted_at IS NOT NULL GROUP BY 1")
            return {row.kind: row.n for row in rows}

        view = partial(dispatch_view, database, SYSTEM, run_id, system_clock())
        until(lambda: view().state == "ended", "the end of the run")

        def theirs() -> dict[str, int]:
            return dict(world.account()["came_back"])

        every = {"form", "words", "complaint", "reply", "away", "leave_by_mail"}
        until(lambda: every <= theirs().keys() and sum(theirs().values()) > 15, "word of every kind to come back")

        def agrees() -> bool:
            told = theirs()
            report = told["form"] + told["words"]
            return (kinds(), listed(), came("bounced"), came("complained"), came("replied")) == (
                {
                    "report": report,
                    "complaint": told["complaint"],
                    "reply": told["reply"],
                    "automatic": told["away"],
                    "leave": told["leave_by_mail"],
                },
                {"hard_bounce": report, "complaint": told["complaint"]},
                report,
                told["complaint"],
                told["reply"],
            )

        until(agrees, "both accounts to agree")


def test_a_report_comes_in_and_its_address_is_suppressed(world: Installation, museum: Museum) -> None:
    run_id = museum.release(NOW)
    send_all(museum, run_id)
    world.start("receive")
    port = world.ports["inbound"]
    until(lambda: not port_is_free("127.0.0.1", port), "the listener")
    back = return_address(TokenWriter(KEYRING), museum.delivery_id(run_id, "M-01"), "bounces.example")
    report = (
        "From: MAILER-DAEMON@mx.slatepost.example\r\nSubject: failure notice\r\n\r\n"
        "<ada@slatepost.example>:\r\n550 5.1.1 There is nobody of that name here\r\n"
    )
    with smtplib.SMTP("127.0.0.1", port, timeout=20) as client:
        with pytest.raises(smtplib.SMTPRecipientsRefused):
            client.sendmail("", [back.replace("return+", "return+a", 1)], report)
        client.sendmail("", [back], report)
        client.sendmail(
            "ben@slatepost.example", ["walks@skarnmuseum.example"], "From: ben@slatepost.example\r\n\r\nHello"
        )

    def told(sql: str) -> list[tuple[object, ...]]:
        with museum.database.transaction() as tx:
            return [tuple(row) for row in run_sql(tx, sql)]

    # It is kept before anything is done about it.
    assert told("SELECT sender, acted_at FROM inbound_mail ORDER BY id") == [
        ("", None),
        ("ben@slatepost.example", None),
    ]
    world.start("worker")
    done = "SELECT kind, effect FROM inbound_mail WHERE acted_at IS NOT NULL ORDER BY id"
    until(lambda: len(told(done)) == 2, "the worker acting on both")
    assert told(done) == [("report", "suppressed"), ("reply", "nobody")]
    assert ("ada@slatepost.example", "hard_bounce") in told("SELECT address_folded, reason FROM suppression")
