"""Mail that comes in to a museum whose run was accepted, as the tests write it."""

from datetime import timedelta

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.sending import send_all
from uvarovite.core.responses import Purpose, Token, TokenWriter, return_address, sign_token
from uvarovite.services.responses.inbound import act_on_next, take_in
from uvarovite.store.database import run_sql
from uvarovite.store.tables import InboundMail

WALKS = "walks@skarnmuseum.example"
ADA = "ada@slatepost.example"


class Post:
    """A museum whose run was accepted, and the mail that comes in for it."""

    def __init__(self, museum: Museum) -> None:
        self.museum = museum
        self.run_id = museum.release(NOW)
        send_all(museum, self.run_id)
        with museum.database.transaction() as tx:
            self.domain = run_sql(tx, "SELECT list_domain FROM organisation")[0].list_domain

    def delivery(self, contact_no: str = "M-01") -> int:
        return self.museum.delivery_id(self.run_id, contact_no)

    def back_to(self, contact_no: str = "M-01") -> str:
        return return_address(TokenWriter(KEYRING), self.delivery(contact_no), "bounces.example")

    def original(self, contact_no: str = "M-01", *, link: bool = False, message_id: bool = True) -> str:
        number = self.delivery(contact_no)
        told = f"From: {WALKS}\nTo: {ADA}\n"
        if message_id:
            told += f"Message-ID: <{self.run_id}.{number}.field_walks@{self.domain}>\n"
        if link:
            token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=number), KEYRING)
            told += f"List-Unsubscribe: <http://127.0.0.1:8040/l/{token}>\n"
        return f"{told}\nDear Ada"

    def comes(self, raw: str, *, to: str = WALKS, sender: str = "", hours: float = 1) -> InboundMail:
        """It is kept and acted on; what is known of it then."""
        at = NOW + timedelta(hours=hours)
        number = take_in(self.museum.database, raw=raw.encode(), sender=sender, recipients=[to], now=at)
        while act_on_next(self.museum.database, keyring=KEYRING, now=at):
            pass
        with self.museum.database.transaction() as tx:
            found = tx.get(InboundMail, number)
            assert found is not None
            return found

    def writes(self, raw: str, *, to: str = WALKS, sender: str = ADA) -> int:
        """Somebody writes; the number that it is kept under."""
        return self.comes(raw, to=to, sender=sender).id or 0

    def events(self) -> list[tuple[str, str]]:
        with self.museum.database.transaction() as tx:
            rows = run_sql(
                tx,
                "SELECT contact_no, kind FROM response_event JOIN contact ON contact.id = contact_id ORDER BY response_event.id",
            )
        return [(row.contact_no, row.kind) for row in rows]

    def listed(self) -> dict[str, str]:
        with self.museum.database.transaction() as tx:
            rows = run_sql(tx, "SELECT address_folded, reason FROM suppression WHERE reason <> 'by_hand'")
        return {row.address_folded: row.reason for row in rows}


def failure(
    original: str, *, status: str = "5.1.1", address: str = ADA, said: str = "550 user unknown", n: int = 0
) -> str:
    return (
        f"From: MAILER-DAEMON@mx.slatepost.example\nSubject: Undelivered {n}\nMIME-Version: 1.0\n"
        "Content-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: text/plain\n\nSorry.\n"
        f"--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx\n\nFinal-Recipient: rfc822; {address}\n"
        f"Action: failed\nStatus: {status}\nDiagnostic-Code: smtp; {said}\n\n--b\nContent-Type: message/rfc822\n\n{original}\n--b--\n"
    )


def complaint(original: str) -> str:
    return (
        "From: reports@slatepost.example\nSubject: FW\nMIME-Version: 1.0\n"
        "Content-Type: multipart/report; report-type=feedback-report; boundary=b\n\n--b\nContent-Type: text/plain\n\nAbuse.\n"
        f"--b\nContent-Type: message/feedback-report\n\nFeedback-Type: abuse\nOriginal-Rcpt-To: {ADA}\n\n--b\n"
        f"Content-Type: message/rfc822\n\n{original}\n--b--\n"
    )


def letter(text: str, *, sender: str = f"Ada <{ADA}>", subject: str = "Re: walks", about: str = "") -> str:
    answers = f"In-Reply-To: {about}\n" if about else ""
    return f"From: {sender}\nTo: {WALKS}\nSubject: {subject}\n{answers}\n{text}\n"
