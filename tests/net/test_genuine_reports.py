"""Reports as a real mail system writes them, taken in over a real line: each told for what it is."""

import smtplib
import threading
from collections.abc import Iterator
from email.message import EmailMessage

import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

from tests.support.exim import exim
from tests.support.museum import KEYRING
from tests.support.ports import free_port
from tests.support.postfix import CLOSED, FULL, REFUSED, UNKNOWN, postfix
from tests.support.processes import until
from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.responses import TokenWriter, read_return_address, return_address
from uvarovite.core.responses.inbound import Happened, MailKind, Weight, classify_mail


class Catching:
    """Keeps what comes: (sender, recipient, bytes)."""

    def __init__(self) -> None:
        self.kept: list[tuple[str, str, bytes]] = []
        self.lock = threading.Lock()

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        with self.lock:
            self.kept.append((envelope.mail_from or "", envelope.rcpt_tos[0], bytes(envelope.content or b"")))
        return "250 2.0.0 Kept"


class Refusing:
    """Refuses: one whom it does not know, one who may not be written to, and what is too large."""

    async def handle_RCPT(  # noqa: N802
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        if address.startswith("denied"):
            return "550 5.7.1 Relaying is denied"
        if address.startswith("large"):
            return "552 5.3.4 The message is larger than this mailbox takes"
        return "550 5.1.1 There is nobody of that name here"


@pytest.fixture(scope="module")
def catching() -> Catching:
    return Catching()


class Full:
    """A mailbox that is full, every time."""

    async def handle_RCPT(  # noqa: N802
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        return "452 4.2.2 The mailbox is full"


@pytest.fixture(scope="module")
def systems(catching: Catching) -> Iterator[dict[str, int]]:
    """The port of each mail system."""
    here, there, full = (
        Controller(one, hostname="127.0.0.1", port=free_port()) for one in (catching, Refusing(), Full())
    )
    for one in (here, there, full):
        one.start()
    with (
        postfix(reports_to=here.port, refuses=there.port) as first,
        exim(reports_to=here.port, refuses=there.port, full=full.port) as second,
    ):
        yield {"postfix": first.port, "exim": second.port}
    for one in (here, there, full):
        one.stop()


REPORTS = [
    ("postfix", f"ada.thwaite@{UNKNOWN}", Meaning.UNKNOWN_ADDRESS, Weight.HARD),
    ("postfix", f"somebody@{REFUSED}", Meaning.UNKNOWN_ADDRESS, Weight.HARD),
    ("postfix", f"somebody@{FULL}", Meaning.MAILBOX_FULL, Weight.NONE),
    ("postfix", f"denied@{REFUSED}", None, None),
    ("postfix", f"large@{REFUSED}", None, None),
    ("postfix", f"somebody@{CLOSED}", None, Weight.HARD),
    ("exim", f"ada.thwaite@{UNKNOWN}", Meaning.UNKNOWN_ADDRESS, Weight.HARD),
    ("exim", f"somebody@{REFUSED}", Meaning.UNKNOWN_ADDRESS, Weight.HARD),
    ("exim", f"somebody@{FULL}", Meaning.MAILBOX_FULL, Weight.NONE),
    ("exim", f"denied@{REFUSED}", None, None),
    ("exim", f"large@{REFUSED}", None, None),
]


@pytest.mark.parametrize(
    ("delivery", "system", "address", "meaning", "weight"),
    [(number, *told) for number, told in enumerate(REPORTS, 1)],
    ids=[f"{system} {address}" for system, address, _, _ in REPORTS],
)
def test_a_report_of_a_real_mail_system_is_told_for_what_it_is(
    systems: dict[str, int],
    catching: Catching,
    delivery: int,
    system: str,
    address: str,
    meaning: Meaning | None,
    weight: Weight | None,
) -> None:
    back = return_address(TokenWriter(KEYRING), delivery, "bounces.example")
    mail = EmailMessage()
    mail["From"], mail["To"], mail["Subject"] = "walks@skarnmuseum.example", address, "Two walks are open"
    mail["Message-ID"] = f"<7.{delivery}.field_walks@skarnmuseum.example>"
    mail.set_content("Dear Ada")
    with smtplib.SMTP("127.0.0.1", systems[system], timeout=20) as line:
        line.send_message(mail, from_addr=back, to_addrs=[address])

    def came() -> list[tuple[str, str, bytes]]:
        with catching.lock:
            return [one for one in catching.kept if read_return_address(one[1], KEYRING) == delivery]

    ((sender, _, raw),) = until(came, f"the report about {address}")
    told = classify_mail(raw, sender=sender)
    assert (told.kind, told.sign) == (MailKind.REPORT, "delivery_status")
    assert f"<7.{delivery}.field_walks@skarnmuseum.example>" in told.about
    (report,) = told.reports
    assert (report.address, report.happened) == (address, Happened.FAILED)
    if meaning is not None:
        assert report.meaning is meaning
    if weight is not None:
        assert report.weight is weight
    # What says that we may not, or that the message is too large, never says that somebody is gone.
    if weight is None:
        assert report.weight is not Weight.HARD
