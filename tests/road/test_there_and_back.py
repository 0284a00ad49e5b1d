"""The whole road: people are imported, written to over SMTP, come back by every way there is, and the clearance knows."""

import re
import smtplib
import threading
from collections.abc import Iterator
from email import message_from_bytes, policy
from email.message import EmailMessage
from pathlib import Path

import httpx
import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

from tests.road.test_a_run_with_people import let_go
from tests.support.dovecot import Dovecot, dovecot
from tests.support.museum import HASHER, KEYRING, PEOPLE, make_museum
from tests.support.ports import free_port
from tests.support.post import complaint, failure
from tests.support.postfix import postfix
from tests.support.processes import installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses.machines import SOONEST_HUMAN
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.imports.writing import import_file
from uvarovite.services.responses.of_runs import run_responses
from uvarovite.store.database import Database, run_sql

BROWSER = {"User-Agent": "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"}


class Provider:
    """Where everybody has their mailbox: it takes all, and keeps it with the sender of its envelope."""

    def __init__(self) -> None:
        self.came: dict[str, tuple[str, EmailMessage]] = {}
        self.lock = threading.Lock()

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        message = message_from_bytes(bytes(envelope.content or b""), policy=policy.default)
        with self.lock:
            self.came[envelope.rcpt_tos[0].partition("@")[0]] = (envelope.mail_from or "", message)
        return "250 2.0.0 Taken"

    def links(self, name: str) -> dict[str, str]:
        """Where a message leads, by what stands first in the path."""
        body = self.came[name][1].get_body(("html",))
        assert body is not None
        paths = re.findall(r"https?://[^/\"]+/([ourv]/[\w.-]+)", body.get_content())
        # The last that leads back is one that nobody sees.
        return {path[0]: f"/{path}" for path in reversed(paths)}


@pytest.fixture
def provider() -> Iterator[tuple[Provider, int]]:
    made = Provider()
    controller = Controller(made, hostname="127.0.0.1", port=free_port())
    controller.start()
    yield made, controller.port
    controller.stop()


@pytest.fixture(scope="module")
def imap() -> Iterator[Dovecot]:
    with dovecot() as made:
        yield made


def test_from_an_import_to_leaving_by_every_way_and_back_to_the_clearance(
    database: Database, tmp_path: Path, provider: tuple[Provider, int], imap: Dovecot
) -> None:
    people, port = provider
    museum = make_museum(database, smtp_port=port)
    access = imap.access
    mail = {"HOST": access.host, "PORT": access.port, "SECURITY": access.security, "USER": access.username}
    told = {f"UVAROVITE_MAILBOX_{key}": str(value) for key, value in mail.items()}
    with installation(database.url, tmp_path, **told, UVAROVITE_MAILBOX_PASSWORD=access.password) as world:
        world.start_web()
        world.start("receive")
        inbound = world.ports["inbound"]
        until(lambda: not port_is_free("127.0.0.1", inbound), "the listener")
        run_id = let_go(museum, world)
        world.start("worker")
        until(lambda: dispatch_view(database, SYSTEM, run_id, system_clock()).state == "ended", "the end of the run")
        assert set(people.came) == {"ada", "benoit", "zoe", "dai", "edda"}

        # Ada presses the button of her mail program.
        header = str(people.came["ada"][1]["List-Unsubscribe"])
        https = re.findall(r"<(http[^>]+)>", header)[0]
        one_click = {"List-Unsubscribe": "One-Click"}
        assert httpx.post(https, data=one_click, headers={"User-Agent": "MailApp/7"}).status_code == 200
        # Benoît's writes to the address instead, through a mail system that hands it on by LMTP.
        header = str(people.came["benoit"][1]["List-Unsubscribe"])
        address = re.findall(r"<mailto:([^?>]+)", header)[0]
        asks = EmailMessage()
        asks["From"], asks["To"], asks["Subject"] = "benoit@slatepost.example", address, "unsubscribe"
        asks.set_content("")
        with postfix(reports_to=inbound, refuses=free_port(), by_lmtp=True) as system:
            with smtplib.SMTP("127.0.0.1", system.port, timeout=20) as line:
                line.send_message(asks)

            def kinds() -> dict[str, int]:
                with database.transaction() as tx:
                    sql = "SELECT kind, count(*) AS n FROM inbound_mail WHERE acted_at IS NOT NULL GROUP BY 1"
                    return {row.kind: row.n for row in run_sql(tx, sql)}

            until(lambda: kinds() == {"leave": 1}, "the request to leave")
        # Zoe's mailbox is gone: that is told to a mailbox which is read by IMAP. Dai complains by way of the listener.
        imap.deliver(
            f"Return-Path: <>\nDelivered-To: {people.came['zoe'][0]}\n{failure('', address='zoe@slatepost.example')}".encode()
        )
        with smtplib.SMTP("127.0.0.1", inbound, timeout=20) as line:
            line.sendmail("", [people.came["dai"][0]], complaint("Subject: Walks\n\nDear friend").replace("\n", "\r\n"))
        until(lambda: kinds() == {"leave": 1, "report": 1, "complaint": 1}, "the report and the complaint")
        # Edda reads it, on the web too, follows a link, and wants one message a month.
        links = people.links("edda")
        with httpx.Client(base_url=world.web_url, headers=BROWSER) as browser:
            # Sooner than anybody reads, it would be a machine's.
            ready = system_clock() + SOONEST_HUMAN
            until(lambda: system_clock() > ready, "as long as it takes a message to be read")
            browser.get(links["o"])
            assert "Edda" in browser.get(links["v"]).text
            assert (
                browser.get(links["r"], follow_redirects=False)
                .headers["location"]
                .startswith("https://skarnmuseum.example")
            )
            page = f"{links['u']}/preferences"
            assert browser.get(page).status_code == 200
            browser.post(page, data={"save": "yes", "at_most": "month", "at_most_was": ""})

        def back() -> tuple[int, ...]:
            view = run_responses(database, SYSTEM, run_id, keyring=KEYRING)
            return view.opened, view.clicked, view.left, view.bounced, view.complained

        until(lambda: back() == (1, 1, 2, 1, 1), "everything to be counted")
    # Nobody of them is cleared now, each by the gate that it should be, and no file brings them back.
    import_file(
        database, SYSTEM, filename="again.csv", content=PEOPLE.encode(), topic="field_walks",
        legal_basis="The same list once more", now=system_clock(), hasher=HASHER,
    )  # fmt: skip
    clearance = museum.view(system_clock()).clearance
    assert clearance is not None
    assert clearance.cleared == 0
    assert {gate.key: gate.held for gate in clearance.gates if gate.held} == {
        # Ada with Gus, who shares her address, Benoît, and Hugh who had left before.
        "consent": 4,
        # Zoe and Dai, and two by hand before.
        "suppressed": 4,
        "own_limit": 1,
        "address": 1,
    }
