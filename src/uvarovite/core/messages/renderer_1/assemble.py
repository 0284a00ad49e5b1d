"""A rendered message to the bytes that go on the wire (RFC 5322, MIME by RFC 2045 to 2049).

The same input gives the same bytes: date, Message-ID and boundary come from the envelope. What was sent can thus be
shown again byte for byte, without keeping a copy of every message.
"""

import hashlib
from email.message import EmailMessage
from email.policy import SMTP, SMTPUTF8
from email.utils import format_datetime

from uvarovite.core.inlay import header
from uvarovite.core.messages.envelope import Envelope, mailbox
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.values import wire_form


def assemble(message: RenderedMessage, envelope: Envelope) -> bytes:
    """The whole message with CRLF line ends, 7-bit unless an address itself needs SMTPUTF8 (RFC 6531)."""
    policy = SMTP if wire_form(envelope.to_address).isascii() else SMTPUTF8
    mail = EmailMessage(policy=policy)
    mail["From"] = mailbox(envelope.from_name, envelope.from_address)
    mail["To"] = mailbox(envelope.to_name, envelope.to_address)
    if envelope.reply_to:
        mail["Reply-To"] = mailbox("", envelope.reply_to)
    mail["Subject"] = header(message.subject)
    mail.set_content(message.text, subtype="plain", charset="utf-8", cte="quoted-printable")
    mail.add_alternative(message.html, subtype="html", charset="utf-8", cte="quoted-printable")
    digest = hashlib.sha256(envelope.message_id.encode()).hexdigest()[:24]
    mail.set_boundary(f"=_{digest}")
    return _fixed_headers(envelope) + mail.as_bytes(policy=policy)


def _fixed_headers(envelope: Envelope) -> bytes:
    """Headers that must stand as they are: the library would fold a long link as an encoded word."""
    lines = [f"Date: {format_datetime(envelope.date)}", f"Message-ID: <{envelope.message_id}>"]
    if envelope.list_id:
        lines.append(f"List-Id: <{envelope.list_id}>")
    if envelope.unsubscribe_url:
        lines.append(f"List-Unsubscribe: <{envelope.unsubscribe_url}>")
        lines.append("List-Unsubscribe-Post: List-Unsubscribe=One-Click")
    return "".join(f"{header(line)}\r\n" for line in lines).encode("ascii")
