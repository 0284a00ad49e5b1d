"""Mail that comes back over a real line, to a listener and a worker in processes of their own."""

import smtplib
from pathlib import Path

import pytest

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.processes import Installation, until
from tests.support.sending import send_all
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.core.responses import TokenWriter, return_address
from uvarovite.store.database import run_sql


@pytest.fixture
def world(museum: Museum, tmp_path: Path) -> Installation:
    return Installation(museum.database.url, tmp_path)


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
